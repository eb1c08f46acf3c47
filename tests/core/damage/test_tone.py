"""How plain a changed tone is: 1 where it is plain to see."""

import numpy as np
import pytest

from lean_parcel.core.damage.measures.tone import Tone, contrast_shift


def seen(gain: float, shift: float, deviation: float, unlike: float) -> float:
    planes = (np.full((1, 1), value, np.float32) for value in (gain, shift, deviation, unlike))
    return float(contrast_shift(Tone(*planes))[0, 0])


@pytest.mark.parametrize(
    ("gain", "shift", "deviation", "unlike", "strength"),
    [
        (1, 0, 20, 0, 0),
        (1, 3.6, 0, 0, 1),  # lightness over a smooth area, either way
        (1, -3.6, 0, 0, 1),
        (1, 4.8, 0, 2, 1),  # of which lost detail explains 1.2
        (1, 1, 0, 2, 0),
        (1.2, 0, 10, 0, 2 / 3),  # a change by 2, where 1.5 + 0.15 × 10 is plain
        (0.8, 0, 10, 0, 2 / 3),
        (0.8, 0, 10, 2, 0.4 / 3),
        (1.2, 3.6, 10, 0, (1 + 4 / 9) ** 0.5),  # both together
    ],
)
def test_a_shift_and_a_change_of_amplitude_are_as_plain_as_they_look(
    gain: float, shift: float, deviation: float, unlike: float, strength: float
) -> None:
    assert seen(gain, shift, deviation, unlike) == pytest.approx(strength, abs=1e-5)
