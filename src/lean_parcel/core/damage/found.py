"""What was found in a candidate, as it is stored."""

from dataclasses import dataclass

import numpy as np

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.damage.kinds import KINDS, Kind, strengths_of

#: Codes of a map for each unit of strength.
_CODES = 2.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Damage:
    """The `likeness`, the `strengths` of all kinds over the whole picture, 0 to 100, a verdict, and
    by kind the strengths of what is seen at a glance around each cell, as `codes_of` has them; and
    how `unlike` each cell is, 0 to 250."""

    likeness: float
    strengths: dict[Kind, float]
    verdict: str
    maps: dict[Kind, U8]
    unlike: U8


@dataclass(frozen=True, slots=True, kw_only=True)
class Worst:
    """The kind that is strongest anywhere in a candidate, if any is seen, and its strength."""

    kind: Kind | None
    strength: float


def codes_of(visibility: F32) -> U8:
    """A map of visibility as codes of strength, 0 to 250."""
    return codes_of_strengths(strengths_of(visibility))


def codes_of_strengths(strengths: F32) -> U8:
    """A map of strengths, 0 to 100, as codes."""
    return np.asarray(np.rint(strengths * _CODES), np.uint8)


def codes_of_strength(strength: float) -> int:
    """The code of a strength, 0 to 100."""
    return round(strength * _CODES)


def strengths_by_kind(maps: dict[Kind, U8]) -> F32:
    """The strengths of maps, (kinds, rows, columns), 0 to 100."""
    return np.asarray(np.stack([maps[kind] for kind in KINDS]) / _CODES, np.float32)
