"""Damage of known kinds and places: how often the right kind is named first, the right area hit,
whether strength rises and means the same for every kind; how strong re-encodes are; and what
examining costs beside the likeness alone. `python -m benchmarks.damage` prints it.

The measures' constants were set on the demo photos; the made-up pictures show what is still wrong.
"""

import time
from collections import defaultdict
from dataclasses import dataclass

import cv2
import numpy as np
from rich.console import Console
from rich.table import Table

from benchmarks.damage_injections import Case, cases
from benchmarks.photos import demo_files, framed
from benchmarks.pictures import pictures
from lean_parcel.core.arrays import U8
from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.damage.found import Damage
from lean_parcel.core.damage.kinds import KINDS
from lean_parcel.core.damage.spots import TroubleSpot, trouble_spots
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    JpegSettings,
    PngSettings,
    Settings,
    WebpSettings,
)
from lean_parcel.core.likeness.levels import NO_CHANGE
from lean_parcel.core.likeness.reference import LIGHT, Reference
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.pixels import over_background
from lean_parcel.core.picture.serialisation import decode

WIDTH_PX = 800
#: From this likeness of the damaged area on no change is visible, and there is nothing to find.
#: Banding is not judged by it, since it hardly sees banding.
_UNSEEN = NO_CHANGE
_TIMES = 5
#: Bands of likeness by which strengths are compared.
_LIKENESSES = ((85.0, 90.0), (70.0, 85.0), (50.0, 70.0), (0.0, 50.0))
_WHOLE_LIKENESSES = ((92, 101), (90, 92), (80, 90), (70, 80), (50, 70), (-1000, 50))
_SETTINGS: tuple[Settings, ...] = (
    *(JpegSettings(quality=quality, chroma="4:2:0") for quality in (97, 90, 80, 60, 30)),
    *(JpegSettings(quality=quality, chroma="4:4:4") for quality in (97, 95, 93)),
    *(WebpSettings(quality=quality) for quality in (98, 90, 70, 30)),
    *(AvifSettings(quality=quality, chroma="4:4:4") for quality in (95, 90)),
    *(AvifSettings(quality=quality, chroma="4:2:0") for quality in (90, 70, 45, 25)),
    *(PngSettings(colours=colours) for colours in (256, 64, 16)),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A way of damage over all pictures: cases, those named and placed right, series of three
    strengths, and those that rise."""

    kind: str
    way: str
    cases: int
    named: int
    placed: int
    series: int
    rising: int


@dataclass(frozen=True, slots=True)
class Examined:
    """A case and what was found of it."""

    case: Case
    damage: Damage
    spots: list[TroubleSpot]
    area_likeness: float

    @property
    def is_named(self) -> bool:
        """Whether the right kind is named first."""
        return bool(self.spots) and self.spots[0].kind == self.case.kind

    @property
    def is_placed(self) -> bool:
        """Whether the middle of the first spot lies in the damaged area."""
        return bool(self.spots) and _is_hit(self.case.area, self.spots[0].box)

    @property
    def strength(self) -> float:
        """That of the kind of the case, over the whole picture."""
        return {str(kind): strength for kind, strength in self.damage.strengths.items()}[
            self.case.kind
        ]


def demo_pictures() -> dict[str, U8]:
    """The demo photos on a light backdrop."""
    return {
        name: np.ascontiguousarray(over_background(framed(data, name, WIDTH_PX), LIGHT))
        for name, data in demo_files().items()
    }


def made_up_pictures() -> dict[str, U8]:
    """Made-up pictures that have something to lose."""
    return {
        name: picture
        for name, picture in pictures().items()
        if name.split()[0] in ("noise", "gradient", "foliage", "lettering", "screen")
    }


def measure(chosen: dict[str, U8]) -> list[Examined]:
    """Every way of damage in every picture."""
    found = []
    for name, picture in chosen.items():
        examiner = Examiner(Reference(picture))
        found += [examined(examiner, case) for case in cases(name, picture) if is_seen(case)]
    return found


def rows(found: list[Examined]) -> list[Row]:
    """What was found, by way of damage."""
    series: dict[tuple[str, str], dict[str, list[Examined]]] = defaultdict(
        lambda: defaultdict(list)
    )
    for one in found:
        series[one.case.kind, one.case.way][one.case.picture].append(one)
    return [_row(kind, way, list(each.values())) for (kind, way), each in series.items()]


def examined(examiner: Examiner, case: Case) -> Examined:
    """What is found of a case."""
    damage = examiner.examine(case.damaged)
    spots = trouble_spots(damage, examiner.reference.size_px)
    return Examined(case, damage, spots, _area_likeness(case))


def is_seen(case: Case) -> bool:
    """Whether there is something to be seen in the damaged area."""
    if case.kind == "banding":
        return not np.array_equal(case.original, case.damaged)
    return _area_likeness(case) < _UNSEEN


def _area_likeness(case: Case) -> float:
    area = case.area
    part = np.s_[
        area.top_px : area.top_px + area.height_px, area.left_px : area.left_px + area.width_px
    ]
    original, damaged = (np.ascontiguousarray(p[part]) for p in (case.original, case.damaged))
    return Reference(original).likeness(damaged)


def _is_hit(area: Box, box: Box) -> bool:
    x, y = box.left_px + box.width_px / 2, box.top_px + box.height_px / 2
    return (
        area.left_px <= x < area.left_px + area.width_px
        and area.top_px <= y < area.top_px + area.height_px
    )


def _row(kind: str, way: str, series: list[list[Examined]]) -> Row:
    every = [one for steps in series for one in steps]
    longer = [[one.strength for one in steps] for steps in series if len(steps) > 1]
    return Row(
        kind=kind,
        way=way,
        cases=len(every),
        named=sum(one.is_named for one in every),
        placed=sum(one.is_placed for one in every),
        series=len(longer),
        rising=sum(bool(np.all(np.diff(strengths) > 0)) for strengths in longer),
    )


def cost_ratio() -> float:
    """Seconds to examine a candidate of one megapixel, likeness included, over those of the
    likeness alone."""
    name, data = next(iter(demo_files().items()))
    photo = over_background(framed(data, name, 1000), LIGHT)
    picture = np.asarray(cv2.resize(photo, (1000, 1000)), np.uint8)
    candidate = decode(encode(picture, JpegSettings(quality=60, chroma="4:2:0")))
    reference = Reference(picture)
    examiner = Examiner(reference)
    likeness_s, examine_s = [], []
    examiner.examine(candidate)  # prepares the reference
    for _ in range(_TIMES):
        start = time.perf_counter()
        reference.likeness(candidate)
        middle = time.perf_counter()
        examiner.examine(candidate)
        likeness_s.append(middle - start)
        examine_s.append(time.perf_counter() - middle)
    return min(examine_s) / min(likeness_s)


@dataclass(frozen=True, slots=True)
class Encoded:
    """A re-encode of a whole picture: its likeness, and the strength of its worst spot."""

    likeness: float
    strength: float


def encoded(chosen: dict[str, U8]) -> list[Encoded]:
    """Every picture in four formats at several qualities."""
    found = []
    for picture in chosen.values():
        examiner = Examiner(Reference(picture))
        for settings in _SETTINGS:
            damage = examiner.examine(decode(encode(picture, settings)))
            spots = trouble_spots(damage, examiner.reference.size_px)
            found.append(Encoded(damage.likeness, spots[0].strength if spots else 0.0))
    return found


def show(console: Console) -> None:
    """The tables, and the cost."""
    demo = demo_pictures()
    found = {"demo photos": measure(demo), "made-up": measure(made_up_pictures())}
    for title, every in found.items():
        console.print(_kinds_table(title, rows(every)))
    console.print(_calibration_table([one for every in found.values() for one in every]))
    console.print(_encoded_table(encoded(demo)))
    console.print(f"Likeness, all kinds and spots, over the likeness alone: {cost_ratio():.2f}")


def _kinds_table(title: str, found: list[Row]) -> Table:
    table = Table(title=f"Damage of a known kind in a known area: {title}", title_justify="left")
    for heading in ("kind", "way", "cases", "named", "placed", "rising"):
        table.add_column(heading, justify="left" if heading in ("kind", "way") else "right")
    for row in found:
        numbers = (row.cases, row.named, row.placed)
        table.add_row(row.kind, row.way, *map(str, numbers), f"{row.rising} of {row.series}")
    total = sum(row.cases for row in found)
    named, placed = (
        f"{100 * sum(values) / total:.1f} %"
        for values in ([row.named for row in found], [row.placed for row in found])
    )
    rising = f"{sum(row.rising for row in found)} of {sum(row.series for row in found)}"
    table.add_row("all", "", str(total), named, placed, rising)
    return table


def _calibration_table(found: list[Examined]) -> Table:
    """Whether the same strength means the same: that of the first spot, by the likeness that is
    left in the area."""
    title = "Median strength of the first spot (and cases), by the likeness left in the area"
    table = Table("kind", title=title, title_justify="left")
    for least, most in _LIKENESSES:
        table.add_column(f"{least:g} to {most:g}", justify="right")
    for kind in KINDS:
        cells = []
        for least, most in _LIKENESSES:
            strengths = [
                one.spots[0].strength
                for one in found
                if one.is_named and one.case.kind == kind and least <= one.area_likeness < most
            ]
            cells.append(f"{np.median(strengths):.0f} ({len(strengths)})" if strengths else "")
        table.add_row(kind, *cells)
    return table


def _encoded_table(found: list[Encoded]) -> Table:
    title = "Strength of the worst spot of re-encodes, by likeness"
    table = Table(title=title, title_justify="left")
    for heading in ("likeness", "files", "median", "nine in ten below", "most"):
        table.add_column(heading, justify="right")
    for least, most in _WHOLE_LIKENESSES:
        strengths = [one.strength for one in found if least <= one.likeness < most]
        if strengths:
            figures = np.quantile(strengths, (0.5, 0.9, 1))
            label = f"{least:g} to {most:g}"
            table.add_row(label, str(len(strengths)), *(f"{figure:.0f}" for figure in figures))
    return table


if __name__ == "__main__":
    show(Console(width=132))
