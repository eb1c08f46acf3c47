"""All seven measures of one comparison, on one grid of cells; what one kind explains is not told
as another."""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.kinds import Kind, Maps
from lean_parcel.core.damage.measures.banding import banding
from lean_parcel.core.damage.measures.blocks import blocks
from lean_parcel.core.damage.measures.colour import colour_bleeding, colour_shift
from lean_parcel.core.damage.measures.detail import lost_detail
from lean_parcel.core.damage.measures.ringing import ringing
from lean_parcel.core.damage.measures.tone import contrast_shift, tone
from lean_parcel.core.damage.measures.unlike import unlike
from lean_parcel.core.damage.measures.view import View, spread, view_of
from lean_parcel.core.likeness.reference import Comparison

#: What the visibility of each measure is multiplied with, so that the same strength means about the
#: same for every kind; see docs/damage.md.
SCALES: dict[Kind, float] = {
    "lost-detail": 1.2,
    "blocks": 0.8,
    "ringing": 0.25,
    "banding": 0.53,
    "colour-bleeding": 1.5,
    "colour-shift": 0.6,
    "contrast-shift": 0.65,
}


def measured(original: View, own: View, comparison: Comparison) -> tuple[Maps, F32]:
    """Visibility of each kind by cell, (rows, columns) float32, and how unlike each cell is; in
    about 80 ms a megapixel on one core.

    `original` is the view of the comparison's original, and `own` that of the original with as many
    pixels as the candidate has.
    """
    candidate = view_of(comparison.candidate, comparison.gamut, comparison.candidate_xyb)
    seen = tone(original, candidate)
    lost = lost_detail(original, candidate, seen.gain)
    steps, bands = _on_own_grid(original, own, candidate, comparison)
    shift = colour_shift(original, candidate)
    contrast = contrast_shift(seen)
    left = np.sqrt((spread(candidate.busy[0], 2) + 0.3) / (spread(original.busy[0], 2) + 0.3))
    bleeding = colour_bleeding(original, candidate) * np.minimum(left, 1)
    near_steps = _around(steps, 5)
    bleeding = _less(bleeding, 1.2 * _around(lost, 3), 0.5 * shift) / (1 + 2 * near_steps)
    rings = _less(ringing(original, candidate, seen.gain), 0.8 * bleeding, _around(contrast, 5))
    unexplained = bands / (1 + (original.edges[1] / 4) ** 2) / (1 + (4 * near_steps) ** 2)
    bands = _less(unexplained, 2 * _around(rings, 9), bleeding)
    maps: Maps = {
        "lost-detail": lost / (1 + 2 * near_steps),
        "blocks": steps,
        "ringing": rings,
        "banding": bands,
        "colour-bleeding": bleeding,
        "colour-shift": shift,
        "contrast-shift": contrast,
    }
    on_one_scale = {kind: plane * np.float32(SCALES[kind]) for kind, plane in maps.items()}
    return on_one_scale, unlike(original, candidate)


def _on_own_grid(
    original: View, own: View, candidate: View, comparison: Comparison
) -> tuple[F32, F32]:
    """Blocks and banding, measured on the candidate's own pixels and mapped into the place."""
    if own is original:
        return blocks(original, candidate), banding(original, candidate)
    decoded = view_of(comparison.as_decoded, comparison.gamut)
    size = original.shape[::-1]
    steps, bands = (
        cv2.resize(measure(own, decoded), size, interpolation=cv2.INTER_LINEAR)
        for measure in (blocks, banding)
    )
    return np.asarray(steps, np.float32), np.asarray(bands, np.float32)


def _around(plane: F32, side: int) -> F32:
    return np.asarray(cv2.dilate(plane, np.ones((side, side), np.uint8)), np.float32)


def _less(plane: np.ndarray, *explained: F32) -> F32:
    return np.asarray(np.maximum(plane - sum(explained), 0), np.float32)
