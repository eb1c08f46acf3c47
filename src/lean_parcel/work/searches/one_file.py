"""Searching for one file without a workspace: what the command line and the benchmarks do."""

from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future
from dataclasses import dataclass, replace
from queue import SimpleQueue
from typing import Any

from lean_parcel.core.candidates.delivery import delivered_file, delivered_measure
from lean_parcel.core.candidates.pass_through import pass_through_trials
from lean_parcel.core.candidates.ranking import ranked
from lean_parcel.core.candidates.trial import Candidate, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.errors import PhotoError
from lean_parcel.core.framing.framing import Framing, background_behind
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.metadata.embed import SegmentSizes, embedded
from lean_parcel.core.metadata.values import NO_SEGMENTS, Credit, Segments
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.work.queue.pool import PoolSettings
from lean_parcel.work.searches.format_searches import (
    EncodeMade,
    Event,
    FormatEnded,
    FormatFailed,
    FormatSearches,
    WorkItem,
    task_of,
)
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded
from lean_parcel.work.tasks.framing import FramedFiles, frame_task
from lean_parcel.work.tasks.inspection import Inspected, inspect_task
from lean_parcel.work.tasks.original import pass_through_task


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A candidate and its file; `encodes` and `encode_ms` are those of its format's search."""

    candidate: Candidate
    data: bytes
    encodes: int
    encode_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FileFit:
    """What was found for one file: offers, best first, what went wrong in a format, every encode
    that was made and what it was made of, and the sizes of the metadata that goes into each
    file."""

    source: Source
    encoder_input: EncoderInput
    offers: tuple[Offer, ...]
    failures: tuple[FormatFailed, ...]
    made: tuple[EncodeMade, ...]
    is_transparent: bool
    sizes: SegmentSizes

    @property
    def pick(self) -> int | None:
        """The index of the best offer that meets the aim."""
        return 0 if self.offers and self.offers[0].candidate.meets_aim else None


def fit_file(
    executor: Executor,
    data: bytes,
    name: str,
    framing: Framing,
    aim: Aim,
    limits: Limits,
    on_event: Callable[[Event], None],
    *,
    slots: int = PoolSettings().workers,
) -> FileFit:
    """Frames a file and searches the aim's formats, with the metadata that the framing lets
    through, at most `slots` tasks at a time. Raises a PhotoError or TaskError; where every format
    failed, the first one's error."""
    framed: FramedFiles = executor.submit(
        frame_task, data, name, framing, aim.place, limits
    ).result()
    segments = segments_of(executor, data, name, framing, limits)
    sizes = SegmentSizes.of(segments)
    encoder_input = EncoderInput(
        pixels_png=framed.pixels_png, gamut=framing.gamut, density=framed.plan.density
    )
    is_transparent = framed.search_input.is_transparent
    background = background_behind(framing, is_transparent=is_transparent)
    searches = FormatSearches(framed.search_input, aim, background, {}, sizes)
    made: dict[Trial, EncodeMade] = {}
    ended: list[FormatEnded] = []
    failures: list[FormatFailed] = []
    for event in _events(executor, encoder_input, searches, slots):
        on_event(event)
        match event:
            case EncodeMade():
                made[event.trial] = event
            case FormatEnded():
                ended.append(event)
            case FormatFailed():
                failures.append(event)
    if not ended:
        raise failures[0].error
    offers = {end.candidate.trial: _offer(end, made, segments) for end in ended}
    return FileFit(
        source=framed.source,
        encoder_input=encoder_input,
        offers=_ranked(list(offers.values()), aim, is_transparent=is_transparent),
        failures=tuple(failures),
        made=tuple(made.values()),
        is_transparent=is_transparent,
        sizes=sizes,
    )


def with_original(
    executor: Executor,
    fit: FileFit,
    data: bytes,
    name: str,
    framing: Framing,
    aim: Aim,
    limits: Limits,
) -> FileFit:
    """A fit that offers the original too, repacked and as it came, where its place takes it and it
    does no worse."""
    plan = plan_framing(fit.source, framing, aim.place)
    trials = pass_through_trials(fit.source, plan, framing, aim)
    if not trials:
        return fit
    meeting = [o.candidate.measured.size_bytes for o in fit.offers if o.candidate.meets_aim]
    most_bytes = aim.limit_bytes if aim.likeness is None else min(meeting, default=0)
    segments = segments_of(executor, data, name, framing, limits)
    offers = list(fit.offers)
    for trial in trials:
        args = (fit.encoder_input, data, name, trial, limits)
        encoded = _unless_broken(executor.submit(pass_through_task, *args))
        if encoded is None:
            continue
        measured = delivered_measure(trial, encoded.measured, encoded.container_bytes, fit.sizes)
        if measured.size_bytes <= most_bytes:
            file = delivered_file(trial, encoded.data, segments, framing.metadata)
            candidate = Candidate(trial=trial, measured=measured, meets_aim=True)
            offers.append(Offer(candidate=candidate, data=file, encodes=0, encode_ms=0))
    return replace(fit, offers=_ranked(offers, aim, is_transparent=fit.is_transparent))


def _unless_broken(task: Future[Encoded | None]) -> Encoded | None:
    try:
        return task.result()
    except PhotoError:
        return None


def _ranked(offers: list[Offer], aim: Aim, *, is_transparent: bool) -> tuple[Offer, ...]:
    by_trial = {offer.candidate.trial: offer for offer in offers}
    candidates = [offer.candidate for offer in offers]
    order = ranked(candidates, aim, is_transparent=is_transparent)
    return tuple(by_trial[candidate.trial] for candidate in order)


def segments_of(
    executor: Executor, data: bytes, name: str, framing: Framing, limits: Limits
) -> Segments:
    """The metadata of a file that a framing lets through. Raises a PhotoError or TaskError."""
    if framing.metadata == "nothing":
        return NO_SEGMENTS
    inspected: Inspected = executor.submit(inspect_task, data, name, Credit(), limits).result()
    return inspected.segments[framing.metadata]


def _events(
    executor: Executor, encoder_input: EncoderInput, searches: FormatSearches, slots: int
) -> Iterator[Event]:
    """Runs searches to their end."""
    running: dict[Future[Any], WorkItem] = {}
    finished: SimpleQueue[Future[Any]] = SimpleQueue()
    yield from searches.begin()
    while not searches.is_done:
        while len(running) < slots and (item := searches.next_item()):
            future = executor.submit(task_of(item), encoder_input, item)
            running[future] = item
            future.add_done_callback(finished.put)
        future = finished.get()
        yield from searches.settle(running.pop(future), future)


def _offer(end: FormatEnded, made: dict[Trial, EncodeMade], segments: Segments) -> Offer:
    same_format = [event for event in made.values() if event.format == end.format]
    return Offer(
        candidate=end.candidate,
        data=embedded(
            made[end.candidate.trial].encoded.data, end.candidate.trial.settings.format, segments
        ),
        encodes=end.encodes,
        encode_ms=sum(event.encoded.encode_ms for event in same_format),
    )
