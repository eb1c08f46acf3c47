"""The map of a kind of damage as a picture that can lie over the place."""

import io

import numpy as np
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.damage.found import codes_of_strength
from lean_parcel.core.damage.kinds import SEEN

#: Rust, as a colour that is seldom in the picture; what is strong hides most of it.
_COLOUR = (165, 52, 28)
_LEAST_ALPHA, _MOST_ALPHA = 60, 220


def overlay_png(codes: U8) -> bytes:
    """A PNG with a pixel a cell, more opaque where a map's strength is greater, and clear where
    nothing is seen."""
    least = codes_of_strength(SEEN)
    opaque = _LEAST_ALPHA + codes.astype(np.float32) / 250 * (_MOST_ALPHA - _LEAST_ALPHA)
    alpha = np.where(codes >= least, opaque, 0)
    colour = np.broadcast_to(np.array(_COLOUR, np.uint8), (*codes.shape, 3))
    out = io.BytesIO()
    Image.fromarray(np.dstack([colour, alpha.astype(np.uint8)])).save(out, "PNG")
    return out.getvalue()
