"""Encodes that a fit takes in one format, chroma mode and pixel count, against plain bisection."""

from collections.abc import Callable
from dataclasses import dataclass
from statistics import mean
from typing import Protocol

from benchmarks.photos import demo_files, framed, rung_of
from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.search.bracket import SizeBracket
from lean_parcel.core.search.scales import (
    Scale,
    adaptive_scale,
    avif_scale,
    jpeg_scale,
    palette_scale,
    webp_scale,
)

WIDTH_PX = 480
#: Limits as fractions of the probe's bytes: from tight to generous.
LIMITS = (0.2, 0.35, 0.55, 0.8, 1.2)
SCALES = [
    jpeg_scale("4:2:0", "#ffffff"),
    jpeg_scale("4:4:4", "#ffffff"),
    adaptive_scale("#ffffff"),
    webp_scale(),
    avif_scale("4:2:0"),
    avif_scale("4:4:4"),
    palette_scale(),
]


@dataclass(frozen=True, slots=True)
class Row:
    """Mean encodes of one scale."""

    scale: str
    fits: int
    ours: float
    most: int
    bisection: float


class Bracket(Protocol):
    """What finds the largest step that fits; see `SizeBracket`."""

    def next_step(self) -> int | None: ...
    def add(self, step: int, size_bytes: int) -> None: ...


class Bisection:
    """The same by halving, which needs no model."""

    def __init__(self, steps: int, limit_bytes: int) -> None:
        self.below, self._above = -1, steps
        self._limit_bytes = limit_bytes

    def next_step(self) -> int | None:
        """The middle of the bracket; None at the end."""
        return (self.below + self._above) // 2 if self._above - self.below > 1 else None

    def add(self, step: int, size_bytes: int) -> None:
        """Takes in the size of a step."""
        if size_bytes <= self._limit_bytes:
            self.below = step
        else:
            self._above = step


def count(bracket: Bracket, size_of: Callable[[int], int]) -> int:
    """Measurements that a bracket asks for."""
    asked = 0
    while (step := bracket.next_step()) is not None:
        bracket.add(step, size_of(step))
        asked += 1
    return asked


class Sizes:
    """Measured sizes of a photo's steps on a scale, each encoded once."""

    def __init__(self, pixels: U8, scale: Scale) -> None:
        self._pixels = pixels
        self._scale = scale
        self._known: dict[int, int] = {}

    def __call__(self, step: int) -> int:
        if step not in self._known:
            settings = self._scale.settings(self._scale.qualities[step])
            self._known[step] = len(encode(self._pixels, settings))
        return self._known[step]


def measure(files: dict[str, bytes]) -> list[Row]:
    """One row a scale."""
    counts: dict[str, list[tuple[int, int]]] = {scale.name: [] for scale in SCALES}
    for name, data in files.items():
        pixels = framed(data, name, WIDTH_PX)
        rung = rung_of(pixels)
        for scale in SCALES:
            size_of = Sizes(pixels, scale)
            for fraction in LIMITS:
                limit_bytes = int(rung.probe_size_bytes * fraction)
                ours = count(SizeBracket(scale.log_sizes(rung), limit_bytes), size_of)
                halving = count(Bisection(len(scale.qualities), limit_bytes), size_of)
                counts[scale.name].append((ours, halving))
    return [
        Row(
            name,
            len(pairs),
            mean(ours for ours, _ in pairs),
            max(ours for ours, _ in pairs),
            mean(halving for _, halving in pairs),
        )
        for name, pairs in counts.items()
    ]


if __name__ == "__main__":
    for row in measure(demo_files()):
        print(row)
