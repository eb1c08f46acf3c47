"""The empty margins of an original."""

from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import shown
from lean_parcel.core.picture.trim import find_margins

#: Up to so many pixels margins are exact; of more only every second (third, ...) is looked at.
_MAX_PIXELS = 30_000_000


def photo_margins(data: bytes, name: str, orientation: int, limits: Limits) -> Box | None:
    """What lies inside a photo's empty margins, in the picture turned by `orientation`; None
    without any. Exact to the pixel up to _MAX_PIXELS, to a few pixels beyond. Raises a
    PhotoError."""
    pixels = open_pixels(data, name, limits)
    step = 1 + int((pixels.shape[0] * pixels.shape[1] / _MAX_PIXELS) ** 0.5)
    box = find_margins(shown(pixels[::step, ::step], orientation))
    if box is None or step == 1:
        return box
    height_px, width_px = shown(pixels[:, :, :1], orientation).shape[:2]
    left_px, top_px = box.left_px * step, box.top_px * step
    return Box(
        left_px=left_px,
        top_px=top_px,
        width_px=min(width_px - left_px, box.width_px * step),
        height_px=min(height_px - top_px, box.height_px * step),
    )
