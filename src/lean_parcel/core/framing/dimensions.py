"""A size: how large a photo stands, as people type it.

| typed | means |
|---|---|
| `1200`, `1200 px` | wide in CSS pixels, height by the proportions |
| `600 × 450`, `600x450` | exactly, covered; `600 × 450 contained` within it |
| `x 450`, `450 high` | by the height |
| `1500 long` | the longest side |
| `60 %` | of the framed original |
| `as it came` | its own pixels |
| `10 × 15 cm at 300 dpi`, `4 in high` | lengths, at 96 dots per inch where none are typed |

Pixels and lengths are CSS pixels and CSS lengths, of which a screen of twice the density shows
twice as many a side. A share, and a length at dots per inch, count the pixels of the file.
"""

import re
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

from lean_parcel.core.errors import UsageError

MAX_SIDE_PX = 16_384
#: Four times the pixels there are, on a screen eight times as dense.
MAX_PERCENT = 3_200.0
#: CSS has 96 pixels to an inch (CSS Values and Units 4, 6.2).
CSS_DPI, MAX_DPI = 96.0, 2_400.0
#: How a photo takes a box of fixed width and height, as CSS `object-fit` names them.
Fit = Literal["cover", "contain"]
LengthUnit = Literal["px", "mm", "cm", "in"]
_A_INCH: dict[LengthUnit, float] = {"mm": 25.4, "cm": 2.54, "in": 1.0}
_UNITS: dict[str, LengthUnit] = {"": "px", '"': "in", "inch": "in", "inches": "in"}

