"""Fitting a framed photo in all formats at once, over any Executor.

Each format's search (see `core.fit`) asks for one encode at a time; here the searches run
side by side and what happens comes out as events. The quickest format begins, so that there soon is
something to look at, and where the photo is not sized up yet it begins meanwhile. Then the slowest
goes first, so that no worker idles at the end. A task that fails ends its own format only.
"""

from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import Executor, Future
from dataclasses import dataclass
from queue import SimpleQueue
from typing import Any

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import Format
from lean_parcel.core.errors import LeanParcelError, TaskCrashed
from lean_parcel.core.fit import search_format
from lean_parcel.core.reach import search_reaching
from lean_parcel.core.steps import FormatSearch
from lean_parcel.core.trial import Candidate, Measured, Subject, Trial
from lean_parcel.work.tasks import Encoded, Load, encode_task, size_up_task

#: Formats by how long an encode takes, the quickest first.
_BY_TIME: tuple[Format, ...] = ("jpeg", "webp", "png", "avif")


@dataclass(frozen=True, slots=True, kw_only=True)
class SizedUp:
    """The photo was sized up."""

    subject: Subject


@dataclass(frozen=True, slots=True, kw_only=True)
class EncodeMade:
    """A search asked for an encode, and it was made; `encodes` counts those asked for so far."""

    format: Format
    trial: Trial
    encoded: Encoded
    encodes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatEnded:
    """A format's search came to its end, after `encodes` measurements."""

    format: Format
    candidate: Candidate
    encodes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatFailed:
    """A format's search could not go on."""

    format: Format
    error: LeanParcelError


Event = SizedUp | EncodeMade | FormatEnded | FormatFailed


class Fitting:
    """One fit under way, at most `at_once` tasks at a time. Measurements in `known` are used, and
    not made again."""

    def __init__(
        self,
        executor: Executor,
        load: Load,
        subject: Subject,
        aim: Aim,
        background: str,
        known: Mapping[Trial, Measured],
        *,
        at_once: int,
    ) -> None:
        self._executor = executor
        self._load = load
        self._subject = subject
        self._aim = aim
        self._background = background
        self._known = dict(known)
        self._at_once = at_once
        self._searches: dict[Format, FormatSearch] = {}
        self._asked: dict[Format, set[Trial]] = {name: set() for name in aim.formats}
        self._wanted: dict[Format, Trial] = {}
        self._waiting: list[tuple[Format, Trial]] = []
        #: What runs: encodes, and the sizing up, which has no format.
        self._pending: dict[Future[Any], tuple[Format, Trial] | None] = {}
        self._done: SimpleQueue[Future[Any] | None] = SimpleQueue()

    def cancel(self) -> None:
        """Ends the events soon, from any thread; encodes not yet begun are dropped."""
        self._done.put(None)

    def events(self) -> Iterator[Event]:
        """What happens, as it happens, until every format has ended or `cancel` was called. Raises
        a TaskError where the photo could not be sized up."""
        try:
            yield from self._begin()
            while self._pending:
                future = self._done.get()
                if future is None:
                    return
                yield from list(self._settled(future))  # what comes next runs while this is handled
        finally:
            for future in list(self._pending):
                future.cancel()

    def _begin(self) -> Iterator[Event]:
        if self._subject.is_sized_up:
            yield from self._begin_searches()
            return
        first = min(self._aim.formats, key=_BY_TIME.index)
        self._ask(first, next(self._search(first)))
        self._submit(None, size_up_task, self._load, self._subject)

    def _begin_searches(self) -> Iterator[Event]:
        for name in sorted(self._aim.formats, key=_BY_TIME.index):
            search = self._searches[name] = self._search(name)
            self._ask(name, next(search))
            yield from self._advance(name)

    def _search(self, name: Format) -> FormatSearch:
        if self._aim.likeness is None:
            return search_format(name, self._subject, self._aim.limit_bytes, self._background)
        return search_reaching(name, self._subject, self._aim.likeness, self._background)

    def _settled(self, future: Future[Any]) -> Iterator[Event]:
        if future not in self._pending:
            return
        wish = self._pending.pop(future)
        if wish is None:
            self._subject = future.result()
            yield SizedUp(subject=self._subject)
            yield from self._begin_searches()
        else:
            yield from self._encoded(*wish, future)
        self._start_waiting()

    def _encoded(self, name: Format, trial: Trial, future: Future[Encoded]) -> Iterator[Event]:
        try:
            encoded = future.result()
        except LeanParcelError as error:
            yield from self._failed(name, error)
            return
        except Exception as error:
            broken = TaskCrashed("An encoder failed on this photo.", repr(error))
            yield from self._failed(name, broken)
            return
        self._known[trial] = encoded.measured
        asked = len(self._asked[name])
        yield EncodeMade(format=name, trial=trial, encoded=encoded, encodes=asked)
        if name in self._searches:
            yield from self._advance(name)

    def _failed(self, name: Format, error: LeanParcelError) -> Iterator[Event]:
        """Gives up a format, with what else of it is under way; before its search has begun, only
        what was asked for ahead of it."""
        self._waiting = [wish for wish in self._waiting if wish[0] != name]
        for future in [f for f, wish in self._pending.items() if wish and wish[0] == name]:
            del self._pending[future]
            future.cancel()
        if name in self._searches:
            yield FormatFailed(format=name, error=error)
        else:
            self._asked[name].clear()

    def _advance(self, name: Format) -> Iterator[Event]:
        """Feeds a search until it asks for an encode that is not known."""
        try:
            while measured := self._known.get(self._wanted[name]):
                self._ask(name, self._searches[name].send(measured))
        except StopIteration as end:
            encodes = len(self._asked[name])
            yield FormatEnded(format=name, candidate=end.value, encodes=encodes)

    def _ask(self, name: Format, trial: Trial) -> None:
        self._wanted[name] = trial
        if trial not in self._asked[name] and trial not in self._known:
            self._waiting.append((name, trial))
        self._asked[name].add(trial)
        self._start_waiting()

    def _start_waiting(self) -> None:
        while self._waiting and len(self._pending) < self._at_once:
            wish = max(self._waiting, key=lambda wish: _BY_TIME.index(wish[0]))
            self._waiting.remove(wish)
            self._submit(wish, encode_task, self._load, wish[1])

    def _submit(
        self, wish: tuple[Format, Trial] | None, task: Callable[..., Any], *args: Any
    ) -> None:
        future = self._executor.submit(task, *args)
        self._pending[future] = wish
        future.add_done_callback(self._done.put)
