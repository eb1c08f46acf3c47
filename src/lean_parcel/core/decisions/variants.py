"""Variants: the files of a photo beside its pick, for other densities and in other formats."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import DENSITIES, Place
from lean_parcel.core.framing.plan import Plan, plan_framing
from lean_parcel.core.original.source import Source
from lean_parcel.core.size import MAX_BYTES

#: What each variant is searched for: the same aim as the photo, a limit in proportion to its
#: pixels, or the likeness of the pick.
VariantRule = Literal["same", "pixels", "likeness"]
RULE_NAMES: dict[VariantRule, str] = {
    "same": "the same aim",
    "pixels": "a limit by their pixels",
    "likeness": "the likeness of the pick",
}
MAX_DENSITIES = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class DensityLimit:
    """The most that each file for a density may weigh. Raises UsageError `invalid_size`."""

    density: float
    limit_bytes: int

    def __post_init__(self) -> None:
        if not 1 <= self.limit_bytes <= MAX_BYTES:
            raise UsageError("A limit is 1 byte to 1 TB.", "invalid_size")


@dataclass(frozen=True, slots=True, kw_only=True)
class Variants:
    """Densities beside the one of the place; and the formats for each density beside that of the
    pick, where None is one that opens everywhere where the pick does not. Densities may have
    `limits` of their own, whatever the rule."""

    densities: tuple[float, ...] = ()
    formats: tuple[Format, ...] | None = None
    rule: VariantRule = "likeness"
    limits: tuple[DensityLimit, ...] = ()

    def __post_init__(self) -> None:
        is_once = len(set(self.densities)) == len(self.densities) <= MAX_DENSITIES
        if not (is_once and all(DENSITIES[0] <= each <= DENSITIES[1] for each in self.densities)):
            raise UsageError(
                f"Densities are up to {MAX_DENSITIES}, each once, from {DENSITIES[0]:g} to"
                f" {DENSITIES[1]:g}.",
                "invalid_variants",
            )
        limited = [each.density for each in self.limits]
        if len(set(limited)) < len(limited):
            raise UsageError("Each density has one limit.", "invalid_variants")
        if self.formats is None:
            return
        is_known = set(self.formats) <= set(FORMATS)
        if not is_known or len(set(self.formats)) < len(self.formats):
            raise UsageError(
                f"Formats are any of {', '.join(FORMATS)}, each once.", "invalid_variants"
            )

    def limit_at(self, density: float) -> int | None:
        """The limit that a density has of its own."""
        found = (each.limit_bytes for each in self.limits if each.density == density)
        return next(found, None)


@dataclass(frozen=True, slots=True, kw_only=True)
class VariantPick:
    """An encode that a person chose for one density and format, instead of what was found."""

    density: float
    format: Format
    encode_id: int


@lru_cache(maxsize=4096)  # a page asks for those of all of its photos again and again
def plan_at(framing: Framing, place: Place, source: Source, density: float) -> Plan:
    """The plan of a photo at a density of its place, where it stands as large; it may have more
    pixels than the original at its own density only. Raises UsageError as `plan_framing` does."""
    if density != place.density:
        framing = replace(framing, may_enlarge=False)
    return plan_framing(source, framing, place.at(density))
