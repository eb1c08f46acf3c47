"""Drafts of a part: what an encode of a large picture comes to, estimated from bands across it.

A draft only chooses what is encoded whole, and bands in several places tell enough for that. Their
bytes are scaled as those of a probe are, and the better the file, the more as a PNG's. Their damage
is taken for that of the whole picture: what their likeness lacks to their own ceiling, the whole is
said to lack to its.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.encoding.encoders import (
    encode,
    optimised_png,
    probe_size_bytes,
    with_fewer_colours,
)
from lean_parcel.core.encoding.settings import EncoderSettings, PngSettings, WebpSettings
from lean_parcel.core.formats import Format
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.pixels import enlarged
from lean_parcel.core.picture.serialisation import decode, lossless_png
from lean_parcel.core.search.ladder import Rung

#: Pictures from here on are large, and drafted by a part that is at most so much of them.
_FROM_PX, _MOST_SHARE = 1_500_000, 0.6
#: How many bands there are at least, how many pixels of the framed picture they have together, and
#: in how many of its rows there is one: of three times 800 × 8,000 pixels of many pictures, one
#: below the other, bytes were off by 10.6 % with four bands of 128 rows, and by 5.2 % with sixteen
#: of 64; likeness by 3.3 and 2.4 points.
_LEAST_BANDS, _PART_PX, _ROWS_A_BAND = 4, 450_000, 512
#: Bands begin and end on blocks of the coders.
_BLOCK_PX = 64
#: How far the bytes of the whole grow over those of its bands as a PNG's do, rather than as a
#: probe's, by quality: the better a file, the more of its bytes go into grain. Of eleven
#: pictures at two pixel counts the root mean square error fell from 11 to 4 % for AVIF at 90, from
#: 10 to 3 % for JPEG at 95 and from 7 to 5 % for WebP at 97.
_PNG_SHARES: dict[Format, dict[int, float]] = {
    "jpeg": {40: 0.2, 88: 0.5},
    "webp": {80: 0.0, 97: 0.3},
    "avif": {40: 0.0, 90: 0.6},
    "png": {0: 1.0},
}


def has_part(full: Rung) -> bool:
    """Whether a picture is large enough to be drafted by a part of it, if it is opaque."""
    bands_px = _BLOCK_PX * _band_count(full.width_px, full.height_px)
    return full.width_px * full.height_px >= _FROM_PX and bands_px <= _MOST_SHARE * full.height_px


@dataclass(frozen=True, slots=True)
class _Undamaged:
    """What the bands come to before they are encoded."""

    ceiling: float
    probe_size_bytes: int
    quick_png_size_bytes: int

    def growth(self, rung: Rung, png_share: float) -> float:
        """How many times as many bytes the whole takes at a rung, given how far that is as of a
        PNG, rather than as of a probe."""
        as_probe = rung.probe_size_bytes / self.probe_size_bytes
        as_png = rung.quick_png_size_bytes / self.quick_png_size_bytes
        return float(as_probe ** (1 - png_share) * as_png**png_share)


class Part:
    """The bands of a framed picture, kept with what they come to undamaged."""

    def __init__(self, reference: Reference) -> None:
        self._reference = reference
        self._size_px = reference.size_px
        self._bands = _bands(*reference.size_px)
        self._original = Reference(
            _stacked(reference.pixels, self._bands), reference.gamut, reference.density
        )
        self._undamaged: dict[tuple[int, ...], _Undamaged] = {}

    def weigh(self, sent: U8, settings: EncoderSettings, rung: Rung) -> Measured:
        """What the picture is estimated to come to with settings, where these pixels are sent,
        8-bit (H, W, 3), or (H, W, 4) without transparency: those of a rung."""
        sent = sent[..., :3]
        rows = self._rows(sent)
        if sent.shape not in self._undamaged:
            self._undamaged[sent.shape] = self._measured_undamaged(sent, rows)
        undamaged = self._undamaged[sent.shape]
        if isinstance(settings, PngSettings):
            return self._weigh_png(sent, rows, settings, rung, undamaged)
        files = [encode(np.ascontiguousarray(sent[band]), settings) for band in rows]
        decoded = np.concatenate([decode(file) for file in files])
        likeness = self._likeness(sent, rows, decoded)
        times = undamaged.growth(rung, _png_share(settings))
        around_bytes = _around_bytes(settings)
        coded_bytes = sum(max(1, len(file) - around_bytes) for file in files)
        return Measured(
            size_bytes=round(coded_bytes * times) + around_bytes,
            likeness=rung.ceiling - (undamaged.ceiling - likeness),
        )

    def _weigh_png(
        self,
        sent: U8,
        rows: Sequence[slice],
        settings: PngSettings,
        rung: Rung,
        undamaged: _Undamaged,
    ) -> Measured:
        """The same of a PNG. What a palette damages is not where bands happen to lie, so that is
        measured of the whole; most of the time goes into the optimisation of bytes."""
        image = with_fewer_colours(sent, settings)
        shown = np.asarray(image.convert("RGB"))
        width_px = sent.shape[1]
        bands = Image.new(image.mode, (width_px, sum(band.stop - band.start for band in rows)))
        if image.mode == "P":
            bands.putpalette(image.getpalette("RGBA") or [], "RGBA")
        top_px = 0
        for band in rows:
            bands.paste(image.crop((0, band.start, width_px, band.stop)), (0, top_px))
            top_px += band.stop - band.start
        size_bytes = len(optimised_png(bands, settings.effort))
        times = undamaged.growth(rung, _png_share(settings))
        return Measured(
            size_bytes=round(size_bytes * times), likeness=self._reference.likeness(shown)
        )

    def _rows(self, sent: U8) -> list[slice]:
        """Where the bands lie among the pixels sent."""
        share = sent.shape[0] / self._size_px[1]
        return [slice(round(b.start * share), round(b.stop * share)) for b in self._bands]

    def _measured_undamaged(self, sent: U8, rows: Sequence[slice]) -> _Undamaged:
        stacked = _stacked(sent, rows)
        return _Undamaged(
            ceiling=self._likeness(sent, rows, stacked),
            probe_size_bytes=probe_size_bytes(stacked),
            quick_png_size_bytes=len(lossless_png(stacked)),
        )

    def _likeness(self, sent: U8, rows: Sequence[slice], decoded: U8) -> float:
        """The likeness of decoded bands in their place. Where they are enlarged, what is around
        them is as it was sent."""
        width_px, height_px = self._size_px
        if sent.shape[:2] != (height_px, width_px):
            around = sent.copy()
            start = 0
            for band in rows:
                end = start + band.stop - band.start
                around[band] = decoded[start:end]
                start = end
            decoded = _stacked(enlarged(around, width_px, height_px), self._bands)
        return self._original.likeness(decoded)


def _png_share(settings: EncoderSettings) -> float:
    """How far the bytes of an encode grow with the picture as those of a PNG do."""
    is_lossless = isinstance(settings, WebpSettings) and settings.lossless
    knots = _PNG_SHARES["png" if is_lossless else settings.format]
    at = 0 if isinstance(settings, PngSettings) else settings.quality
    return float(np.interp(at, list(knots), list(knots.values())))


@lru_cache(maxsize=256)
def _around_bytes(settings: EncoderSettings) -> int:
    """What a file has that does not grow with its pixels."""
    return len(encode(np.full((16, 16, 3), 128, np.uint8), settings))


def _bands(width_px: int, height_px: int) -> list[slice]:
    """The rows of the bands, evenly spread."""
    count = _band_count(width_px, height_px)
    middles = (np.arange(count) + 0.5) * height_px / count
    starts = np.rint((middles - _BLOCK_PX / 2) / _BLOCK_PX).astype(int) * _BLOCK_PX
    return [slice(start, start + _BLOCK_PX) for start in starts.tolist()]


def _band_count(width_px: int, height_px: int) -> int:
    by_area, by_height = _PART_PX / width_px / _BLOCK_PX, height_px / _ROWS_A_BAND
    return max(_LEAST_BANDS, round(by_area), round(by_height))


def _stacked(pixels: U8, bands: Sequence[slice]) -> U8:
    """The rows of bands, one below the other."""
    return np.ascontiguousarray(np.concatenate([pixels[band] for band in bands]))
