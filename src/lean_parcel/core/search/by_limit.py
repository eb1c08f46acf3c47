"""The search by limit: for a format and a limit in bytes, the candidate that looks best.

It compares modes (chroma, quantisation) and pixel counts together. A draft pass ranks them, and the
pixel count of the first is refined. There the largest step that fits is found at full effort: the
step taken was measured to fit, and the next one not to. That one is tried with slightly fewer
pixels too, and at once where one encode tells well enough by how much it is too heavy: if that
nearly fills the limit and looks no worse than the step below is expected to, nothing else is
encoded there. A second mode whose drafts come close, or any where drafts turn out to say little of
this picture, is searched at the same pixel count, until what is measured there promises no more;
and so is the next best where drafts have promised too much.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.settings import is_draft
from lean_parcel.core.formats import Format
from lean_parcel.core.likeness.levels import HARD_TO_SPOT
from lean_parcel.core.search.bracket import SizeBracket
from lean_parcel.core.search.draft_pass import Estimate, draft_pass, likeness_at
from lean_parcel.core.search.ladder import PartTrial, Rung, SearchInput, trial_at
from lean_parcel.core.search.protocol import FormatSearch, TrialSearch, asked_once
from lean_parcel.core.search.refining import fitting_rung, refined
from lean_parcel.core.search.scales import LOSSLESS, Scale, scales_of

#: No lossless file is tried where even this fraction of a quickly deflated PNG exceeds the limit.
#: The lowest seen were 0.28 (WebP at its highest effort) and 0.30 (PNG), for a scanned drawing.
LOSSLESS_FLOOR = 0.2
#: Encodes and drafts that a search spends, unless an encoder is unlike all others; those kept for
#: a draft pass that has found something, and for the end; those that a second place takes; and what
#: a draft of a part counts.
MOST_TRIALS, _AFTER_DRAFTS, _FOR_THE_END, _FOR_A_SECOND, _OF_A_PART = 12, 4, 6, 2, 0.5
#: How far, as a share of the first's damage, the second of a draft pass may be behind and is still
#: searched. Drafts tell modes apart better than pixel counts.
_CLOSE_MODES, _CLOSE_PIXELS = 0.02, 0.05
#: Where the first place looks better than its drafts promised by so much, they say little: line art
#: as AVIF uses tools that drafts do without.
_UNLIKE_DRAFTS = 5
#: How often a width is tried for a step, which may turn out too heavy.
_FILLINGS = 2
#: Where less of the limit than this is left, nothing more is tried to fill it.
_LEAST_LEFT = 0.015
#: A step that is expected to exceed the limit by this factor does, and one by no more than that is
#: worth fewer pixels; what fills so much of the limit needs no further search.
_CLEARLY, _SLIGHTLY, _NEARLY = 1.02, 1.25, 0.95
#: Pictures from here on take so long that less of a limit is enough, and what is left of it is
#: filled while somebody looks: five encodes of a banner of 2880 x 1200 px took a quarter of its
#: search.
_HEAVY_PX, _HEAVY_NEARLY = 2_500_000, 0.85


def search_by_limit(
    name: Format, search_input: SearchInput, limit_bytes: int, background: str
) -> FormatSearch:
    """The search in one format: returns the best candidate that fits, or where nothing fits the
    smallest that is worth offering. No trial is asked for twice."""
    made: dict[Trial, Measured] = {}
    search = _search(name, search_input, limit_bytes, background, made)
    found = yield from asked_once(search, made)
    fitting = [
        _judged(trial, measured, limit_bytes)
        for trial, measured in made.items()
        if measured.size_bytes <= limit_bytes and not isinstance(trial, PartTrial)
    ]
    # A draft at few pixels can be lighter than the encode that it stands for.
    finished = [each for each in fitting if not is_draft(each.trial.settings)]
    return max(finished or fitting or [found], key=_likeness)


def _search(
    name: Format,
    search_input: SearchInput,
    limit_bytes: int,
    background: str,
    made: dict[Trial, Measured],
) -> FormatSearch:
    rungs = search_input.rungs
    lossless = LOSSLESS.get(name)
    if lossless and LOSSLESS_FLOOR * rungs[0].quick_png_size_bytes <= limit_bytes:
        trial = trial_at(lossless, rungs[0])
        measured = yield trial
        if measured.size_bytes <= limit_bytes:
            return _judged(trial, measured, limit_bytes)
    scales = scales_of(name, search_input, background)
    while rungs:
        estimates = yield from draft_pass(
            scales, rungs, limit_bytes, lambda: _spent(made) >= MOST_TRIALS - _AFTER_DRAFTS
        )
        found = yield from _best_place(estimates, rungs, limit_bytes, made)
        if found:
            return found
        rungs = rungs[1 + max(rungs.index(estimate.rung) for estimate in estimates) :]
    return (yield from _last_resort(scales, search_input.rungs[-1], limit_bytes, made))


def _best_place(
    estimates: Sequence[Estimate],
    rungs: Sequence[Rung],
    limit_bytes: int,
    made: dict[Trial, Measured],
) -> TrialSearch[Candidate | None]:
    """The candidate of the first place in which anything fits, or of a second one that is close and
    better; None where nothing fits in any. Where damage is hard to spot, no second place is
    searched: what it might gain is not seen."""
    viable = [each for each in estimates if each.likeness > -math.inf]
    for index, first in enumerate(viable):
        place = yield from _refined(first, viable, rungs, limit_bytes, made)
        found = yield from _found_at(place, rungs, limit_bytes, made)
        if found is None and place != first:  # refined to more pixels than fit
            place = first
            found = yield from _found_at(place, rungs, limit_bytes, made)
        if found is None:
            continue
        if found.measured.likeness >= HARD_TO_SPOT or _spent(made) > MOST_TRIALS - _FOR_A_SECOND:
            return found
        others = (each for each in viable[index + 1 :] if _is_other(each, first, rungs))
        is_unlike = found.measured.likeness > place.likeness + _UNLIKE_DRAFTS
        second = next(
            (
                each
                for each in others
                if _is_close(each, first) or (is_unlike and each.rung == first.rung)
            ),
            None,
        )
        if second is None:
            return found
        if second.scale != first.scale and rungs[0] not in (first.rung, second.rung):
            second = _at_width(second, place.rung, rungs)
        else:
            second = yield from _refined(second, viable, rungs, limit_bytes, made)
        return (yield from _better_of(found, second, limit_bytes, made))
    return None


def _refined(
    place: Estimate,
    estimates: Sequence[Estimate],
    rungs: Sequence[Rung],
    limit_bytes: int,
    made: dict[Trial, Measured],
) -> TrialSearch[Estimate]:
    """A place with the best pixel count beside its own; all pixels are a case of their own, since
    even slightly fewer lose some sharpness at once."""
    if place.rung == rungs[0]:
        return place
    fewer = [each for each in estimates if each.rung != rungs[0]]
    most = int(MOST_TRIALS - _FOR_THE_END - _spent(made))
    return (yield from refined(place, fewer, rungs, limit_bytes, most))


def _spent(made: Iterable[Trial]) -> float:
    """What the trials so far count of `MOST_TRIALS`."""
    return sum(_OF_A_PART if isinstance(trial, PartTrial) else 1 for trial in made)


def _is_other(second: Estimate, first: Estimate, rungs: Sequence[Rung]) -> bool:
    """Whether a place is of another mode, or the one of all pixels and the other of fewer."""
    is_full = second.rung == rungs[0], first.rung == rungs[0]
    return second.scale != first.scale or is_full[0] != is_full[1]


def _is_close(second: Estimate, first: Estimate) -> bool:
    """Whether drafts cannot tell that the second place is worse."""
    close = _CLOSE_MODES if second.rung == first.rung else _CLOSE_PIXELS
    return 100 - second.likeness <= (1 + close) * (100 - first.likeness)


def _at_width(place: Estimate, rung: Rung, rungs: Sequence[Rung]) -> Estimate:
    """A place with the pixel count of another, whose bytes differ as the known curve says."""
    if rung.width_px == place.rung.width_px:
        return place
    before, after = place.scale.log_sizes(place.rung), place.scale.log_sizes(rung)
    moved = [
        log_size + there - here
        for log_size, here, there in zip(place.log_sizes, before, after, strict=True)
    ]
    return replace(place, rung=rung, log_sizes=moved, known={})


def _found_at(
    place: Estimate, rungs: Sequence[Rung], limit_bytes: int, made: dict[Trial, Measured]
) -> TrialSearch[Candidate | None]:
    """The best candidate of a place, with as many pixels as it has, or slightly fewer or more; None
    where nothing fits."""
    found = yield from _short_cut(place, rungs, limit_bytes)
    if found:
        return found
    is_heavy = rungs[0].width_px * rungs[0].height_px >= _HEAVY_PX
    nearly = _HEAVY_NEARLY if is_heavy else _NEARLY
    found = yield from _fitted(place, limit_bytes, place.scale.lowest_step, made, nearly)
    if found and not is_heavy:
        found = yield from _filled(found, place, rungs, limit_bytes, made)
    return found


def _short_cut(
    place: Estimate, rungs: Sequence[Rung], limit_bytes: int
) -> TrialSearch[Candidate | None]:
    """The first step that is tried at a place, where it is slightly too heavy, with as many pixels
    as fit; None where that does not fill the limit, or looks worse than the step below is expected
    to."""
    bracket, measured = _bracket(place, limit_bytes, place.scale.lowest_step)
    step = bracket.next_step()
    if step is None:
        return None
    measured[step] = heavy = yield place.scale.trial(step, place.rung)
    bracket.add(step, heavy.size_bytes)
    if bracket.first_above() != step or heavy.size_bytes > _SLIGHTLY * limit_bytes:
        return None
    below = step - 1
    expected_bytes = bracket.expected_bytes(max(below, 0))
    rung = fitting_rung(place.rung, heavy, rungs, limit_bytes)
    if rung is None or below in measured or expected_bytes >= _NEARLY * limit_bytes:
        return None
    trial = trial_at(place.scale.trial(step, place.rung).settings, rung)
    filled = yield trial
    is_full = _NEARLY * limit_bytes <= filled.size_bytes <= limit_bytes
    promised = _promised(place, measured.values(), expected_bytes)
    is_better = below < place.scale.lowest_step or filled.likeness >= promised
    return _judged(trial, filled, limit_bytes) if is_full and is_better else None


def _fitted(
    place: Estimate,
    limit_bytes: int,
    lowest: int,
    made: dict[Trial, Measured],
    nearly: float = _NEARLY,
) -> TrialSearch[Candidate | None]:
    """The largest step of a place, from `lowest` on, that fits; None where none does. Once as much
    is spent as a search may, one that fills the limit `nearly` is enough."""
    bracket, measured = _bracket(place, limit_bytes, lowest)
    while (step := bracket.next_step()) is not None:
        is_full = _is_full(bracket, limit_bytes, nearly)
        if is_full and (_is_settled(bracket, limit_bytes) or _spent(made) >= MOST_TRIALS):
            break
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
    if bracket.best is None:
        return None
    trial = place.scale.trial(bracket.best, place.rung)
    return _judged(trial, measured[bracket.best], limit_bytes)


def _is_settled(bracket: SizeBracket, limit_bytes: int) -> bool:
    """Whether the step after the largest that was measured to fit clearly does not fit."""
    best = bracket.best
    if best is None or bracket.first_above() != best + 1:
        return False
    return bracket.expected_bytes(best + 1) >= _CLEARLY * limit_bytes


def _is_full(bracket: SizeBracket, limit_bytes: int, nearly: float) -> bool:
    """Whether the largest step that was measured to fit `nearly` fills the limit."""
    best = bracket.best
    return best is not None and bracket.expected_bytes(best) >= nearly * limit_bytes


def _filled(
    found: Candidate,
    place: Estimate,
    rungs: Sequence[Rung],
    limit_bytes: int,
    made: dict[Trial, Measured],
) -> FormatSearch:
    """A candidate, or one that uses more of the limit, if that looks better: the next step with as
    many pixels as fit, or the same step with more."""
    above = _next_step(found.trial, place)
    for settings, known in (
        (above.settings, made.get(above)),
        (found.trial.settings, found.measured),
    ):
        rung: Rung | None = place.rung
        for _ in range(_FILLINGS):
            is_left = found.measured.size_bytes <= (1 - _LEAST_LEFT) * limit_bytes
            if known is None or rung is None or not is_left or _spent(made) >= MOST_TRIALS:
                break
            rung = fitting_rung(rung, known, rungs, limit_bytes)
            if rung is None:
                break
            trial = trial_at(settings, rung)
            known = yield trial
            if known.size_bytes <= limit_bytes:
                if known.likeness > found.measured.likeness:
                    return _judged(trial, known, limit_bytes)
                break
    return found


def _better_of(
    first: Candidate, place: Estimate, limit_bytes: int, made: dict[Trial, Measured]
) -> FormatSearch:
    """A candidate, or the largest step of another place that fits, if that looks better; given up
    as soon as what was measured there promises no more likeness at as many bytes."""
    to_beat = first.measured
    bracket, measured = _bracket(place, limit_bytes, place.scale.lowest_step)
    while (step := bracket.next_step()) is not None:
        measured[step] = yield place.scale.trial(step, place.rung)
        bracket.add(step, measured[step].size_bytes)
        fitting = [m.likeness for m in measured.values() if m.size_bytes <= limit_bytes]
        promised = max([_promised(place, measured.values(), to_beat.size_bytes), *fitting])
        if promised <= to_beat.likeness or _spent(made) >= MOST_TRIALS:
            return first
    if bracket.best is None or measured[bracket.best].likeness <= to_beat.likeness:
        return first
    trial = place.scale.trial(bracket.best, place.rung)
    return _judged(trial, measured[bracket.best], limit_bytes)


def _bracket(
    place: Estimate, limit_bytes: int, lowest: int
) -> tuple[SizeBracket, dict[int, Measured]]:
    """A bracket over a place, and what was measured there before, by step."""
    measured = {step: each for step, each in place.known.items() if step >= lowest}
    sizes = {step: each.size_bytes for step, each in measured.items()}
    return SizeBracket(place.log_sizes, limit_bytes, sizes, lowest), measured


def _promised(place: Estimate, measured: Iterable[Measured], size_bytes: float) -> float:
    """The likeness to expect of a place at a size, from what was measured there."""
    log_size = math.log(size_bytes)
    nearest = sorted(measured, key=lambda each: abs(math.log(each.size_bytes) - log_size))
    return likeness_at(nearest, log_size, place.scale, place.rung)


def _next_step(trial: Trial, place: Estimate) -> Trial:
    """The step after that of a trial; the trial itself at the last one."""
    trials = [place.scale.trial(step, place.rung) for step in range(len(place.log_sizes))]
    return trials[min(trials.index(trial) + 1, len(trials) - 1)]


def _last_resort(
    scales: Sequence[Scale], rung: Rung, limit_bytes: int, made: dict[Trial, Measured]
) -> FormatSearch:
    """Where nothing that was drafted fits: the best at the fewest pixels that is worth offering, or
    at any quality; or else the smallest that is worth offering, which does not fit."""
    places = [Estimate(scale=each, rung=rung, log_sizes=each.log_sizes(rung)) for each in scales]
    for any_quality in (False, True):
        fitting = []
        for place in places:
            lowest = 0 if any_quality else place.scale.lowest_step
            found = yield from _fitted(place, limit_bytes, lowest, made)
            fitting += [found] if found else []
        if fitting:
            return max(fitting, key=_likeness)
    trial = scales[0].trial(scales[0].lowest_step, rung)
    measured = yield trial
    return _judged(trial, measured, limit_bytes)


def _judged(trial: Trial, measured: Measured, limit_bytes: int) -> Candidate:
    return Candidate(trial=trial, measured=measured, meets_aim=measured.size_bytes <= limit_bytes)


def _likeness(candidate: Candidate) -> float:
    return candidate.measured.likeness
