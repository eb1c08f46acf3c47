"""The kinds of damage, the scale of their strength, and its levels. Told here only."""

from typing import Literal, get_args

import numpy as np

from lean_parcel.core.arrays import F32

Kind = Literal[
    "lost-detail",
    "blocks",
    "ringing",
    "banding",
    "colour-bleeding",
    "colour-shift",
    "contrast-shift",
]
KINDS: tuple[Kind, ...] = get_args(Kind)
Severity = Literal["slight", "mild", "strong"]
#: A map of one kind: visibility by cell, (rows, columns) float32, 0 for none.
Maps = dict[Kind, F32]

KIND_NAMES: dict[Kind, str] = {
    "lost-detail": "lost detail",
    "blocks": "blocks",
    "ringing": "ringing",
    "banding": "banding",
    "colour-bleeding": "colour bleeding",
    "colour-shift": "colour shift",
    "contrast-shift": "contrast shift",
}
KIND_SENTENCES: dict[Kind, str] = {
    "lost-detail": "Fine texture, grain or sharpness is gone.",
    "blocks": "The squares in which the picture is coded show.",
    "ringing": "Ripples stand beside strong edges, such as lettering.",
    "banding": "A smooth gradient has become visible steps.",
    "colour-bleeding": "Colour runs across the edge of something coloured.",
    "colour-shift": "Colours are not what they were.",
    "contrast-shift": "Areas are lighter, darker or flatter than they were.",
}
#: From these strengths on; below the first nothing can be seen.
SEEN, MILD, STRONG = LEVELS_FROM = (6.0, 30.0, 55.0)
NOT_SEEN = "nothing seen"


def strength_of(visibility: float) -> float:
    """Strength, 0 to 100, of a visibility: an amplitude in multiples of what is plain to see.

    Saturates slowly (the contrast response of Naka and Rushton, 1966), so that worse is always
    more.

    >>> strength_of(0), strength_of(1), strength_of(4)
    (0.0, 50.0, 80.0)
    """
    return 100.0 * visibility / (1.0 + visibility)


def strengths_of(visibility: F32) -> F32:
    """`strength_of` for a map."""
    return np.asarray(100.0 * visibility / (1.0 + visibility), np.float32)


def level_of(strength: float) -> Severity:
    """The level of a strength that is seen."""
    if strength >= STRONG:
        return "strong"
    return "mild" if strength >= MILD else "slight"


def seen_words(strength: float) -> str:
    """The level of a strength in words, or that nothing is seen."""
    return level_of(strength) if strength >= SEEN else NOT_SEEN
