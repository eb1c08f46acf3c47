"""Trials and what comes of them: an encode to be made, what was measured of it, and a candidate."""

from dataclasses import dataclass

from lean_parcel.core.encoding.settings import PassThrough, Settings


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """An encode to be made: settings, and the pixels sent; or the original passed through."""

    settings: Settings
    width_px: int
    height_px: int

    @property
    def is_pass_through(self) -> bool:
        """Whether this is the original, as it came in."""
        return isinstance(self.settings, PassThrough)


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """What was measured of a file: its bytes, and its likeness in its place."""

    size_bytes: int
    likeness: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A trial that is worth offering, and whether it does what is aimed for."""

    trial: Trial
    measured: Measured
    meets_aim: bool
