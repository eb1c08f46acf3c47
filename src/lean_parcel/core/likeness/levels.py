"""Levels of likeness: from which score on which words hold. Told here only.

The limits follow the published scale of SSIMULACRA 2, see docs/metrics.md.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """Words that hold from a likeness of `least` on."""

    least: float
    words: str


#: From these likenesses on, no change is visible, and damage is hard to spot.
NO_CHANGE, HARD_TO_SPOT = 90.0, 80.0
VISIBLE_IF_YOU_LOOK = Level(least=70.0, words="visible if you look")
#: Best first; below the last a picture is damaged.
LEVELS = (
    Level(least=NO_CHANGE, words="no visible change"),
    Level(least=HARD_TO_SPOT, words="hard to spot"),
    VISIBLE_IF_YOU_LOOK,
    Level(least=50.0, words="plain to see"),
)
DAMAGED = "damaged"
#: Scores go on below 0, where there is nothing left to tell apart.
BEYOND_RECOGNITION = "beyond recognition"


def likeness_words(likeness: float) -> str:
    """The plain words for a likeness."""
    if likeness < 0:
        return BEYOND_RECOGNITION
    return next((level.words for level in LEVELS if likeness >= level.least), DAMAGED)


def likeness_number(likeness: float) -> str:
    """A likeness as it is shown: from 0 to 100, to one decimal."""
    return f"{max(0.0, likeness):.1f}"


def likeness_sentence(likeness: float) -> str:
    """What a likeness means in its place, as a sentence.

    >>> likeness_sentence(83.2), likeness_sentence(-4)
    ('Hard to spot.', 'Beyond recognition.')
    """
    return f"{likeness_words(likeness).capitalize()}."
