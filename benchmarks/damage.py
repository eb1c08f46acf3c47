"""Damage of known kinds and places: how often the right kind is named first, the right area hit,
and the strength rises; and what examining costs beside the likeness alone.
`python -m benchmarks.damage` prints it.

Half of the demo photos and of the made-up pictures were used to set the measures' constants, and
the other half were not.
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
from lean_parcel.core.damage.spots import Spot, trouble_spots
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.likeness.reference import LIGHT, Reference
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.pixels import over_background
from lean_parcel.core.picture.serialisation import decode

WIDTH_PX = 800
#: From this likeness of the damaged area on, there is nothing to be found. Banding is not judged by
#: it, since it hardly sees banding.
_UNSEEN = 92.0
_TIMES = 5


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
    spots: list[Spot]

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


def measure(chosen: dict[str, U8]) -> list[Row]:
    """Every way of damage in every picture."""
    found: dict[tuple[str, str], dict[str, list[Examined]]] = defaultdict(lambda: defaultdict(list))
    for name, picture in chosen.items():
        examiner = Examiner(Reference(picture))
        for case in cases(name, picture):
            if is_seen(case):
                found[case.kind, case.way][name].append(examined(examiner, case))
    return [_row(kind, way, list(series.values())) for (kind, way), series in found.items()]


def examined(examiner: Examiner, case: Case) -> Examined:
    """What is found of a case."""
    damage = examiner.examine(case.damaged)
    return Examined(case, damage, trouble_spots(damage, examiner.reference.size_px))


def is_seen(case: Case) -> bool:
    """Whether there is something to be seen in the damaged area."""
    area = case.area
    part = np.s_[
        area.top_px : area.top_px + area.height_px, area.left_px : area.left_px + area.width_px
    ]
    original, damaged = (np.ascontiguousarray(p[part]) for p in (case.original, case.damaged))
    if case.kind == "banding":
        return not np.array_equal(original, damaged)
    return Reference(original).likeness(damaged) < _UNSEEN


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


def show(console: Console) -> None:
    """The tables, and the cost."""
    for title, chosen in (("demo photos", demo_pictures()), ("made-up", made_up_pictures())):
        table = Table(
            title=f"Damage of a known kind in a known area: {title}", title_justify="left"
        )
        for heading in ("kind", "way", "cases", "named", "placed", "rising"):
            table.add_column(heading, justify="left" if heading in ("kind", "way") else "right")
        rows = measure(chosen)
        for row in rows:
            numbers = (row.cases, row.named, row.placed)
            table.add_row(row.kind, row.way, *map(str, numbers), f"{row.rising} of {row.series}")
        total = sum(row.cases for row in rows)
        named, placed = (
            f"{100 * sum(values) / total:.1f} %"
            for values in ([row.named for row in rows], [row.placed for row in rows])
        )
        rising = f"{sum(row.rising for row in rows)} of {sum(row.series for row in rows)}"
        table.add_row("all", "", str(total), named, placed, rising)
        console.print(table)
    console.print(f"Likeness, all kinds and spots, over the likeness alone: {cost_ratio():.2f}")


if __name__ == "__main__":
    show(Console(width=132))
