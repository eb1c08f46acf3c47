"""The photos that are measured: the demo's, framed."""

from importlib import resources

from lean_parcel.core.arrays import U8
from lean_parcel.core.frame import frame_photo
from lean_parcel.core.framing import Framing
from lean_parcel.core.photo import Limits
from lean_parcel.core.place import Place


def demo_files() -> dict[str, bytes]:
    """The demo's originals by name."""
    folder = resources.files("lean_parcel.demo")
    files = [file for file in folder.iterdir() if file.name.endswith((".jpg", ".png"))]
    return {file.name: file.read_bytes() for file in sorted(files, key=lambda file: file.name)}


def framed(data: bytes, name: str, css_width_px: int) -> U8:
    """Framed pixels of one photo."""
    place = Place(css_width_px=css_width_px)
    return frame_photo(data, name, Framing(), place, Limits()).pixels
