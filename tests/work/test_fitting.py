from concurrent.futures import Future
from typing import Any

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import FORMATS
from lean_parcel.core.errors import TaskCrashed
from lean_parcel.core.frame import Place
from lean_parcel.core.photo import Limits
from lean_parcel.work.fitting import EncodeMade, Fitting, FormatEnded, FormatFailed
from lean_parcel.work.tasks import encode_task, frame_task
from tests.builders import InlineExecutor, file, photo

AIM = Aim(place=Place(css_width_px=96), limit_bytes=1_500)
FRAMED = frame_task(file(photo()), "p.png", AIM.place, Limits())


class FailingForWebp(InlineExecutor):
    """An executor whose worker dies on every WebP."""

    def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        if args[1].settings.format == "webp":
            future: Future[Any] = Future()
            future.set_exception(TaskCrashed("The worker died."))
            return future
        return super().submit(function, *args, **kwargs)


def test_every_format_ends_and_each_encode_is_announced_once() -> None:
    executor = InlineExecutor()
    events = list(Fitting(executor, FRAMED.pixels_png, FRAMED.subject, AIM, {}).events())
    ended = [event for event in events if isinstance(event, FormatEnded)]
    made = [event for event in events if isinstance(event, EncodeMade)]
    assert {event.format for event in ended} == set(FORMATS)
    assert len({event.trial for event in made}) == len(made) == executor.calls
    assert sum(event.encodes for event in ended) == len(made)


def test_what_is_known_is_not_made_again() -> None:
    first = list(Fitting(InlineExecutor(), FRAMED.pixels_png, FRAMED.subject, AIM, {}).events())
    known = {e.trial: e.encoded.measured for e in first if isinstance(e, EncodeMade)}
    executor = InlineExecutor()
    again = list(Fitting(executor, FRAMED.pixels_png, FRAMED.subject, AIM, known).events())
    assert executor.calls == 0
    before = {e.format: e.candidates for e in first if isinstance(e, FormatEnded)}
    assert {e.format: e.candidates for e in again if isinstance(e, FormatEnded)} == before


def test_a_worker_that_dies_ends_its_own_format_only() -> None:
    events = list(Fitting(FailingForWebp(), FRAMED.pixels_png, FRAMED.subject, AIM, {}).events())
    failed = [event for event in events if isinstance(event, FormatFailed)]
    assert [(event.format, event.error.code) for event in failed] == [("webp", "task_crashed")]
    ended = {event.format for event in events if isinstance(event, FormatEnded)}
    assert ended == {"jpeg", "png", "avif"}


def test_cancelling_ends_the_events_and_drops_what_waits() -> None:
    class Waiting(InlineExecutor):
        def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
            self.futures = [*getattr(self, "futures", []), Future[Any]()]
            return self.futures[-1]

    executor = Waiting()
    fitting = Fitting(executor, FRAMED.pixels_png, FRAMED.subject, AIM, {})
    fitting.cancel()
    assert list(fitting.events()) == []
    assert all(future.cancelled() for future in executor.futures)


def test_an_encode_says_what_was_really_made() -> None:
    rung = FRAMED.subject.rungs[0]
    events = Fitting(InlineExecutor(), FRAMED.pixels_png, FRAMED.subject, AIM, {}).events()
    first = next(event for event in events if isinstance(event, EncodeMade))
    assert first.encoded.measured.size_bytes == len(first.encoded.data)
    assert first.trial.width_px == rung.width_px == 96
    assert encode_task(FRAMED.pixels_png, first.trial).data == first.encoded.data
