"""A place: where a photo stands on a page."""

from dataclasses import dataclass
from typing import Literal

from lean_parcel.core.errors import UsageError

MAX_SIDE_PX = 16_384
#: The fewest and the most device pixels per CSS pixel.
DENSITIES = (0.5, 4.0)
#: How a photo takes a box of fixed width and height, as CSS `object-fit` names them.
Fit = Literal["cover", "contain"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """CSS width, CSS height where the place fixes it, and device pixels per CSS pixel; and whether
    they are judged `pixel_by_pixel`, rather than as they are seen."""

    css_width_px: int
    css_height_px: int | None = None
    fit: Fit = "cover"
    density: float = 1.0
    pixel_by_pixel: bool = False

    def __post_init__(self) -> None:
        height_px = 1 if self.css_height_px is None else self.css_height_px
        is_dense = DENSITIES[0] <= self.density <= DENSITIES[1]
        sides_px = (self.css_width_px, height_px)
        if not (all(1 <= side <= MAX_SIDE_PX for side in sides_px) and is_dense):
            raise UsageError(
                f"A place is 1 to {MAX_SIDE_PX:,} CSS pixels wide and, where that is fixed, high,"
                " at a density of 0.5 to 4.",
                "invalid_place",
            )

    @property
    def device_width_px(self) -> int:
        """Device pixels across the place."""
        return max(1, round(self.css_width_px * self.density))

    @property
    def device_height_px(self) -> int | None:
        """Device pixels down the place, where it has a height."""
        return max(1, round(self.css_height_px * self.density)) if self.css_height_px else None

    def judged_density(self, width_px: int, height_px: int) -> float:
        """How many pixels of a picture of a size are a CSS pixel here, to hundredths; from 1 on,
        and no more than there are device pixels."""
        if self.pixel_by_pixel:
            return 1.0
        density = width_px / self.css_width_px
        if self.css_height_px:
            tighter = min if self.fit == "cover" else max
            density = tighter(density, height_px / self.css_height_px)
        return round(max(1.0, min(density, self.density)), 2)