#: A comma before three digits may stand between thousands, so it is not read at all.
_NUMBER = r"\d{1,6}(?:\.\d+|,(?!\d{3}(?!\d))\d+)?"
_UNIT = r'(?P<unit>px|mm|cm|in(?:ch(?:es)?)?|"|)'
_DPI = rf"(?:\s*(?:at|@)\s*(?P<dpi>{_NUMBER})\s*dpi)?"
_SIDES = re.compile(
    rf"(?P<width>{_NUMBER})?\s*(?:[x×*]\s*(?P<height>{_NUMBER}))?\s*{_UNIT}"
    rf"\s*(?P<side>wide|high|long|)\s*{_DPI}(?:[\s,]+(?P<fit>contained|covered))?",
    re.IGNORECASE | re.ASCII,
)
_SHARE = re.compile(rf"({_NUMBER})\s*(?:%|percent)", re.IGNORECASE | re.ASCII)
_AS_IT_CAME = "as it came"
_FITS: dict[str, Fit] = {"contained": "contain", "covered": "cover"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Dimensions:
    """One of: a `width`, a `height`, or both, which is a box that is filled by its `fit`; the
    `longest` side; or a share in `percent`. Sides are in a `unit`, a length at so many `dpi`."""

    width: float | None = None
    height: float | None = None
    longest: float | None = None
    percent: float | None = None
    unit: LengthUnit = "px"
    dpi: float | None = None
    fit: Fit = "cover"

    @property
    def is_box(self) -> bool:
        """Whether width and height are both fixed."""
        return self.width is not None and self.height is not None

    @property
    def is_covered(self) -> bool:
        """Whether it is a box that is filled to the edges."""
        return self.is_box and self.fit == "cover"

    @property
    def counts_dots(self) -> bool:
        """Whether it counts the pixels of the file, and not those at which it stands."""
        return self.percent is not None or self.dpi is not None

    @property
    def is_exact(self) -> bool:
        """Whether it says how many pixels the file has."""
        return self.counts_dots or self.is_covered

    def sides_px(self, width_px: int, height_px: int) -> list[tuple[float, int]]:
        """The pixels, unrounded, that are asked for of sides of a picture of this size, and those
        that these have."""
        asked = (
            (self.width, width_px),
            (self.height, height_px),
            (self.longest, max(width_px, height_px)),
        )
        return [(self._in_px(side), of_px) for side, of_px in asked if side is not None]

    def _in_px(self, side: float) -> float:
        if self.unit == "px":
            return side
        return side / _A_INCH[self.unit] * (self.dpi or CSS_DPI)

    def times(self, factor: float) -> "Dimensions":
        """One that counts dots, with so many times as many a side, within bounds."""
        if self.percent is not None:
            return replace(self, percent=min(self.percent * factor, MAX_PERCENT))
        return replace(self, dpi=min((self.dpi or CSS_DPI) * factor, MAX_DPI))

    def __str__(self) -> str:
        """As it is shown, and can be typed again."""
        if self.percent is not None:
            return _AS_IT_CAME if self.percent == 100 else f"{_number(self.percent)} %"
        sides = [side for side in (self.width, self.height, self.longest) if side is not None]
        words = " × ".join(_number(side) for side in sides)
        which = " high" if self.width is None else ""
        which = " long" if self.longest is not None else which
        which = " wide" if not which and not self.is_box and self.unit != "px" else which
        dpi = "" if self.dpi is None else f" at {_number(self.dpi)} dpi"
        fit = " contained" if self.is_box and self.fit == "contain" else ""
        return f"{words} {self.unit}{which}{dpi}{fit}"


@lru_cache(maxsize=4_096)
def typed_dimensions(text: str) -> Dimensions:
    """The size that was typed. Raises UsageError `invalid_dimensions`.

    >>> str(typed_dimensions("600x450")), str(typed_dimensions("x 450"))
    ('600 × 450 px', '450 px high')
    """
    words = " ".join(text.split())
    if words.lower() == _AS_IT_CAME:
        return Dimensions(percent=100.0)
    if share := _SHARE.fullmatch(words):
        return _checked(Dimensions(percent=_value(share[1])), text)
    found = _SIDES.fullmatch(words)
    if found is None:
        raise _not_understood(text)
    width, height = (_value(found[name]) for name in ("width", "height"))
    side, unit = found["side"].lower(), found["unit"].lower()
    is_one = (width is None) != (height is None)
    if (width is None and height is None) or (side and not is_one):
        raise _not_understood(text)
    if (side and width is None and side != "high") or (found["fit"] and is_one):
        raise _not_understood(text)
    if side == "high":
        width, height = None, height or width
    size = Dimensions(
        width=None if side == "long" else width,
        height=height,
        longest=width if side == "long" else None,
        unit=_UNITS.get(unit, unit),  # type: ignore[arg-type]
        dpi=_value(found["dpi"]),
        fit=_FITS.get((found["fit"] or "").lower(), "cover"),
    )
    return _checked(size, text)


def _checked(size: Dimensions, text: str) -> Dimensions:
    if size.dpi is not None and not (size.unit != "px" and 1 <= size.dpi <= MAX_DPI):
        raise UsageError(
            f"“{text}”: dots per inch go with a length, and are 1 to {MAX_DPI:,.0f}.",
            "invalid_dimensions",
        )
    if not all(0.5 <= side_px <= MAX_SIDE_PX for side_px, _ in size.sides_px(1, 1)):
        raise UsageError(f"“{text}”: a side has 1 to {MAX_SIDE_PX:,} pixels.", "invalid_dimensions")
    if size.percent is not None and not 0 < size.percent <= MAX_PERCENT:
        raise UsageError(f"“{text}”: a share is up to {MAX_PERCENT:,.0f} %.", "invalid_dimensions")
    return size


def _not_understood(text: str) -> UsageError:
    return UsageError(
        f"“{text}” is no size. Write 1200, 600 × 450, x 450, 1500 long, 60 %, as it came, or"
        " 10 × 15 cm at 300 dpi.",
        "invalid_dimensions",
    )


def _value(text: str | None) -> float | None:
    return None if text is None else float(text.replace(",", "."))


def _number(value: float) -> str:
    return f"{value:.6g}"
