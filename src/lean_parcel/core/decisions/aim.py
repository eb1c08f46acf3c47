"""The aim: what a photo may weigh, how it should look, where it stands, and in which formats it may
come."""

import re
from dataclasses import dataclass, field

from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.encoding.held import HeldKnobs, check_held
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.levels import LEVELS, NO_CHANGE
from lean_parcel.core.size import MAX_BYTES, parse_size

#: The highest likeness that can be aimed for; above it nobody sees a difference.
MAX_LIKENESS = 99
_LIKENESS = re.compile(r"(?:likeness\s+)?(\d{1,3}(?:\.\d+)?)", re.ASCII)


def check_limit(limit_bytes: int | None) -> None:
    """Raises UsageError `invalid_size`."""
    if limit_bytes is not None and not 1 <= limit_bytes <= MAX_BYTES:
        raise UsageError("A limit is 1 byte to 1 TB.", "invalid_size")


def check_likeness(likeness: float | None) -> None:
    """Raises UsageError `invalid_likeness`."""
    if likeness is not None and not 0 <= likeness <= MAX_LIKENESS:
        raise UsageError(f"A likeness is 0 to {MAX_LIKENESS}.", "invalid_likeness")


def check_aim(limit_bytes: int | None, likeness: float | None) -> None:
    """Raises UsageError `invalid_size`, `invalid_likeness`, or `nothing_aimed_for`."""
    check_limit(limit_bytes)
    check_likeness(likeness)
    if limit_bytes is None and likeness is None:
        raise UsageError("An aim has a limit, a likeness, or both.", "nothing_aimed_for")


def check_formats(formats: tuple[Format, ...]) -> None:
    """Raises UsageError `invalid_formats`."""
    is_known = set(formats) <= set(FORMATS)
    if not formats or not is_known or len(set(formats)) < len(formats):
        raise UsageError(
            f"Formats are one or more of {', '.join(FORMATS)}, each once.", "invalid_formats"
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Aim:
    """At most `limit_bytes`, where that is set, in a place; and no more than it takes to look like
    `likeness`, where that is set, from which on more bytes are no use: the lightest file that looks
    so, or else the best looking within the limit. Every encode has the knobs that are `held`. What
    is taken is handed out with `variants`. Whether a file may have `fewer_pixels` than its place
    asks for was said, or with None follows from the size."""

    place: Place
    limit_bytes: int | None = None
    likeness: float | None = None
    formats: tuple[Format, ...] = FORMATS
    held: HeldKnobs = field(default_factory=dict, hash=False)
    variants: Variants = field(default_factory=Variants)
    fewer_pixels: bool | None = None

    def __post_init__(self) -> None:
        check_aim(self.limit_bytes, self.likeness)
        check_formats(self.formats)
        check_held(self.held)

    @property
    def may_have_fewer_pixels(self) -> bool:
        """Whether a file may have fewer pixels than its place asks for: not where these were typed,
        unless it was said."""
        if self.fewer_pixels is not None:
            return self.fewer_pixels
        return not self.place.dimensions.is_exact

    def is_met_by(self, size_bytes: int, likeness: float) -> bool:
        """Whether a file of these bytes and this likeness does what is aimed for: it keeps the
        limit, or where there is none it looks as it should."""
        if self.limit_bytes is None:
            return self.is_enough(likeness)
        return size_bytes <= self.limit_bytes

    def is_enough(self, likeness: float) -> bool:
        """Whether what looks so is not worth more bytes."""
        return self.likeness is not None and likeness >= self.likeness

    def over_bytes(self, size_bytes: int) -> int:
        """By how much a file is over the limit; 0 where it is not, or there is none."""
        return 0 if self.limit_bytes is None else max(0, size_bytes - self.limit_bytes)


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedAim:
    """What was typed as an aim: a limit, a likeness, or both; what was not typed is as it is of a
    first photo."""

    limit_bytes: int | None
    likeness: float | None
    has_limit: bool
    has_likeness: bool


def typed_size(text: str) -> int:
    """Whole bytes of a size as people type it, where a number alone is in kB. Raises UsageError
    `invalid_size`."""
    size_bytes = parse_size(text, bare_unit="kB")
    check_limit(size_bytes)
    return size_bytes


#: Where a first photo starts: the width of a wide column, what it may weigh there, and how it has
#: to look.
FIRST_AIM = Aim(place=Place(size="1200"), limit_bytes=200_000, likeness=NO_CHANGE)
#: Words for a likeness; None is as good as the limit allows.
LOOKS: dict[str, float | None] = {
    **{level.words: level.least for level in LEVELS},
    "best": None,
}
_NAMES_LIKENESS = re.compile("|".join(("likeness", *LOOKS)), re.IGNORECASE)


def typed_likeness(text: str) -> float | None:
    """The likeness of `likeness 80`, `80`, `hard to spot` or `best`, which is None. Raises
    UsageError `invalid_likeness`."""
    words = text.strip().lower()
    if words in LOOKS:
        return LOOKS[words]
    found = _LIKENESS.fullmatch(words)
    if not found:
        known = ", ".join(f"“{each}”" for each in LOOKS)
        raise UsageError(
            f"“{text}” is no likeness: write 0 to {MAX_LIKENESS}, or {known}.", "invalid_likeness"
        )
    likeness = float(found[1])
    check_likeness(likeness)
    return likeness


def typed_aim(text: str) -> TypedAim:
    """The aim of `200 kB`, `200`, `likeness 80`, `no visible change`, or a size and a likeness with
    a comma between them; of `any` for no limit, and `best` for as good as it can be. Raises
    UsageError `invalid_size`, `invalid_likeness` or `nothing_aimed_for`."""
    limits: list[int | None] = []
    likenesses: list[float | None] = []
    for part in re.split(r",\s+", text.strip()):
        if _NAMES_LIKENESS.match(part):
            likenesses.append(typed_likeness(part))
        else:
            limits.append(None if part.lower() == "any" else typed_size(part))
    if len(limits) > 1 or len(likenesses) > 1:
        raise UsageError("Write one size, one likeness, or one of each.", "invalid_size")
    (limit_bytes,) = limits or [FIRST_AIM.limit_bytes]
    (likeness,) = likenesses or [FIRST_AIM.likeness]
    check_aim(limit_bytes, likeness)
    return TypedAim(
        limit_bytes=limit_bytes,
        likeness=likeness,
        has_limit=bool(limits),
        has_likeness=bool(likenesses),
    )
