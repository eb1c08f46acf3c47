"""The task that finds the empty margins of an original."""

from lean_parcel.core.original.margins import photo_margins
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.box import Box


def margins_task(data: bytes, name: str, orientation: int, limits: Limits) -> Box | None:
    """What lies inside a photo's empty margins: see `photo_margins`."""
    return photo_margins(data, name, orientation, limits)
