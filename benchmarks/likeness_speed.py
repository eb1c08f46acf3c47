"""Likeness against the `ssimulacra2` package: seconds a comparison, and how far they are apart."""

import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image
from ssimulacra2 import compute_ssimulacra2

from benchmarks.photos import framed
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.serialisation import decode

WIDTH_PX, WHOLE_PX = 1000, 32
TIMES = 5


@dataclass(frozen=True, slots=True)
class Row:
    """Seconds to prepare a reference, to compare once, and of the package; and both scores."""

    prepare_s: float
    compare_s: float
    package_s: float
    ours: float
    package: float


def measure(photo: bytes, name: str) -> Row:
    """One photo at WIDTH_PX, cut to whole multiples of WHOLE_PX, at which both mean the
    same, against a JPEG of it; the package reads lossless files."""
    pixels = framed(photo, name, WIDTH_PX)
    height_px, width_px = (side // WHOLE_PX * WHOLE_PX for side in pixels.shape[:2])
    pixels = np.ascontiguousarray(pixels[:height_px, :width_px])
    candidate = decode(encode(pixels, JpegSettings(quality=60, chroma="4:2:0")))
    Reference(pixels[:64, :64]).likeness(candidate[:64, :64])  # loads the kernels
    reference = Reference(pixels)
    start = time.perf_counter()
    ours = reference.likeness(candidate)
    first_s = time.perf_counter() - start
    start = time.perf_counter()
    for _ in range(TIMES):
        reference.likeness(candidate)
    compare_s = (time.perf_counter() - start) / TIMES
    with tempfile.TemporaryDirectory() as folder:
        paths = [Path(folder) / "reference.png", Path(folder) / "candidate.png"]
        for path, picture in zip(paths, (pixels, candidate), strict=True):
            Image.fromarray(picture).save(path)
        start = time.perf_counter()
        package = float(compute_ssimulacra2(*map(str, paths)))
        package_s = time.perf_counter() - start
    return Row(first_s - compare_s, compare_s, package_s, ours, package)
