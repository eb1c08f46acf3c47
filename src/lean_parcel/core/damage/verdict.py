"""The verdict: what is wrong with a candidate, in words."""

from collections.abc import Mapping

import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.kinds import KINDS, SEEN, Kind, Severity, level_of, strengths_of

NOTHING_SEEN = "No damage is seen."
_MOST_KINDS = 3
#: What each kind does: with an adverb, and as it is.
_DOES: dict[Kind, str] = {
    "lost-detail": "fine texture is {}smoothed",
    "blocks": "blocks {}show",
    "ringing": "edges {}ring",
    "banding": "smooth areas {}band",
    "colour-bleeding": "colours {}bleed across edges",
    "colour-shift": "colours are {}shifted",
    "contrast-shift": "contrast is {}changed",
}
_HOW: dict[Severity, str] = {"slight": "slightly ", "mild": "", "strong": "strongly "}
#: An area counts while at least this share of the worst is left in it.
_LEFT = 0.5
#: From this share of the picture on, a kind is everywhere.
_EVERYWHERE = 0.6
#: A third has a kind where at least this share of it is there.
_NEARLY_ALL = 0.8
#: Where a kind is, by its third from the top, then from the left; the last is more than one third.
_WORDS = (
    ("at the upper left", "at the top", "at the upper right", "in the upper third"),
    ("on the left", "in the middle", "on the right", "across the middle"),
    ("at the lower left", "at the bottom", "at the lower right", "in the lower third"),
    ("on the left", "down the middle", "on the right", "in many places"),
)


def verdict(seen: Mapping[Kind, F32], cause: str | None = None) -> str:
    """Up to three kinds, worst first, each with where it is, from `glanced` maps of visibility;
    then the likely `cause` where it is known."""
    worst = {kind: float(strengths_of(seen[kind]).max()) for kind in KINDS}
    named = sorted((kind for kind in KINDS if worst[kind] >= SEEN), key=lambda kind: -worst[kind])
    if not named:
        return NOTHING_SEEN
    told = named[:_MOST_KINDS]
    parts = [
        f"{_DOES[kind].format(_HOW[level_of(worst[kind])])} {where_most(seen[kind])}"
        for kind in told
    ]
    if not any(part.endswith("all over") for part in parts):
        parts.append("the rest holds")
    sentence = "; ".join(parts)
    ending = f" {cause}" if cause else ""
    return f"{sentence[0].upper()}{sentence[1:]}.{ending}"


def where_most(plane: F32) -> str:
    """In which part of the picture most of a kind is, from its map of visibility."""
    bad = plane >= max(_LEFT * float(plane.max()), SEEN / (100 - SEEN))
    if bad.mean() >= _EVERYWHERE:
        return "all over"
    rows, columns = np.nonzero(bad)
    vertical = _third(rows, plane.shape[0])
    horizontal = _third(columns, plane.shape[1])
    return _WORDS[vertical][horizontal]


def _third(at: np.ndarray, length: int) -> int:
    """The third in which nearly all of the places are, or 3."""
    counts = np.bincount(np.minimum(at * 3 // length, 2), minlength=3)
    third = int(counts.argmax())
    return third if counts[third] >= _NEARLY_ALL * counts.sum() else 3
