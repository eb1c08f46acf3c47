"""How damage falls with bytes: damage is what likeness lacks to the best that its pixels can have,
and falls about as a power of the bytes.

Measured for this project over its demo photos; see docs/metrics.md.
"""

import math
from collections.abc import Sequence

from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.search.ladder import Rung
from lean_parcel.core.search.scales import Scale

#: How much slower or faster than usual two trials may say that damage falls with bytes.
_DECAYS = (0.1, 2.5)
#: Less damage than this counts as this much.
_LEAST_DAMAGE = 0.01


def likeness_at(nearest: Sequence[Measured], log_size: float, scale: Scale, rung: Rung) -> float:
    """The likeness to expect at a size, as its natural logarithm: from the nearest measurement
    along the power law of damage through the next one, or else with the usual power."""
    near = nearest[0]
    log_damage = _log_damage(near.likeness, rung)
    decay = _decay(nearest, scale, rung)
    return rung.ceiling - math.exp(log_damage - decay * (log_size - math.log(near.size_bytes)))


def log_size_at(nearest: Sequence[Measured], likeness: float, scale: Scale, rung: Rung) -> float:
    """The bytes to expect at a likeness, as their natural logarithm, by the same law."""
    near = nearest[0]
    fall = _log_damage(near.likeness, rung) - _log_damage(likeness, rung)
    return math.log(near.size_bytes) + fall / _decay(nearest, scale, rung)


def _decay(nearest: Sequence[Measured], scale: Scale, rung: Rung) -> float:
    """The power with which damage falls with bytes, through the two nearest measurements."""
    near, *others = nearest
    if not others or others[0].size_bytes == near.size_bytes:
        return scale.damage_decay
    fall = _log_damage(near.likeness, rung) - _log_damage(others[0].likeness, rung)
    low, high = (factor * scale.damage_decay for factor in _DECAYS)
    return min(max(fall / math.log(others[0].size_bytes / near.size_bytes), low), high)


def _log_damage(likeness: float, rung: Rung) -> float:
    """The natural logarithm of the damage: of what a likeness lacks to the ceiling of its rung."""
    return math.log(max(rung.ceiling - likeness, _LEAST_DAMAGE))
