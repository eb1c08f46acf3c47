"""A place: how large a photo stands on a page, and on how dense a screen."""

from dataclasses import dataclass, replace

from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.dimensions import Dimensions, typed_dimensions
from lean_parcel.core.picture.box import Box

#: The fewest and the most device pixels per CSS pixel.
DENSITIES = (0.5, 4.0)


#: How much narrower a photo may stand where it does not fit.
_SMALLER = 0.75


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """CSS pixels across and down at which a photo stands."""

    css_width_px: int
    css_height_px: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A `size` as it is typed, device pixels per CSS pixel, and whether they are judged
    `pixel_by_pixel`, rather than as they are seen. Raises UsageError `invalid_dimensions` or
    `invalid_density`."""

    size: str
    density: float = 1.0
    pixel_by_pixel: bool = False

    def __post_init__(self) -> None:
        object.__setattr__(self, "size", str(typed_dimensions(self.size)))
        if not DENSITIES[0] <= self.density <= DENSITIES[1]:
            raise UsageError(
                f"A density is {DENSITIES[0]:g} to {DENSITIES[1]:g}.", "invalid_density"
            )

    @property
    def dimensions(self) -> Dimensions:
        """The size as a value."""
        return typed_dimensions(self.size)

    def at(self, density: float) -> "Place":
        """The same place on a screen of another density, where a photo stands as large."""
        if density == self.density:
            return self
        size = self.dimensions
        if size.counts_dots:
            size = size.times(density / self.density)
        return replace(self, size=str(size), density=density)

    def standing(self, box: Box) -> Standing:
        """How large a framed part of an original stands."""
        if self.dimensions.counts_dots:
            across, down = (_whole(side / self.density) for side in self.device_px(box))
        else:
            across, down = self._scaled(box, density=1.0)
        return Standing(css_width_px=across, css_height_px=down)

    def smaller(self, box: Box) -> str:
        """A size at which a framed part stands three quarters as wide and high."""
        standing = self.standing(box)
        width_px, height_px = (
            _whole(side * _SMALLER) for side in (standing.css_width_px, standing.css_height_px)
        )
        return f"{width_px} × {height_px} px" if self.dimensions.is_covered else f"{width_px} px"

    def device_px(self, box: Box) -> tuple[int, int]:
        """Pixels across and down that are asked for of a framed part of an original."""
        return self._scaled(box, 1.0 if self.dimensions.counts_dots else self.density)

    def judged_density(self, box: Box, width_px: int) -> float:
        """How many pixels of a picture of a width are a CSS pixel here, to hundredths; from 1 on,
        and no more than there are device pixels."""
        if self.pixel_by_pixel:
            return 1.0
        judged = width_px / self.standing(box).css_width_px
        return round(max(1.0, min(judged, self.density)), 2)

    def _scaled(self, box: Box, density: float) -> tuple[int, int]:
        size = self.dimensions
        if size.percent is not None:
            scale = size.percent / 100
        else:
            sides = size.sides_px(box.width_px, box.height_px)
            asked = [(_whole(asked_px * density), of_box_px) for asked_px, of_box_px in sides]
            if size.is_covered:
                (width_px, _), (height_px, _) = asked
                return width_px, height_px
            scale = min(asked_px / of_box_px for asked_px, of_box_px in asked)
        return _whole(box.width_px * scale), _whole(box.height_px * scale)


def _whole(side_px: float) -> int:
    return max(1, round(side_px))
