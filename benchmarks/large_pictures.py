"""Large pictures in four formats: seconds as they are searched, briefly and surveyed by a part,
against the search of any other picture, and what that costs in likeness."""

import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from unittest.mock import patch

import numpy as np

from benchmarks.fitting import fit_file
from benchmarks.photos import demo_files
from benchmarks.pictures import foliage
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.work.packing.one_file import FileFit

BANNER = Aim(place=Place(size="1440 × 600", density=2), limit_bytes=220_000)
FULL_WIDTH = Aim(place=Place(size="1600"), limit_bytes=200_000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A picture: seconds of encodes of the whole, by the clock, and CPU seconds in all, searched as
    a large one and as any other; and the likeness that the former wins, by format."""

    picture: str
    encodes_s: tuple[float, float]
    cpu_s: tuple[float, float]
    won: dict[Format, float]


def measure() -> list[Row]:
    """A banner of the demo, and 1.7 megapixels full of leaves."""
    grove = np.concatenate(
        [np.concatenate([foliage(4 * row + column) for column in range(4)], 1) for row in range(3)]
    )
    files = demo_files()
    return [
        _measured("dusk-window.jpg", files["dusk-window.jpg"], BANNER),
        _measured("foliage.png", lossless_png(np.ascontiguousarray(grove)), FULL_WIDTH),
        _measured("speckled-glaze.jpg", files["speckled-glaze.jpg"], FULL_WIDTH),
    ]


def _measured(name: str, data: bytes, aim: Aim) -> Row:
    brief, brief_s = _fitted(name, data, aim)
    with patch("lean_parcel.core.search.search.has_part", lambda full: False):
        usual, usual_s = _fitted(name, data, aim)
    return Row(
        picture=name,
        encodes_s=(_encodes_s(brief), _encodes_s(usual)),
        cpu_s=(brief_s, usual_s),
        won={each: _likeness(brief, each) - _likeness(usual, each) for each in FORMATS},
    )


def _fitted(name: str, data: bytes, aim: Aim) -> tuple[FileFit, float]:
    """What is found, and the CPU seconds of this process."""
    with ThreadPoolExecutor(1) as executor:
        start = time.process_time()
        fit = fit_file(executor, name, data, aim, slots=1)
        return fit, time.process_time() - start


def _encodes_s(fit: FileFit) -> float:
    return sum(encode.encode_ms for encode in fit.made) / 1000


def _likeness(fit: FileFit, name: Format) -> float:
    return next(
        offer.encode.measured.likeness
        for offer in fit.offers
        if offer.encode.trial.settings.format == name
    )
