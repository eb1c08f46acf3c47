"""What runs in a worker process: pure functions of their arguments, which travel as plain values.

A worker keeps the reference it prepared last, by content, since the tasks of one search all compare
with the same one; that changes how long a task takes and never what it returns.
"""

import io
import math
import os
import resource
import time
from collections import OrderedDict
from dataclasses import dataclass, replace

import numpy as np
import pyvips
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.encode import (
    Format,
    JpegSettings,
    block_costs,
    encode,
    probe_size_bytes,
)
from lean_parcel.core.errors import UsageError
from lean_parcel.core.findings import Finding, find
from lean_parcel.core.frame import frame_photo, open_pixels, reduce
from lean_parcel.core.framing import Framing, Gamut, MetadataPolicy, Sharpen
from lean_parcel.core.likeness import Reference
from lean_parcel.core.metadata import (
    NO_BLOCKS,
    POLICIES,
    Blocks,
    Credit,
    blocks_for,
    find_credit,
    read_carried,
)
from lean_parcel.core.orientation import Box, shown
from lean_parcel.core.photo import (
    PROFILE,
    Limits,
    Source,
    in_gamut,
    open_photo,
    orientation_of,
    profile_of,
    reading,
)
from lean_parcel.core.pixels import decode, enlarged, is_grey, is_opaque, over_background
from lean_parcel.core.place import Place
from lean_parcel.core.plan import Plan
from lean_parcel.core.resample import resampled
from lean_parcel.core.sharpen import sharpened
from lean_parcel.core.trial import PIXEL_RATIOS, Measured, Rung, Subject, Trial
from lean_parcel.core.trim import find_margins

#: References kept prepared: one for the photo at hand and one for the one before.
_REFERENCES_KEPT = 2
_THUMBNAIL_WIDTH_PX = 168
_PREVIEW_PX = 1280
#: Sigmas after which a Gaussian of 8-bit samples adds nothing.
_GAUSSIAN_REACH = 4
_MAX_MARGIN_PIXELS = 30_000_000
_NICENESS = 10
#: Rungs end here: a smaller picture than this is no help to anybody.
_MIN_RUNG_WIDTH_PX = 16


