from collections.abc import Iterator
from concurrent.futures import Future
from dataclasses import replace
from typing import Any

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.errors import TaskCrashed
from lean_parcel.core.formats import FORMATS
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.embed import NO_SIZES
from lean_parcel.core.original.source import Limits
from lean_parcel.core.search.ladder import PartTrial, SearchInput
from lean_parcel.work.searches.format_searches import (
    EncodeMade,
    Event,
    FormatEnded,
    FormatFailed,
    FormatSearches,
    LadderMeasured,
    PartWeighed,
    WorkItem,
    task_of,
)
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import encode_task, measure_ladder_task
from lean_parcel.work.tasks.framing import frame_task
from tests.builders import file, photo
from tests.workspaces import AIM

FRAMED = frame_task(file(photo()), "p.png", Framing(), AIM.place, Limits())
ENCODER_INPUT = EncoderInput(pixels_png=FRAMED.pixels_png)
SEARCH_INPUT = measure_ladder_task(ENCODER_INPUT, FRAMED.search_input)


def started(
    known: dict[Trial, Measured] | None = None,
    *,
    search_input: SearchInput = SEARCH_INPUT,
    formats: Any = FORMATS,
) -> FormatSearches:
    aim = replace(AIM, formats=formats)
    return FormatSearches(search_input, aim, "#ffffff", known or {}, NO_SIZES)


def carried_out(item: WorkItem, *, failing: str = "") -> Future[Any]:
    """What comes of an item; the worker dies on every encode of the failing format."""
    future: Future[Any] = Future()
    if isinstance(item, Trial) and item.settings.format == failing:
        future.set_exception(TaskCrashed("The worker died."))
    else:
        future.set_result(task_of(item)(ENCODER_INPUT, item))
    return future


def events_of(
    searches: FormatSearches, items: list[WorkItem] | None = None, *, failing: str = ""
) -> Iterator[Event]:
    """All events of searches, one task at a time; what was asked for is written down."""
    yield from searches.begin()
    while not searches.is_done:
        item = searches.next_item()
        assert item is not None
        if items is not None:
            items.append(item)
        yield from searches.settle(item, carried_out(item, failing=failing))


def test_every_format_ends_and_each_encode_is_announced_once() -> None:
    items: list[WorkItem] = []
    events = list(events_of(started(), items))
    ended = [event for event in events if isinstance(event, FormatEnded)]
    made = [event for event in events if isinstance(event, EncodeMade)]
    assert {event.format for event in ended} == set(FORMATS)
    assert len({event.trial for event in made}) == len(made) == len(items)
    assert sum(event.encodes for event in ended) == len(made)


def test_what_is_known_is_not_made_again() -> None:
    first = list(events_of(started()))
    known = {e.trial: e.encoded.measured for e in first if isinstance(e, EncodeMade)}
    again = started(known)
    events = again.begin()
    assert again.is_done
    before = {e.format: e.candidate for e in first if isinstance(e, FormatEnded)}
    assert {e.format: e.candidate for e in events if isinstance(e, FormatEnded)} == before


def test_a_worker_that_dies_ends_its_own_format_only() -> None:
    events = list(events_of(started(), failing="webp"))
    failed = [event for event in events if isinstance(event, FormatFailed)]
    assert [(event.format, event.error.code) for event in failed] == [("webp", "task_crashed")]
    ended = {event.format for event in events if isinstance(event, FormatEnded)}
    assert ended == {"jpeg", "png", "avif"}


def test_the_first_encode_does_not_wait_for_the_ladder() -> None:
    items: list[WorkItem] = []
    events = list(events_of(started(search_input=FRAMED.search_input), items))
    assert isinstance(items[0], Trial)
    assert items[0].settings.format == "jpeg"
    assert items[1] == FRAMED.search_input
    assert isinstance(events[0], EncodeMade)
    assert events[1] == LadderMeasured(search_input=SEARCH_INPUT)
    again = list(events_of(started()))
    assert {e.candidate for e in events if isinstance(e, FormatEnded)} == {
        e.candidate for e in again if isinstance(e, FormatEnded)
    }


def test_an_encode_made_ahead_that_fails_ends_its_own_format_only() -> None:
    searches = started(search_input=FRAMED.search_input, formats=("webp", "png"))
    events = [e for e in events_of(searches, failing="webp") if not isinstance(e, EncodeMade)]
    assert [type(event) for event in events] == [LadderMeasured, FormatEnded, FormatFailed]


def test_the_slowest_format_goes_first_once_there_is_something_to_see() -> None:
    items: list[WorkItem] = []
    list(events_of(started(search_input=FRAMED.search_input), items))
    first, _, *others = items
    assert isinstance(first, Trial)
    order = [item.settings.format for item in others if isinstance(item, Trial)]
    assert order == sorted(order, key=["avif", "png", "webp", "jpeg"].index)


def test_nothing_is_wished_for_twice_while_it_runs() -> None:
    searches = started()
    assert searches.begin() == []
    items = [searches.next_item() for _ in FORMATS]
    assert len(set(items)) == len(FORMATS)
    assert searches.next_item() is None


def test_an_encode_says_what_was_really_made() -> None:
    first = next(event for event in events_of(started()) if isinstance(event, EncodeMade))
    assert first.encoded.measured.size_bytes == len(first.encoded.data)
    assert encode_task(ENCODER_INPUT, first.trial).data == first.encoded.data


def test_a_large_picture_is_drafted_by_parts_of_which_nothing_is_made_again() -> None:
    place = Place(size="1500")
    framed = frame_task(file(photo(1500, 1000)), "p.png", Framing(), place, Limits())
    large_input = EncoderInput(pixels_png=framed.pixels_png)
    search_input = measure_ladder_task(large_input, framed.search_input)
    aim = Aim(place=place, limit_bytes=120_000, formats=("jpeg",))

    def events(known: dict[Trial, Measured]) -> list[Event]:
        searches = FormatSearches(search_input, aim, "#ffffff", known, NO_SIZES)
        found = searches.begin()
        while not searches.is_done:
            item = searches.next_item()
            assert item is not None
            future: Future[Any] = Future()
            future.set_result(task_of(item)(large_input, item))
            found += searches.settle(item, future)
        return found

    first = events({})
    weighed = [event for event in first if isinstance(event, PartWeighed)]
    made = [event for event in first if isinstance(event, EncodeMade)]
    assert len(weighed) >= 2
    assert not any(isinstance(event.trial, PartTrial) for event in made)
    (end,) = (event for event in first if isinstance(event, FormatEnded))
    assert end.encodes == len(weighed) + len(made)
    known = {event.trial: event.encoded.measured for event in made}
    known |= {event.trial: event.estimate for event in weighed}
    assert events(known) == [end]
