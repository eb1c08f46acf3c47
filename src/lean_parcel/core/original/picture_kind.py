"""The kind of a picture, photo, graphic or mixed, and the format to begin with.

Judged by statistics of neighbouring pixels on a copy of at most 1,280 pixels a side: how many
colours there are, and how many neighbours are equal (flat), nearly equal (gradients and grain) or
far apart (edges). The thresholds are our own, set on the demo photos and on drawn pictures.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lean_parcel.core.arrays import U8
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.pixels import has_alpha

KindName = Literal["photo", "graphic", "mixed"]
AdviceGroup = Literal["few colours", "graphic", "mixed", "photo"]
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
class Advice:
    """A format to begin with, and in how many of the trials with pictures of the same group it
    was best, or as good."""

    format: Format
    right: int
    tried: int


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


def formats_for(source: Source) -> tuple[Format, ...]:
    """The formats that suit the picture of an original: all, but for PNG of a photograph: of the
    seven among the demo photos it came last, by 14 to 26 of likeness (`lean-parcel fit *.jpg
    --width 800 --limit 60kB --likeness best --formats jpeg,png,webp,avif`)."""
    return tuple(name for name in FORMATS if name != "png" or not source.is_photograph)


def _kind_name(flat_share: float, colours: int) -> KindName:
    if flat_share >= _FLAT_GRAPHIC and colours <= _FEW_COLOURS:
        return "graphic"
    return "mixed" if flat_share >= _FLAT_MIXED else "photo"


#: What looked best, or within a point of it, within the same bytes, on 47 pictures and three limits
#: each: `python -m benchmarks.format_advice`, see docs/metrics.md.
_ADVICE: dict[AdviceGroup, Advice] = {
    "few colours": Advice(format="png", right=40, tried=42),
    "graphic": Advice(format="avif", right=22, tried=39),
    "mixed": Advice(format="avif", right=12, tried=12),
    "photo": Advice(format="avif", right=48, tried=48),
}
_VERY_FEW_COLOURS = 100


def advice_group(kind: PictureKind) -> AdviceGroup:
    """What of a kind the advice depends on: graphics of very few colours are told apart."""
    if kind.name == "graphic" and kind.colours <= _VERY_FEW_COLOURS:
        return "few colours"
    return kind.name


def advise_format(kind: PictureKind) -> Advice:
    """The format that looked best most often on pictures of the same group."""
    return _ADVICE[advice_group(kind)]
