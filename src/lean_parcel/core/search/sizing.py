"""Measuring the ladder of a framed photo."""

from dataclasses import replace

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import probe_size_bytes
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.pixels import enlarged, is_grey, is_opaque
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.search.ladder import PIXEL_RATIOS, Rung, SearchInput

#: Rungs end here: a smaller picture is of no use.
_MIN_WIDTH_PX = 16


def first_input(pixels: U8, png_size_bytes: int) -> SearchInput:
    """What the first encode needs: the rung of all pixels, given their size as a lossless PNG.
    About 30 ms a megapixel."""
    height_px, width_px = pixels.shape[:2]
    rung = Rung(
        width_px=width_px,
        height_px=height_px,
        probe_size_bytes=probe_size_bytes(pixels),
        quick_png_size_bytes=png_size_bytes,
        ceiling=100.0,
    )
    return SearchInput(
        rungs=(rung,),
        is_transparent=not is_opaque(pixels),
        is_grey=is_grey(pixels),
        is_measured=False,
    )


def measured_input(reference: Reference, first: SearchInput) -> SearchInput:
    """The same with every rung measured. About 0.3 s a megapixel."""
    full = first.rungs[0]
    widths_px = [round(full.width_px * ratio) for ratio in PIXEL_RATIOS[1:]]
    fewer = tuple(
        _rung(reference, width_px, max(1, round(full.height_px * width_px / full.width_px)))
        for width_px in widths_px
        if width_px >= _MIN_WIDTH_PX
    )
    return replace(first, rungs=(full, *fewer), is_measured=True)


def _rung(reference: Reference, width_px: int, height_px: int) -> Rung:
    sent = reduce(reference.pixels, width_px, height_px)
    return Rung(
        width_px=width_px,
        height_px=height_px,
        probe_size_bytes=probe_size_bytes(sent),
        quick_png_size_bytes=len(lossless_png(sent)),
        ceiling=reference.likeness(enlarged(sent, *reference.size_px)),
    )
