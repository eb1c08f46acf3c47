"""An encoder of known curves, in the place of real ones."""

import math
from collections.abc import Callable
from dataclasses import replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import AvifSettings, PngSettings, Settings, WebpSettings
from lean_parcel.core.search.ladder import SearchInput, rung_between
from lean_parcel.core.search.protocol import FormatSearch
from tests.builders import rung

SEARCH_INPUT = SearchInput(
    rungs=(
        rung(1000, 667, 80_000, ceiling=100),
        rung(750, 500, 50_000, ceiling=88),
        rung(500, 333, 26_000, ceiling=74),
        rung(350, 233, 14_000, ceiling=55),
        rung(250, 167, 8_000, ceiling=40),
    ),
    is_transparent=False,
)
Encoder = Callable[[Trial], Measured]


def is_lossless(settings: Settings) -> bool:
    return settings in (WebpSettings(quality=75, lossless=True), PngSettings(colours=None))


def fake_encoder(trial: Trial) -> Measured:
    """Bytes rise with quality and pixels; likeness comes near the rung's ceiling from below."""
    at = rung_between(SEARCH_INPUT.rungs, trial.width_px)
    if is_lossless(trial.settings):
        return Measured(
            size_bytes=SEARCH_INPUT.rungs[0].quick_png_size_bytes // 2, likeness=at.ceiling
        )
    values = QUALITIES[trial.settings.format]
    quality = getattr(trial.settings, "quality", None) or getattr(trial.settings, "colours", 0)
    share = values.index(quality) / len(values)
    chroma = 1.15 if getattr(trial.settings, "chroma", "") == "4:4:4" else 1
    size_bytes = int(at.probe_size_bytes * chroma * math.exp(4 * share - 3))
    return Measured(size_bytes=size_bytes, likeness=at.ceiling - 120 * (1 - share) ** 2)


def large(times: int) -> tuple[SearchInput, Encoder]:
    """The known photo with so many times the width, and the encoder of it; modes are alike."""
    search_input = replace(
        SEARCH_INPUT,
        rungs=tuple(
            replace(rung, width_px=times * rung.width_px, height_px=times * rung.height_px)
            for rung in SEARCH_INPUT.rungs
        ),
    )

    def encoder(trial: Trial) -> Measured:
        settings = trial.settings
        if isinstance(settings, AvifSettings):
            settings = replace(settings, chroma="4:2:0")
        width_px, height_px = trial.width_px // times, trial.height_px // times
        return fake_encoder(Trial(settings=settings, width_px=width_px, height_px=height_px))

    return search_input, encoder


def carry_out(search: FormatSearch, encoder: Encoder) -> tuple[Candidate, dict[Trial, Measured]]:
    """A search's candidate, and everything it had encoded."""
    made: dict[Trial, Measured] = {}
    trial = next(search)
    while True:
        assert trial not in made, "nothing is encoded twice"
        made[trial] = encoder(trial)
        try:
            trial = search.send(made[trial])
        except StopIteration as end:
            return end.value, made
