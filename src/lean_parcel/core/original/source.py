"""The facts of an original, and what one may cost. No decoder is imported here."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """What a photo may cost before it is refused."""

    max_pixels: int = 150_000_000
    max_size_bytes: int = 200_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """An original as it came in; width and height are those of the upright picture. One that
    `is_photograph` has a picture of that kind without transparency, as far as that was judged."""

    format: str
    size_bytes: int
    width_px: int
    height_px: int
    has_alpha: bool
    is_photograph: bool = False
