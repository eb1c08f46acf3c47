from concurrent.futures import Executor, Future
from dataclasses import replace
from typing import Any

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import FORMATS
from lean_parcel.core.errors import TaskCrashed
from lean_parcel.core.framing import Framing
from lean_parcel.core.photo import Limits
from lean_parcel.core.place import Place
from lean_parcel.core.trial import Measured, Subject, Trial
from lean_parcel.work.fitting import EncodeMade, Fitting, FormatEnded, FormatFailed, SizedUp
from lean_parcel.work.tasks import Load, encode_task, frame_task, size_up_task
from tests.builders import InlineExecutor, file, photo

AIM = Aim(place=Place(css_width_px=96), limit_bytes=1_500)
FRAMED = frame_task(file(photo()), "p.png", Framing(), AIM.place, Limits())
LOAD = Load(pixels_png=FRAMED.pixels_png)
SUBJECT = size_up_task(LOAD, FRAMED.subject)


def fitting(
    executor: Executor,
    known: dict[Trial, Measured] | None = None,
    *,
    subject: Subject = SUBJECT,
    at_once: int = 2,
) -> Fitting:
    return Fitting(executor, LOAD, subject, AIM, "#ffffff", known or {}, at_once=at_once)


class Recording(InlineExecutor):
    """An executor that writes down what it was asked for: formats, or the name of a task."""

    def __init__(self) -> None:
        super().__init__()
        self.order: list[str] = []

    def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        is_encode = function is encode_task
        self.order.append(args[1].settings.format if is_encode else function.__name__)
        return super().submit(function, *args, **kwargs)


class FailingForWebp(InlineExecutor):
    """An executor whose worker dies on every WebP."""

    def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        if function is encode_task and args[1].settings.format == "webp":
            future: Future[Any] = Future()
            future.set_exception(TaskCrashed("The worker died."))
            return future
        return super().submit(function, *args, **kwargs)


def test_every_format_ends_and_each_encode_is_announced_once() -> None:
    executor = InlineExecutor()
    events = list(fitting(executor).events())
    ended = [event for event in events if isinstance(event, FormatEnded)]
    made = [event for event in events if isinstance(event, EncodeMade)]
    assert {event.format for event in ended} == set(FORMATS)
    assert len({event.trial for event in made}) == len(made) == executor.calls
    assert sum(event.encodes for event in ended) == len(made)


def test_what_is_known_is_not_made_again() -> None:
    first = list(fitting(InlineExecutor()).events())
    known = {e.trial: e.encoded.measured for e in first if isinstance(e, EncodeMade)}
    executor = InlineExecutor()
    again = list(fitting(executor, known).events())
    assert executor.calls == 0
    before = {e.format: e.candidate for e in first if isinstance(e, FormatEnded)}
    assert {e.format: e.candidate for e in again if isinstance(e, FormatEnded)} == before


def test_a_worker_that_dies_ends_its_own_format_only() -> None:
    events = list(fitting(FailingForWebp()).events())
    failed = [event for event in events if isinstance(event, FormatFailed)]
    assert [(event.format, event.error.code) for event in failed] == [("webp", "task_crashed")]
    ended = {event.format for event in events if isinstance(event, FormatEnded)}
    assert ended == {"jpeg", "png", "avif"}


def test_the_first_encode_does_not_wait_for_the_sizing_up() -> None:
    executor = Recording()
    events = list(fitting(executor, subject=FRAMED.subject).events())
    assert executor.order[:2] == ["jpeg", "size_up_task"]
    assert isinstance(events[0], EncodeMade)
    assert events[1] == SizedUp(subject=SUBJECT)
    again = list(fitting(InlineExecutor()).events())
    assert [e for e in events if isinstance(e, FormatEnded)] == [
        e for e in again if isinstance(e, FormatEnded)
    ]


def test_a_first_encode_that_fails_ends_its_own_format_only() -> None:
    aim = replace(AIM, formats=("webp", "png"))
    executor = FailingForWebp()
    failing = Fitting(executor, LOAD, FRAMED.subject, aim, "#ffffff", {}, at_once=2)
    events = [event for event in failing.events() if not isinstance(event, EncodeMade)]
    assert [type(event) for event in events] == [SizedUp, FormatFailed, FormatEnded]


def test_the_slowest_format_goes_first_once_there_is_something_to_see() -> None:
    executor = Recording()
    list(fitting(executor, at_once=1).events())
    first, *others = executor.order
    assert first == "jpeg"
    assert others == sorted(others, key=["avif", "png", "webp", "jpeg"].index)


def test_cancelling_ends_the_events_and_drops_what_waits() -> None:
    class Waiting(InlineExecutor):
        def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
            self.futures = [*getattr(self, "futures", []), Future[Any]()]
            return self.futures[-1]

    executor = Waiting()
    cancelled = fitting(executor)
    cancelled.cancel()
    assert list(cancelled.events()) == []
    assert executor.futures
    assert all(future.cancelled() for future in executor.futures)


def test_an_encode_says_what_was_really_made() -> None:
    rung = SUBJECT.rungs[0]
    events = fitting(InlineExecutor()).events()
    first = next(event for event in events if isinstance(event, EncodeMade))
    assert first.encoded.measured.size_bytes == len(first.encoded.data)
    assert first.trial.width_px == rung.width_px == 96
    assert encode_task(LOAD, first.trial).data == first.encoded.data
