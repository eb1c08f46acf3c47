"""The aim: what a photo may weigh, where it stands, and in which formats it may come."""

import re
from dataclasses import dataclass, field

from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.encoding.held import HeldKnobs, check_held
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.size import MAX_BYTES, parse_size

#: The highest likeness that can be aimed for; above it nobody sees a difference.
MAX_LIKENESS = 99
_LIKENESS = re.compile(r"\s*likeness\s+(\d{1,3}(?:\.\d+)?)\s*", re.IGNORECASE | re.ASCII)


def check_limit(limit_bytes: int) -> None:
    """Raises UsageError `invalid_size`."""
    if not 1 <= limit_bytes <= MAX_BYTES:
        raise UsageError("A limit is 1 byte to 1 TB.", "invalid_size")


def check_likeness(likeness: float | None) -> None:
    """Raises UsageError `invalid_likeness`."""
    if likeness is not None and not 0 <= likeness <= MAX_LIKENESS:
        raise UsageError(f"A likeness is 0 to {MAX_LIKENESS}.", "invalid_likeness")


@dataclass(frozen=True, slots=True, kw_only=True)
class Aim:
    """At most `limit_bytes` in a place; or, where `likeness` is set, no worse than that in the
    fewest bytes, and then the limit is only remembered. Every encode has the knobs that are
    `held`. What is taken is handed out with `variants`."""

    place: Place
    limit_bytes: int
    likeness: float | None = None
    formats: tuple[Format, ...] = FORMATS
    held: HeldKnobs = field(default_factory=dict, hash=False)
    variants: Variants = field(default_factory=Variants)

    def __post_init__(self) -> None:
        check_limit(self.limit_bytes)
        check_likeness(self.likeness)
        is_known = set(self.formats) <= set(FORMATS)
        if not self.formats or not is_known or len(set(self.formats)) < len(self.formats):
            raise UsageError(
                f"Formats are one or more of {', '.join(FORMATS)}, each once.", "invalid_formats"
            )
        check_held(self.held)

    def is_met_by(self, size_bytes: int, likeness: float) -> bool:
        """Whether a file of these bytes and this likeness does what is aimed for."""
        if self.likeness is None:
            return size_bytes <= self.limit_bytes
        return likeness >= self.likeness

    def over_bytes(self, size_bytes: int) -> int:
        """By how much a file is over the limit; 0 where it is not, or bytes are no limit."""
        return 0 if self.likeness is not None else max(0, size_bytes - self.limit_bytes)


@dataclass(frozen=True, slots=True, kw_only=True)
class PageAim:
    """What the photos of a page aim for, but for those with an aim of their own: as in Aim."""

    limit_bytes: int
    likeness: float | None = None

    def __post_init__(self) -> None:
        check_limit(self.limit_bytes)
        check_likeness(self.likeness)


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedAim:
    """What was typed as an aim: bytes, or a likeness."""

    limit_bytes: int | None = None
    likeness: float | None = None


def typed_size(text: str) -> int:
    """Whole bytes of a size as people type it, where a number alone is in kB. Raises UsageError
    `invalid_size`."""
    size_bytes = parse_size(text, bare_unit="kB")
    check_limit(size_bytes)
    return size_bytes


def typed_aim(text: str) -> TypedAim:
    """The aim of `200 kB`, `200` or `likeness 80`. Raises UsageError `invalid_size` or
    `invalid_likeness`."""
    if found := _LIKENESS.fullmatch(text):
        likeness = float(found[1])
        check_likeness(likeness)
        return TypedAim(likeness=likeness)
    return TypedAim(limit_bytes=typed_size(text))


#: Where a first photo starts: the width of a wide column, and what it may weigh there.
FIRST_AIM = Aim(place=Place(css_width_px=1200), limit_bytes=200_000)
