"""The photos that are measured: the demo's, and synthetic ones of 12 megapixels."""

import io
from importlib import resources

import numpy as np
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import probe_size_bytes
from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.search.ladder import Rung


def demo_files() -> dict[str, bytes]:
    """The demo's originals by name."""
    folder = resources.files("lean_parcel.demo")
    files = [file for file in folder.iterdir() if file.name.endswith((".jpg", ".png"))]
    return {file.name: file.read_bytes() for file in sorted(files, key=lambda file: file.name)}


def framed(data: bytes, name: str, css_width_px: int) -> U8:
    """Framed pixels of one photo."""
    place = Place(size=str(css_width_px))
    return frame_photo(data, name, Framing(), place, Limits()).pixels


def rung_of(pixels: U8) -> Rung:
    """What a search knows of all the pixels there are."""
    height_px, width_px = pixels.shape[:2]
    return Rung(
        width_px=width_px,
        height_px=height_px,
        probe_size_bytes=probe_size_bytes(pixels),
        quick_png_size_bytes=len(lossless_png(pixels)),
        ceiling=100.0,
    )


def synthetic_files() -> dict[str, bytes]:
    """What photos seldom are, and designers have: a smooth gradient, nothing but grain, and hard
    coloured edges."""
    height_px, width_px = 3000, 4000
    y, x = np.mgrid[0:height_px, 0:width_px].astype(np.float32)
    ramp = np.stack([x / width_px, y / height_px, (x + y) / (width_px + height_px)], 2) * 255
    grain = np.random.default_rng(1).normal(128, 40, (height_px, width_px, 3))
    bars = (x // 190 + y // 130) % 2
    discs = np.hypot((x % 400) - 200, (y % 400) - 200) < 120
    edges = np.stack([230 * bars, 200 * discs, 255 - 255 * bars * discs], 2)
    return {
        "smooth gradient": _jpeg(ramp),
        "nothing but grain": _jpeg(grain),
        "coloured edges": _jpeg(edges),
    }


def _jpeg(values: np.ndarray) -> bytes:
    out = io.BytesIO()
    pixels = np.clip(values, 0, 255).astype(np.uint8)
    Image.fromarray(pixels).save(out, "JPEG", quality=95, subsampling="4:4:4")
    return out.getvalue()
