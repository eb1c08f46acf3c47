"""What runs in a worker process: pure functions of their arguments, which travel as plain values.

A worker keeps the reference it prepared last, by content, since the tasks of one search all compare
with the same one; that changes how long a task takes and never what it returns.
"""

import hashlib
import os
import resource
import time
from collections import OrderedDict
from dataclasses import dataclass

import numpy as np
import pyvips

from lean_parcel.core.arrays import U8
from lean_parcel.core.encode import JpegSettings, encode, probe_size_bytes
from lean_parcel.core.fit import PIXEL_RATIOS, Measured, Rung, Subject, Trial
from lean_parcel.core.frame import Place, frame_photo, open_pixels, reduce
from lean_parcel.core.likeness import Reference
from lean_parcel.core.photo import Limits, Source
from lean_parcel.core.pixels import decode, enlarged, is_opaque

#: References kept prepared: one for the photo at hand and one for the one before.
_REFERENCES_KEPT = 2
_THUMBNAIL_WIDTH_PX = 168
_NICENESS = 10
#: Rungs end here: a smaller picture than this is no help to anybody.
_MIN_RUNG_WIDTH_PX = 16


@dataclass(frozen=True, slots=True, kw_only=True)
class Framed:
    """A photo in its place: lossless pixels, what a search has to know, and a small picture."""

    source: Source
    subject: Subject
    pixels_png: bytes
    thumbnail_webp: bytes


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
    """Compiles the kernels of likeness where their cache is empty: some 10 s, once a machine."""
    black = np.zeros((16, 16, 3), np.uint8)
    Reference(black).likeness(black + 1)


def frame_task(data: bytes, name: str, place: Place, limits: Limits) -> Framed:
    """Opens, frames and sizes up a photo. Raises a PhotoError."""
    source, pixels = frame_photo(data, name, place, limits)
    png = lossless_png(pixels)
    reference = _reference(png, pixels)
    height_px, width_px = pixels.shape[:2]
    widths_px = [round(width_px * ratio) for ratio in PIXEL_RATIOS]
    subject = Subject(
        rungs=tuple(
            _rung(reference, rung_px, max(1, round(height_px * rung_px / width_px)))
            for rung_px in (width_px, *(w for w in widths_px[1:] if w >= _MIN_RUNG_WIDTH_PX))
        ),
        is_transparent=not is_opaque(pixels),
        quick_png_size_bytes=len(png),
    )
    return Framed(
        source=source, subject=subject, pixels_png=png, thumbnail_webp=_thumbnail_webp(pixels)
    )


def encode_task(pixels_png: bytes, trial: Trial) -> Encoded:
    """Encodes framed pixels, decodes the file again, and measures it in its place."""
    reference = _reference(pixels_png)
    sent = reduce(reference.pixels, trial.width_px, trial.height_px)
    start = time.perf_counter()
    data = encode(sent, trial.settings)
    encode_ms = (time.perf_counter() - start) * 1000
    background = trial.settings.background if isinstance(trial.settings, JpegSettings) else None
    likeness = reference.likeness(decode(data), background)
    return Encoded(
        data=data,
        measured=Measured(size_bytes=len(data), likeness=likeness),
        encode_ms=encode_ms,
    )


def likeness_task(
    reference: bytes, reference_name: str, candidate: bytes, candidate_name: str, limits: Limits
) -> float:
    """The likeness of one file to another of the same shape. Raises a PhotoError or UsageError."""
    original = open_pixels(reference, reference_name, limits)
    return Reference(original).likeness(open_pixels(candidate, candidate_name, limits))


_references: OrderedDict[bytes, Reference] = OrderedDict()


def _reference(pixels_png: bytes, pixels: U8 | None = None) -> Reference:
    """The prepared reference of lossless pixels, from the few kept or made anew."""
    key = hashlib.sha256(pixels_png).digest()
    if key not in _references:
        _references[key] = Reference(decode(pixels_png) if pixels is None else pixels)
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
        ceiling=reference.likeness(enlarged(sent, *reference.size_px)),
    )


def lossless_png(pixels: U8) -> bytes:
    """PNG made for speed: it is kept, sent to the browser, and tells how well a photo deflates."""
    image = pyvips.Image.new_from_array(pixels).copy(interpretation="srgb")
    return bytes(image.pngsave_buffer(compression=1, filter="sub", keep="none"))


def _thumbnail_webp(pixels: U8) -> bytes:
    height_px, width_px = pixels.shape[:2]
    small_px = min(width_px, _THUMBNAIL_WIDTH_PX)
    small = reduce(pixels, small_px, max(1, round(height_px * small_px / width_px)))
    image = pyvips.Image.new_from_array(small).copy(interpretation="srgb")
    return bytes(image.webpsave_buffer(Q=80, keep="none"))
