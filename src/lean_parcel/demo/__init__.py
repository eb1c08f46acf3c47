"""The demo: made-up photographs that ship with the product, and what they are for."""

import json
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

from lean_parcel.core.aim import Aim
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.frame import Place

_FOLDER = resources.files("lean_parcel.demo")
#: What a first start of the demo opens with: texture, lettering, transparency.
OPENING = ("red-cup-blue-door.jpg", "speckled-glaze.jpg", "opening-hours.jpg", "bottle-cutout.png")


@dataclass(frozen=True, slots=True, kw_only=True)
class Sample:
    """A demo photo: file name, title, the difficulty it shows, and the aim it is meant for."""

    file: str
    title: str
    alt: str
    shows: str
    aim: Aim


@lru_cache
def samples() -> tuple[Sample, ...]:
    """All demo photos."""
    manifest = json.loads((_FOLDER / "manifest.json").read_text())
    return tuple(
        Sample(
            file=picture["file"],
            title=picture["title"],
            alt=picture["alt"],
            shows=picture["shows"],
            aim=Aim(
                place=Place(
                    css_width_px=picture["place"]["css_width_px"],
                    density=picture["place"]["density"],
                ),
                limit_bytes=picture["limit_bytes"],
            ),
        )
        for picture in manifest["pictures"]
    )


def sample(file: str) -> Sample:
    """One demo photo. Raises NotFoundError."""
    for candidate in samples():
        if candidate.file == file:
            return candidate
    raise NotFoundError(f"There is no demo photo “{file}”.")


def original(file: str) -> bytes:
    """A demo photo's bytes. Raises NotFoundError."""
    return (_FOLDER / sample(file).file).read_bytes()
