"""Fitting one file without a workspace: what the command line and the benchmarks do."""

from collections.abc import Callable
from concurrent.futures import Executor
from dataclasses import dataclass

from lean_parcel.core.aim import Aim
from lean_parcel.core.fit import best_first
from lean_parcel.core.framing import Framing
from lean_parcel.core.photo import Limits, Source
from lean_parcel.core.trial import Candidate, Trial
from lean_parcel.work.fitting import EncodeMade, Event, Fitting, FormatEnded, FormatFailed
from lean_parcel.work.pool import PoolSettings
from lean_parcel.work.tasks import FramedFiles, Load, frame_task


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A candidate and its file; `encodes` and `encode_ms` are those of its format's search."""

    candidate: Candidate
    data: bytes
    encodes: int
    encode_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FileFit:
    """What came of fitting one file: offers, best first, and what went wrong in a format."""

    source: Source
    offers: tuple[Offer, ...]
    failures: tuple[FormatFailed, ...]

    @property
    def pick(self) -> int | None:
        """The index of the best offer within the limit."""
        return 0 if self.offers and self.offers[0].candidate.within_limit else None


def fit_file(
    executor: Executor,
    data: bytes,
    name: str,
    framing: Framing,
    aim: Aim,
    limits: Limits,
    on_event: Callable[[Event], None],
) -> FileFit:
    """Frames a file and fits it, without metadata, in the aim's formats. Raises a PhotoError or
    TaskError; where every format failed, the first one's error."""
    framed: FramedFiles = executor.submit(
        frame_task, data, name, framing, aim.place, limits
    ).result()
    load = Load(pixels_png=framed.pixels_png, gamut=framing.gamut)
    fitting = Fitting(
        executor, load, framed.subject, aim, framing.background, {}, at_once=PoolSettings().workers
    )
    made: dict[Trial, EncodeMade] = {}
    ended: list[FormatEnded] = []
    failures: list[FormatFailed] = []
    for event in fitting.events():
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
    offers = {end.candidate.trial: _offer(end, made) for end in ended}
    order = best_first([offer.candidate for offer in offers.values()], framed.subject)
    return FileFit(
        source=framed.source,
        offers=tuple(offers[candidate.trial] for candidate in order),
        failures=tuple(failures),
    )


def _offer(end: FormatEnded, made: dict[Trial, EncodeMade]) -> Offer:
    same_format = [event for event in made.values() if event.format == end.format]
    return Offer(
        candidate=end.candidate,
        data=made[end.candidate.trial].encoded.data,
        encodes=end.encodes,
        encode_ms=sum(event.encoded.encode_ms for event in same_format),
    )
