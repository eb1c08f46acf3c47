"""Fitting a framed photo in all formats at once, over any Executor.

Each format's search (see `core.fit`) asks for an encode or a few at a time; here the searches run
side by side and what happens comes out as events. A task that fails ends its own format only.
"""

from collections.abc import Iterator, Mapping
from concurrent.futures import Executor, Future
from dataclasses import dataclass
from queue import SimpleQueue

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import Format
from lean_parcel.core.errors import LeanParcelError, TaskCrashed
from lean_parcel.core.fit import search_format
from lean_parcel.core.reach import search_reaching
from lean_parcel.core.steps import FormatSearch
from lean_parcel.core.trial import Candidate, Measured, Subject, Trial
from lean_parcel.work.tasks import Encoded, Load, encode_task


@dataclass(frozen=True, slots=True, kw_only=True)
class EncodeMade:
    """A search asked for an encode, and it was made; `encodes` counts those asked for so far."""

    format: Format
    trial: Trial
    encoded: Encoded
    encodes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatEnded:
    """A format's search came to its end: candidates, best first, after `encodes` measurements."""

    format: Format
    candidates: tuple[Candidate, ...]
    encodes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatFailed:
    """A format's search could not go on."""

    format: Format
    error: LeanParcelError


Event = EncodeMade | FormatEnded | FormatFailed


def _search(name: Format, subject: Subject, aim: Aim, background: str) -> FormatSearch:
    if aim.likeness is None:
        return search_format(name, subject, aim.limit_bytes, background)
    return search_reaching(name, subject, aim.likeness, background)


class Fitting:
    """One fit under way. Measurements in `known` are used, and not made again."""

    def __init__(
        self,
        executor: Executor,
        load: Load,
        subject: Subject,
        aim: Aim,
        background: str,
        known: Mapping[Trial, Measured],
    ) -> None:
        self._executor = executor
        self._load = load
        self._known = dict(known)
        self._searches: dict[Format, FormatSearch] = {
            name: _search(name, subject, aim, background) for name in aim.formats
        }
        self._encodes: dict[Format, int] = dict.fromkeys(aim.formats, 0)
        self._batches: dict[Format, tuple[Trial, ...]] = {}
        self._pending: dict[Future[Encoded], tuple[Format, Trial]] = {}
        self._done: SimpleQueue[Future[Encoded] | None] = SimpleQueue()

    def cancel(self) -> None:
        """Ends the events soon, from any thread; encodes not yet begun are dropped."""
        self._done.put(None)

    def events(self) -> Iterator[Event]:
        """What happens, as it happens, until every format has ended or `cancel` was called."""
        try:
            for name in self._searches:
                yield from self._advance(name)
            while self._pending:
                future = self._done.get()
                if future is None:
                    return
                yield from self._settled(future)
        finally:
            for future in list(self._pending):
                future.cancel()

    def _settled(self, future: Future[Encoded]) -> Iterator[Event]:
        if future not in self._pending:
            return
        name, trial = self._pending.pop(future)
        try:
            encoded = future.result()
        except LeanParcelError as error:
            yield self._failed(name, error)
            return
        except Exception as error:
            yield self._failed(name, TaskCrashed("An encoder failed on this photo.", repr(error)))
            return
        self._known[trial] = encoded.measured
        yield EncodeMade(format=name, trial=trial, encoded=encoded, encodes=self._encodes[name])
        if all(wanted in self._known for wanted in self._batches[name]):
            yield from self._advance(name)

    def _failed(self, name: Format, error: LeanParcelError) -> FormatFailed:
        """Gives up a format, with what else of it is under way."""
        for future in [f for f, (owner, _) in self._pending.items() if owner == name]:
            del self._pending[future]
            future.cancel()
        return FormatFailed(format=name, error=error)

    def _advance(self, name: Format) -> Iterator[Event]:
        """Feeds a search until it asks for encodes that are not known, and submits those."""
        search = self._searches[name]
        try:
            if name not in self._batches:
                self._ask(name, next(search))
            while all(trial in self._known for trial in self._batches[name]):
                measured = tuple(self._known[trial] for trial in self._batches[name])
                self._ask(name, search.send(measured))
        except StopIteration as end:
            yield FormatEnded(format=name, candidates=end.value, encodes=self._encodes[name])
            return
        for trial in self._batches[name]:
            if trial not in self._known:
                future = self._executor.submit(encode_task, self._load, trial)
                self._pending[future] = (name, trial)
                future.add_done_callback(self._done.put)

    def _ask(self, name: Format, batch: tuple[Trial, ...]) -> None:
        self._batches[name] = batch
        self._encodes[name] += len(batch)
