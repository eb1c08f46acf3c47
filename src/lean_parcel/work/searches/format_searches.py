"""The searches of one photo in several formats, side by side.

Runs nothing itself: it says what to run next, is told what came of it, and answers with events. The
quickest format begins, so that there soon is something to look at, even before the ladder is
measured; after that the slowest goes first, so that no worker idles at the end. A task that fails
ends its own format only.
"""

from collections.abc import Callable, Mapping
from concurrent.futures import Future
from dataclasses import dataclass
from typing import Any

from lean_parcel.core.candidates.delivered import delivered_measure
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.errors import LeanParcelError, TaskCrashed
from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.embed import SegmentSizes
from lean_parcel.core.search.ladder import PartTrial, SearchInput
from lean_parcel.core.search.protocol import FormatSearch, held_to
from lean_parcel.core.search.search import search_in_format
from lean_parcel.work.tasks.encoding import (
    Encoded,
    encode_task,
    measure_ladder_task,
    weigh_part_task,
)

#: Formats by how long an encode takes, the quickest first.
FORMATS_BY_TIME: tuple[Format, ...] = ("jpeg", "webp", "png", "avif")


@dataclass(frozen=True, slots=True, kw_only=True)
class LadderMeasured:
    """The ladder was measured."""

    search_input: SearchInput


@dataclass(frozen=True, slots=True, kw_only=True)
class EncodeMade:
    """An encode that a search asked for was made; `encodes` counts those of its format so far."""

    format: Format
    trial: Trial
    encoded: Encoded
    encodes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PartWeighed:
    """A draft of a part was made, with this estimate; `encodes` counts all that the search in its
    format asked for so far."""

    format: Format
    trial: PartTrial
    estimate: Measured
    encodes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatEnded:
    """The search in one format ended, after so many encodes."""

    format: Format
    candidate: Candidate
    encodes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatFailed:
    """The search in one format failed."""

    format: Format
    error: LeanParcelError


Event = LadderMeasured | EncodeMade | PartWeighed | FormatEnded | FormatFailed
#: What to run next: an encode, or the measuring of a ladder.
WorkItem = Trial | SearchInput


@dataclass(slots=True)
class _Running:
    """A search that runs, and the trial that it waits for."""

    search: FormatSearch
    wanted: Trial


class FormatSearches:
    """See the module. Files are measured as they are handed out, with metadata of these sizes.
    Measurements in `known` are used, and not made again."""

    def __init__(
        self,
        search_input: SearchInput,
        aim: Aim,
        background: str,
        known: Mapping[Trial, Measured],
        sizes: SegmentSizes,
    ) -> None:
        self._search_input = search_input
        self._aim = aim
        self._background = background
        self._known = dict(known)
        self._sizes = sizes
        self._quickest = min(aim.formats, key=FORMATS_BY_TIME.index)
        self._searches: dict[Format, _Running] = {}
        #: Every trial that a format has asked for.
        self._asked: dict[Format, set[Trial]] = {name: set() for name in aim.formats}
        #: What runs, and so is not asked for again.
        self._in_flight: set[WorkItem] = set()
        #: Encodes worth making before the ladder is measured.
        self._ahead: list[Trial] = []

    def begin(self) -> list[Event]:
        """Begins; what is known already may end searches at once."""
        if self._search_input.is_measured:
            return self._begin_searches()
        self._ahead = [next(self._search(self._quickest))]
        self._asked[self._quickest].update(self._ahead)
        return []

    @property
    def is_done(self) -> bool:
        """Whether every format has ended or failed."""
        return self._search_input.is_measured and not self._searches

    def next_item(self) -> WorkItem | None:
        """What to run next; None where everything waits for what runs."""
        items = [item for item in self._items() if item not in self._in_flight]
        if not items:
            return None
        self._in_flight.add(items[0])
        return items[0]

    def settle(self, item: WorkItem, future: Future[Any]) -> list[Event]:
        """Takes in what came of an item. Raises what the measuring of the ladder raised."""
        self._in_flight.discard(item)
        if not isinstance(item, Trial):
            return self._ladder_measured(future.result())
        error = future.exception()
        if error is None and isinstance(item, PartTrial):
            return self._part_weighed(item, future.result())
        if error is None:
            return self._encode_made(item, future.result())
        if not isinstance(error, LeanParcelError):
            error = TaskCrashed("An encoder failed on this photo.", repr(error))
        return self._encode_failed(item, error)

    def _items(self) -> list[WorkItem]:
        """Everything that could run now, the most urgent first."""
        if self._search_input.is_measured:
            slowest_first = sorted(self._searches, key=FORMATS_BY_TIME.index, reverse=True)
            return [self._searches[name].wanted for name in slowest_first]
        return [*(trial for trial in self._ahead if trial not in self._known), self._search_input]

    def _ladder_measured(self, search_input: SearchInput) -> list[Event]:
        self._search_input = search_input
        return [LadderMeasured(search_input=search_input), *self._begin_searches()]

    def _encode_made(self, trial: Trial, encoded: Encoded) -> list[Event]:
        name = trial.settings.format
        self._known[trial] = delivered_measure(
            trial, encoded.measured, encoded.container_bytes, self._sizes
        )
        encodes = len(self._asked[name])
        made = EncodeMade(format=name, trial=trial, encoded=encoded, encodes=encodes)
        return [made, *self._advance(name)]

    def _part_weighed(self, trial: PartTrial, estimate: Measured) -> list[Event]:
        name = trial.settings.format
        self._known[trial] = delivered_measure(trial, estimate, 0, self._sizes)
        encodes = len(self._asked[name])
        weighed = PartWeighed(format=name, trial=trial, estimate=estimate, encodes=encodes)
        return [weighed, *self._advance(name)]

    def _encode_failed(self, trial: Trial, error: LeanParcelError) -> list[Event]:
        """Gives a format up; an encode that was made ahead of its search is only forgotten."""
        name = trial.settings.format
        if self._searches.pop(name, None):
            return [FormatFailed(format=name, error=error)]
        self._ahead = []
        self._asked[name].discard(trial)
        return []

    def _begin_searches(self) -> list[Event]:
        events: list[Event] = []
        for name in sorted(self._aim.formats, key=FORMATS_BY_TIME.index):
            search = self._search(name)
            self._searches[name] = _Running(search, next(search))
            events += self._advance(name)
        return events

    def _search(self, name: Format) -> FormatSearch:
        opens = name == self._quickest
        search = search_in_format(
            name, self._search_input, self._aim, self._background, opens=opens
        )
        return held_to(search, self._aim.held)

    def _advance(self, name: Format) -> list[Event]:
        """Feeds a search with what is known, until it asks for something that is not."""
        running = self._searches.get(name)
        if running is None:
            return []
        asked = self._asked[name]
        asked.add(running.wanted)
        try:
            while measured := self._known.get(running.wanted):
                running.wanted = running.search.send(measured)
                asked.add(running.wanted)
        except StopIteration as end:
            del self._searches[name]
            return [FormatEnded(format=name, candidate=end.value, encodes=len(asked))]
        return []


def task_of(item: WorkItem) -> Callable[..., Any]:
    """The task that carries out an item, given an EncoderInput and the item."""
    if isinstance(item, PartTrial):
        return weigh_part_task
    return encode_task if isinstance(item, Trial) else measure_ladder_task
