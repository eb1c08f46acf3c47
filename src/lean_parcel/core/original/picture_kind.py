"""The kind of a picture, photo, graphic or mixed, and the format to begin with.

Judged by statistics of neighbouring pixels on a copy of at most 1,280 pixels a side: how many
colours there are, and how many neighbours are equal (flat), nearly equal (gradients and grain) or
far apart (edges). The thresholds are our own, set on the demo photos and on drawn pictures.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lean_parcel.core.arrays import U8
from lean_parcel.core.formats import Format
from lean_parcel.core.picture.pixels import has_alpha

KindName = Literal["photo", "graphic", "mixed"]
_EDGE_CODES = 24
_FLAT_GRAPHIC, _FLAT_MIXED = 0.6, 0.35
_FEW_COLOURS = 4096


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureKind:
    """What was judged, and by which statistics: shares, 0 to 1, of neighbouring pixels, and the
    number of `colours` at 5 bits a channel."""

    name: KindName
    colours: int
    flat_share: float
    gradient_share: float
    edge_share: float
    has_alpha: bool
    uses_alpha: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """A format to start with, and why, in one sentence."""

    format: Format
    reason: str


def classify(pixels: U8) -> PictureKind:
    """The kind of the visible part of 8-bit pixels, (H, W, 3) or (H, W, 4)."""
    colour = pixels[..., :3]
    is_seen = pixels[..., 3] > 0 if has_alpha(pixels) else np.ones(pixels.shape[:2], bool)
    left, right = colour[:, :-1], colour[:, 1:]
    red, green, blue = np.moveaxis(np.maximum(left, right) - np.minimum(left, right), 2, 0)
    steps = np.maximum(np.maximum(red, green), blue)
    steps = steps[is_seen[:, 1:] & is_seen[:, :-1]]
    flat_share = float((steps == 0).mean()) if steps.size else 1.0
    edge_share = float((steps > _EDGE_CODES).mean()) if steps.size else 0.0
    coarse = (colour[is_seen] >> 3).astype(np.uint16)
    colours = np.unique((coarse[..., 0] << 10) | (coarse[..., 1] << 5) | coarse[..., 2]).size
    return PictureKind(
        name=_kind_name(flat_share, colours),
        colours=int(colours),
        flat_share=flat_share,
        gradient_share=1 - flat_share - edge_share,
        edge_share=edge_share,
        has_alpha=has_alpha(pixels),
        uses_alpha=has_alpha(pixels) and bool((pixels[..., 3] < 255).any()),
    )


def _kind_name(flat_share: float, colours: int) -> KindName:
    if flat_share >= _FLAT_GRAPHIC and colours <= _FEW_COLOURS:
        return "graphic"
    return "mixed" if flat_share >= _FLAT_MIXED else "photo"


def suggest_format(kind: PictureKind) -> Suggestion:
    """The format in which such pictures usually look best."""
    match kind.name:
        case "graphic":
            return Suggestion(
                format="png",
                reason=f"{kind.flat_share:.0%} of it is flat colour: a palette keeps such"
                " areas and their edges exact in few bytes.",
            )
        case "mixed":
            return Suggestion(
                format="webp",
                reason=f"{kind.flat_share:.0%} of it is flat and the rest is not: WebP takes"
                " both, with or without loss.",
            )
        case "photo" if kind.uses_alpha:
            return Suggestion(
                format="avif",
                reason="A photo with transparency: AVIF and WebP keep it at a photo's weight,"
                " JPEG cannot keep it, PNG is heavy.",
            )
        case "photo":
            return Suggestion(
                format="avif",
                reason="Gradients and grain nearly everywhere: AVIF spends the fewest bytes on"
                " them; JPEG opens everywhere.",
            )
