"""The aim: what a photo may weigh, where it stands, and in which formats it may come."""

from dataclasses import dataclass

from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.size import MAX_BYTES

#: The highest likeness that can be aimed for; above it nobody sees a difference.
MAX_LIKENESS = 99


@dataclass(frozen=True, slots=True, kw_only=True)
class Aim:
    """At most `limit_bytes` in a place; or, where `likeness` is set, no worse than that in the
    fewest bytes, and then the limit is only remembered."""

    place: Place
    limit_bytes: int
    likeness: float | None = None
    formats: tuple[Format, ...] = FORMATS

    def __post_init__(self) -> None:
        if not 1 <= self.limit_bytes <= MAX_BYTES:
            raise UsageError("A limit is 1 byte to 1 TB.", "invalid_size")
        if self.likeness is not None and not 0 <= self.likeness <= MAX_LIKENESS:
            raise UsageError(f"A likeness is 0 to {MAX_LIKENESS}.", "invalid_likeness")
        is_known = set(self.formats) <= set(FORMATS)
        if not self.formats or not is_known or len(set(self.formats)) < len(self.formats):
            raise UsageError(
                f"Formats are one or more of {', '.join(FORMATS)}, each once.", "invalid_formats"
            )

    def is_met_by(self, size_bytes: int, likeness: float) -> bool:
        """Whether a file of these bytes and this likeness does what is aimed for."""
        if self.likeness is None:
            return size_bytes <= self.limit_bytes
        return likeness >= self.likeness


#: Where a first photo starts: the width of a wide column, and what it may weigh there.
FIRST_AIM = Aim(place=Place(css_width_px=1200), limit_bytes=200_000)
