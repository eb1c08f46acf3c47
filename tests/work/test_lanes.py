from concurrent.futures import Future
from typing import Any

import pytest

from lean_parcel.work.lanes import Lanes
from tests.builders import InlineExecutor


class Held(InlineExecutor):
    """An executor that keeps its tasks until they are let go."""

    def __init__(self) -> None:
        super().__init__()
        self.held: list[tuple[str, Future[Any]]] = []

    def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        self.held.append((args[0], Future()))
        return self.held[-1][1]

    def let_go(self) -> str:
        name, future = self.held.pop(0)
        future.set_result(name.upper())
        return name


def test_the_preferred_photo_goes_first_and_slots_are_respected() -> None:
    executor = Held()
    lanes = Lanes(executor, slots=1)
    first = lanes.submit(1, str, "a1")
    for name in ("a2", "a3"):
        lanes.submit(1, str, name)
    lanes.lane(2).submit(str, "b1")
    lanes.prefer(2)
    assert [name for name, _ in executor.held] == ["a1"]
    assert executor.let_go() == "a1"
    assert first.result() == "A1"
    lanes.submit(2, str, "b2")
    assert [executor.let_go() for _ in range(2)] == ["b1", "b2"]
    lanes.prefer(1)
    assert [executor.let_go() for _ in range(2)] == ["a2", "a3"]


def test_what_was_cancelled_is_passed_over() -> None:
    executor = Held()
    lanes = Lanes(executor, slots=1)
    lanes.submit(1, str, "a")
    dropped, kept = lanes.submit(1, str, "b"), lanes.submit(1, str, "c")
    assert dropped.cancel()
    executor.let_go()
    assert executor.let_go() == "c"
    assert kept.result() == "C"


def test_errors_come_through_and_free_their_slot() -> None:
    lanes = Lanes(InlineExecutor(), slots=1)
    with pytest.raises(ValueError, match="invalid literal"):
        lanes.submit(1, int, "words").result()
    assert lanes.submit(1, int, "7").result() == 7
