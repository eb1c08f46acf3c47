"""A Gaussian process over the encodes of a picture: what was measured of a few tells of all others.

Rasmussen and Williams, Gaussian Processes for Machine Learning (2006), chapter 2: a linear model in
a few features, whose coefficients are shared between the modes of a format, or belong to one; and a
local term for what is like its neighbours only.
"""

from dataclasses import dataclass

import numpy as np

from lean_parcel.core.arrays import F64


@dataclass(frozen=True, slots=True, kw_only=True)
class Prior:
    """How far pictures differ from the average one, as standard deviations of natural logarithms.

    `shared` by all modes of a format, and per unit of the `distance` on the curve, the logarithm of
    the `width`, the `softness`, and softness times distance; of one `mode`, and per distance there;
    `local`, within the reaches in distance and width; and `noise` between neighbouring encodes.
    """

    shared: float
    distance: float
    width: float
    softness: float
    softness_distance: float
    mode: float
    mode_distance: float
    local: float
    reach_distance: float
    reach_width: float
    noise: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftError:
    """By how much a draft differs from its encode, in natural logarithms: on average, as standard
    deviation between pictures, which all drafts of one share, and between drafts of one picture."""

    mean: float
    shared: float
    own: float


_EXACT = DraftError(mean=0.0, shared=0.0, own=0.0)


@dataclass(frozen=True, slots=True)
class Points:
    """Where encodes lie, all float64 (N,): the index of their mode, the distance on its curve, the
    natural logarithm of their width over all pixels', and the softness of their rung."""

    mode: F64
    distance: F64
    log_width: F64
    softness: F64


class Process:
    """The residuals at all points: their `mean` and `deviation`, float64 (N,), given what was
    observed so far."""

    def __init__(self, prior: Prior, points: Points) -> None:
        distance, softness = points.distance, points.softness
        self._prior, self._points = prior, points
        self._shared = np.column_stack(
            [
                np.full(len(distance), prior.shared),
                prior.distance * distance,
                prior.width * points.log_width,
                prior.softness * softness,
                prior.softness_distance * softness * distance,
            ]
        )
        self._own = np.column_stack(
            [np.full(len(distance), prior.mode), prior.mode_distance * distance]
        )
        self._variance = (self._shared**2).sum(1) + (self._own**2).sum(1) + prior.local**2
        self._across = np.empty((len(distance), 0))
        self._observed: list[int] = []
        self._residuals: list[float] = []
        self._errors: list[DraftError] = []
        self.mean: F64 = np.zeros(len(distance))
        self.deviation: F64 = np.sqrt(self._variance + prior.noise**2)

    def observe(self, point: int, residual: float, error: DraftError | None = None) -> None:
        """Takes in the residual at a point, as an encode told it, or a draft with its error."""
        error = error or _EXACT
        self._across = np.column_stack([self._across, self.covariance(point)])
        self._observed.append(point)
        self._residuals.append(residual - error.mean)
        self._errors.append(error)
        noise = self._prior.noise**2
        own = [noise + each.own**2 for each in self._errors]
        shared = [each.shared for each in self._errors]
        among = self._across[self._observed] + np.diag(own) + np.outer(shared, shared)
        inverse = np.linalg.inv(among)
        self.mean = self._across @ (inverse @ self._residuals)
        explained = np.einsum("no,no->n", self._across @ inverse, self._across)
        self.deviation = np.sqrt(np.maximum(self._variance - explained, 0) + noise)

    def covariance(self, point: int) -> F64:
        """That of a point with all points, but for noise; float64 (N,)."""
        prior, points = self._prior, self._points
        is_alike = points.mode == points.mode[point]
        distances = (points.distance - points.distance[point]) / prior.reach_distance
        widths = (points.log_width - points.log_width[point]) / prior.reach_width
        near = np.exp(-0.5 * (distances**2 + widths**2))
        covariance: F64 = (
            self._shared @ self._shared[point]
            + is_alike * (self._own @ self._own[point])
            + prior.local**2 * np.where(is_alike, 1.0, 0.5) * near
        )
        return covariance
