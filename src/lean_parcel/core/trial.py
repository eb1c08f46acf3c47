"""What a search tries and what comes of it: pixel counts, trials, measurements, candidates."""

from dataclasses import dataclass

from lean_parcel.core.encode import KeptSettings, Settings

#: Fractions of the framed width that a candidate may have.
PIXEL_RATIOS = (1.0, 0.75, 0.5, 0.35, 0.25)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """A pixel count that a candidate may have, and its weight as a baseline JPEG (`probe`) and as a
    quickly deflated PNG. Its `ceiling` is the likeness of its undamaged pixels after the browser's
    enlargement, and bounds what any encoder can reach there."""

    width_px: int
    height_px: int
    probe_size_bytes: int
    quick_png_size_bytes: int
    ceiling: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """What a search knows of a framed photo: its rungs, most pixels first; whether any of it is
    transparent; and whether all of it is grey. Until it is sized up the rungs below the first are
    missing, and it passes for coloured."""

    rungs: tuple[Rung, ...]
    is_transparent: bool
    is_grey: bool = False
    is_sized_up: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """An encode to be made: settings, and pixels sent; or the original, which is kept."""

    settings: Settings
    width_px: int
    height_px: int

    @property
    def is_kept(self) -> bool:
        """Whether this is the original."""
        return isinstance(self.settings, KeptSettings)


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """What a real encode came to: bytes, and likeness in its place."""

    size_bytes: int
    likeness: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A trial that is worth offering."""

    trial: Trial
    measured: Measured
    within_limit: bool


def trial_at(settings: Settings, rung: Rung) -> Trial:
    """Settings at a pixel count."""
    return Trial(settings=settings, width_px=rung.width_px, height_px=rung.height_px)
