"""The bounds that the core enforces on its values, for the document: they are checked, and told in
words, by the values themselves."""

from typing import Any

from lean_parcel.core.framing.framing import MAX_STRAIGHTEN_DEG
from lean_parcel.core.framing.place import DENSITIES
from lean_parcel.core.picture.sharpen import (
    AMOUNTS_PERCENT,
    RADII_PX,
    THRESHOLDS_CODES,
)

Keywords = dict[str, float]


def between(least: float, most: float) -> Keywords:
    """Bounds that belong to the range, as JSON Schema says them."""
    return {"minimum": least, "maximum": most}


_BOUNDS: dict[str, dict[str, Keywords]] = {
    "Place": {"density": between(*DENSITIES)},
    "Focus": {"x": between(0, 1), "y": between(0, 1)},
    "Sharpen": {
        "amount_percent": between(*AMOUNTS_PERCENT),
        "radius_px": between(*RADII_PX),
        "threshold_codes": between(*THRESHOLDS_CODES),
    },
    "FramingChangeRequest": {
        "straighten_deg": between(-MAX_STRAIGHTEN_DEG, MAX_STRAIGHTEN_DEG),
    },
}


def add_bounds(schemas: dict[str, Any]) -> None:
    """Writes the bounds into the schemas of the values."""
    for name, fields in _BOUNDS.items():
        for field, keywords in fields.items():
            schema = schemas[name]["properties"][field]
            for choice in schema.get("anyOf", [schema]):
                if choice.get("type") in ("integer", "number"):
                    choice.update(keywords)