@dataclass(frozen=True, slots=True, kw_only=True)
class FramedFiles:
    """A framed photo: lossless pixels before (`plain`) and after sharpening, what a search has to
    know, and a small picture."""

    source: Source
    plan: Plan
    subject: Subject
    plain_png: bytes
    pixels_png: bytes
    thumbnail_webp: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspected:
    """What was found in an original: words, whom to name, a reduced copy, and for each metadata
    policy what it lets through and what that adds to a file of each format."""

    findings: tuple[Finding, ...]
    credit: Credit
    preview_webp: bytes
    blocks: dict[MetadataPolicy, Blocks]
    costs: dict[MetadataPolicy, dict[Format, int]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """What is to be encoded: lossless framed pixels, and what travels with them."""

    pixels_png: bytes
    gamut: Gamut = "srgb"
    blocks: Blocks = NO_BLOCKS


@dataclass(frozen=True, slots=True, kw_only=True)
class Encoded:
    """A file, what was measured of it, and the milliseconds its encoder took."""

    data: bytes
    measured: Measured
    encode_ms: float


def start_worker(max_memory_bytes: int) -> None:
    """Runs first in a worker: bounds its memory, lets the server and the browser go first, and
    loads the compiled kernels."""
    os.nice(_NICENESS)
    resource.setrlimit(resource.RLIMIT_AS, (max_memory_bytes, max_memory_bytes))
    pyvips.concurrency_set(1)
    pyvips.cache_set_max(0)
    warm_up()


def warm_up() -> None:
    """Compiles the kernels where their cache is empty: some 15 s, once a machine."""
    black = np.zeros((16, 16, 3), np.uint8)
    Reference(black).likeness(black + 1)
    over_background(np.zeros((16, 16, 4), np.uint8), "#ffffff")
    resampled(black, 8, 8, "lanczos3", "linear")
    resampled(black.astype(np.uint16), 8, 8, "lanczos3", "linear")


def frame_task(
    data: bytes, name: str, framing: Framing, place: Place, limits: Limits
) -> FramedFiles:
    """Opens and frames a photo, which `size_up_task` then sizes up. Raises a PhotoError, or a
    UsageError as `plan_framing` does."""
    framed = frame_photo(data, name, framing, place, limits)
    pixels = framed.pixels
    profile = profile_of(framing.gamut)
    png = lossless_png(pixels, profile)
    height_px, width_px = pixels.shape[:2]
    full = Rung(
        width_px=width_px,
        height_px=height_px,
        probe_size_bytes=probe_size_bytes(pixels),
        quick_png_size_bytes=len(png),
        ceiling=100.0,
    )
    return FramedFiles(
        source=framed.source,
        plan=framed.plan,
        subject=Subject(
            rungs=(full,),
            is_transparent=not is_opaque(pixels),
            is_sized_up=False,
        ),
        plain_png=png if framed.plain is pixels else lossless_png(framed.plain, profile),
        pixels_png=png,
        thumbnail_webp=_small_webp(pixels, _THUMBNAIL_WIDTH_PX, profile),
    )


def size_up_task(load: Load, subject: Subject) -> Subject:
    """Finds out what fewer pixels can come to, the rungs below the first, and whether there is any
    colour, which no first encode depends on."""
    reference = _reference(load)
    full = subject.rungs[0]
    widths_px = [round(full.width_px * ratio) for ratio in PIXEL_RATIOS[1:]]
    fewer = tuple(
        _rung(reference, width_px, max(1, round(full.height_px * width_px / full.width_px)))
        for width_px in widths_px
        if width_px >= _MIN_RUNG_WIDTH_PX
    )
    return replace(
        subject,
        rungs=(full, *fewer),
        is_grey=is_grey(reference.pixels),
        is_sized_up=True,
    )


def inspect_task(data: bytes, name: str, credit: Credit, limits: Limits) -> Inspected:
    """Looks into an original; a credit that came with it is used where the file has none. Raises a
    PhotoError."""
    source, image = open_photo(data, name, limits)
    carried = read_carried(data, source.format)
    found = find_credit(carried)
    credit = found if found.line else credit
    with reading(name):
        preview = _preview(data, name, limits, source)
    blocks = {policy: blocks_for(policy, carried, credit) for policy in POLICIES}
    return Inspected(
        findings=find(data, source, orientation_of(image), carried, credit, preview),
        credit=credit,
        preview_webp=_small_webp(preview, preview.shape[1], b""),
        blocks=blocks,
        costs={policy: block_costs(several) for policy, several in blocks.items()},
    )


def margins_task(data: bytes, name: str, orientation: int, limits: Limits) -> Box | None:
    """What lies inside a photo's empty margins, in the turned picture; to the pixel up to
    `_MAX_MARGIN_PIXELS`, and to a few pixels beyond. Raises a PhotoError."""
    pixels = open_pixels(data, name, limits)
    step = 1 + int((pixels.shape[0] * pixels.shape[1] / _MAX_MARGIN_PIXELS) ** 0.5)
    box = find_margins(shown(pixels[::step, ::step], orientation))
    if box is None or step == 1:
        return box
    height_px, width_px = shown(pixels[:, :, :1], orientation).shape[:2]
    left_px, top_px = box.left_px * step, box.top_px * step
    return Box(
        left_px=left_px,
        top_px=top_px,
        width_px=min(width_px - left_px, box.width_px * step),
        height_px=min(height_px - top_px, box.height_px * step),
    )


def encode_task(load: Load, trial: Trial) -> Encoded:
    """Encodes framed pixels, decodes the file again, and measures it in its place."""
    reference = _reference(load)
    sent = reduce(reference.pixels, trial.width_px, trial.height_px)
    start = time.perf_counter()
    data = encode(sent, trial.settings, load.blocks)
    encode_ms = (time.perf_counter() - start) * 1000
    background = trial.settings.background if isinstance(trial.settings, JpegSettings) else None
    likeness = reference.likeness(decode(data), background)
    return Encoded(
        data=data,
        measured=Measured(size_bytes=len(data), likeness=likeness),
        encode_ms=encode_ms,
    )


def keep_task(load: Load, original: bytes, name: str, limits: Limits) -> float | None:
    """The likeness of an original that is kept as it came to its framed pixels; None where it is
    more than one picture. Raises a PhotoError."""
    with Image.open(io.BytesIO(original)) as image:
        if getattr(image, "n_frames", 1) > 1:
            return None
    return _reference(load).likeness(open_pixels(original, name, limits, load.gamut))


def likeness_task(
    reference: bytes, reference_name: str, candidate: bytes, candidate_name: str, limits: Limits
) -> float:
    """The likeness of one file to another of the same shape. Raises a PhotoError or UsageError."""
    original = open_pixels(reference, reference_name, limits)
    return Reference(original).likeness(open_pixels(candidate, candidate_name, limits))


_references: OrderedDict[bytes, Reference] = OrderedDict()


def _reference(load: Load) -> Reference:
    """The prepared reference of lossless pixels, from the few kept or made anew."""
    key = load.pixels_png
    if key not in _references:
        _references[key] = Reference(decode(load.pixels_png), load.gamut)
    _references.move_to_end(key)
    while len(_references) > _REFERENCES_KEPT:
        _references.popitem(last=False)
    return _references[key]


def _rung(reference: Reference, width_px: int, height_px: int) -> Rung:
    sent = reduce(reference.pixels, width_px, height_px)
    return Rung(
        width_px=width_px,
        height_px=height_px,
        probe_size_bytes=probe_size_bytes(sent),
        quick_png_size_bytes=len(lossless_png(sent)),
        ceiling=reference.likeness(enlarged(sent, *reference.size_px)),
    )


def lossless_png(pixels: U8, profile: bytes = b"") -> bytes:
    """PNG made for speed: it is kept, sent to the browser, and tells how well a photo deflates."""
    return bytes(_tagged(pixels, profile).pngsave_buffer(compression=1, filter="sub", keep="icc"))


def sharpened_png(plain_png: bytes, sharpen: Sharpen, box: Box) -> bytes:
    """A part of our own lossless pixels, sharpened; what lies outside is cut off."""
    image = pyvips.Image.new_from_buffer(plain_png, "", access="sequential")
    profile = bytes(image.get(PROFILE)) if PROFILE in image.get_fields() else b""
    right_px = min(box.left_px + box.width_px, image.width)
    bottom_px = min(box.top_px + box.height_px, image.height)
    if box.left_px >= right_px or box.top_px >= bottom_px:
        raise UsageError("This part lies outside the picture.", "invalid_crop")
    reach_px = math.ceil(_GAUSSIAN_REACH * sharpen.radius_px)
    left_px, top_px = max(0, box.left_px - reach_px), max(0, box.top_px - reach_px)
    around = image.crop(
        left_px,
        top_px,
        min(right_px + reach_px, image.width) - left_px,
        min(bottom_px + reach_px, image.height) - top_px,
    )
    part = sharpened(np.asarray(around.numpy()), sharpen)[
        box.top_px - top_px : bottom_px - top_px, box.left_px - left_px : right_px - left_px
    ]
    return lossless_png(np.ascontiguousarray(part), profile)


def _small_webp(pixels: U8, width_px: int, profile: bytes) -> bytes:
    """A lossy picture of at most this width, to be looked at only."""
    height_px, full_px = pixels.shape[:2]
    small_px = min(full_px, width_px)
    small = reduce(pixels, small_px, max(1, round(height_px * small_px / full_px)))
    return bytes(_tagged(small, profile).webpsave_buffer(Q=82, effort=2, keep="icc"))


def _tagged(pixels: U8, profile: bytes) -> pyvips.Image:
    image = pyvips.Image.new_from_array(pixels).copy(interpretation="srgb")
    if profile:
        image.set_type(pyvips.GValue.blob_type, PROFILE, profile)
    return image


def _preview(data: bytes, name: str, limits: Limits, source: Source) -> U8:
    """The whole photo, upright, on at most `_PREVIEW_PX` a side; decoded at a fraction of its
    pixels where its format can be."""
    if source.format == "heic":
        pixels = open_pixels(data, name, limits)
        ratio = min(1.0, _PREVIEW_PX / max(pixels.shape[:2]))
        width_px, height_px = (max(1, round(side * ratio)) for side in pixels.shape[1::-1])
        return reduce(pixels, width_px, height_px)
    small = pyvips.Image.thumbnail_buffer(data, _PREVIEW_PX, height=_PREVIEW_PX, size="down")
    return np.asarray(in_gamut(small, "srgb").colourspace("srgb").numpy())
