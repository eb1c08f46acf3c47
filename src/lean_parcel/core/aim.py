"""The aim: what a photo may weigh, where it stands, and in which formats it may come."""

import re
from dataclasses import dataclass

from lean_parcel.core.encode import FORMATS, Format
from lean_parcel.core.errors import UsageError
from lean_parcel.core.frame import Place

_COLOUR = re.compile(r"#[0-9a-f]{6}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Aim:
    """At most `limit_bytes` in a place; `background` (`#rrggbb`) fills transparency in JPEG."""

    place: Place
    limit_bytes: int
    background: str = "#ffffff"
    formats: tuple[Format, ...] = FORMATS

    def __post_init__(self) -> None:
        if self.limit_bytes < 1:
            raise UsageError("A limit is at least one byte.", "invalid_size")
        if not _COLOUR.fullmatch(self.background):
            raise UsageError(
                f"“{self.background}” is not a colour. Write it like #f4f1ea.", "invalid_colour"
            )
        unknown = [name for name in self.formats if name not in FORMATS]
        if unknown or not self.formats:
            raise UsageError(f"Formats are one or more of {', '.join(FORMATS)}.", "invalid_formats")


def changed(
    aim: Aim,
    *,
    css_width_px: int | None = None,
    density: float | None = None,
    limit_bytes: int | None = None,
    background: str | None = None,
    formats: tuple[Format, ...] | None = None,
) -> Aim:
    """An aim in which what is given is replaced. Raises UsageError as Aim does."""
    place = aim.place
    return Aim(
        place=Place(
            css_width_px=place.css_width_px if css_width_px is None else css_width_px,
            density=place.density if density is None else density,
        ),
        limit_bytes=aim.limit_bytes if limit_bytes is None else limit_bytes,
        background=aim.background if background is None else background,
        formats=aim.formats if formats is None else formats,
    )


#: Where a first photo starts: the width of a wide column, and what it may weigh there.
FIRST_AIM = Aim(place=Place(css_width_px=1200), limit_bytes=200_000)
