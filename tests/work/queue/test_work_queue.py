from concurrent.futures import CancelledError, Future
from queue import SimpleQueue
from threading import enumerate as threads
from typing import Any

import pytest

from lean_parcel.core.errors import TaskCrashed, TaskTimedOut
from lean_parcel.work.queue.work_queue import Job, Priority, Task, WorkQueue
from tests.executors import HeldExecutor, HurriedExecutor, InlineExecutor


class Steps(Job):
    """A job of named steps, which says what it is asked to do."""

    def __init__(
        self,
        log: "SimpleQueue[str]",
        photo_id: int,
        *names: str,
        priority: Priority = Priority.SEARCH,
    ) -> None:
        self.priority = priority
        self.photo_id = photo_id
        self._log = log
        self._waiting = list(names)

    def next_task(self) -> Task | None:
        if not self._waiting:
            return None
        return Task(str.upper, (self._waiting.pop(0),), self._done)

    def _done(self, future: Future[Any]) -> None:
        self._log.put(future.result())
        self.is_ended = not self._waiting

    def record(self) -> None:
        if self.is_ended:
            self._log.put(f"end {self.photo_id}")

    def fail(self, error: Exception) -> None:
        self._log.put(f"failed: {error}")


class Broken(Steps):
    """A job that cannot say what to do."""

    def next_task(self) -> Task | None:
        raise ValueError("no idea")


def taken(log: "SimpleQueue[str]", count: int) -> list[str]:
    return [log.get(timeout=10) for _ in range(count)]


def test_the_preferred_photo_goes_first_then_the_oldest() -> None:
    executor, log = HeldExecutor(), SimpleQueue[str]()
    queue = WorkQueue(executor, slots=1)
    executor.hold()
    queue.add(Steps(log, 1, "a1", "a2"))
    queue.add(Steps(log, 2, "b1", "b2"))
    queue.add(Steps(log, 3, "c1"))
    queue.prefer(2)
    assert executor.has_held.wait(10)
    executor.let_go()
    assert taken(log, 8) == ["A1", "B1", "B2", "end 2", "A2", "end 1", "C1", "end 3"]
    queue.close()


def test_who_waits_for_an_answer_goes_before_everything() -> None:
    executor, log = HeldExecutor(), SimpleQueue[str]()
    queue = WorkQueue(executor, slots=1)
    executor.hold()
    queue.add(Steps(log, 1, "a1", "a2"))
    queue.prefer(1)
    assert executor.has_held.wait(10)
    answer = queue.submit(Priority.ANSWER, str.upper, "now")
    answer.add_done_callback(lambda done: log.put(done.result()))
    queue.submit(Priority.ADDING, str.upper, "soon").add_done_callback(
        lambda done: log.put(done.result())
    )
    executor.let_go()
    assert taken(log, 5) == ["A1", "NOW", "SOON", "A2", "end 1"]
    queue.close()


def test_no_more_tasks_run_than_there_are_slots_and_waiting_costs_no_thread() -> None:
    executor, log = HeldExecutor(), SimpleQueue[str]()
    before = set(threads())
    queue = WorkQueue(executor, slots=2)
    executor.hold()
    for photo_id in range(700):
        queue.add(Steps(log, photo_id, "a", "b"))
    assert executor.has_held.wait(10)
    queue.submit(Priority.ANSWER, str.upper, "last")  # has been seen once all others were
    assert {each.name for each in threads() if each not in before} == {"work-queue"}
    assert executor.held_count <= 2
    queue.close()


def test_what_was_cancelled_is_passed_over() -> None:
    executor = HeldExecutor()
    queue = WorkQueue(executor, slots=1)
    executor.hold()
    queue.submit(Priority.ANSWER, str.upper, "a")
    dropped, kept = (queue.submit(Priority.ANSWER, str.upper, name) for name in "bc")
    assert executor.has_held.wait(10)
    assert dropped.cancel()
    executor.let_go()
    assert kept.result(timeout=10) == "C"
    queue.close()


def test_errors_come_through_and_give_their_slot_back() -> None:
    queue = WorkQueue(InlineExecutor(), slots=1)
    with pytest.raises(ValueError, match="invalid literal"):
        queue.submit(Priority.ANSWER, int, "words").result(timeout=10)
    assert queue.submit(Priority.ANSWER, int, "7").result(timeout=10) == 7
    queue.close()


def test_a_job_that_breaks_is_ended_and_harms_no_other() -> None:
    log = SimpleQueue[str]()
    queue = WorkQueue(InlineExecutor(), slots=1)
    queue.add(Broken(log, 1, "a"))
    queue.add(Steps(log, 2, "b"))
    assert taken(log, 3) == ["failed: no idea", "B", "end 2"]
    queue.close()


def test_workers_that_cannot_be_reached_fail_the_task_alone() -> None:
    class Unreachable(InlineExecutor):
        def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
            raise RuntimeError("shut down")

    queue = WorkQueue(Unreachable(), slots=1)
    for _ in range(3):
        with pytest.raises(TaskCrashed):
            queue.submit(Priority.ANSWER, str.upper, "a").result(timeout=10)
    queue.close()


def test_what_waits_when_the_queue_is_closed_is_cancelled() -> None:
    executor = HeldExecutor()
    queue = WorkQueue(executor, slots=1)
    executor.hold()
    queue.submit(Priority.ANSWER, str.upper, "a")
    assert executor.has_held.wait(10)
    waiting = queue.submit(Priority.ANSWER, str.upper, "b")
    queue.close()
    late = queue.submit(Priority.ANSWER, str.upper, "c")
    for future in (waiting, late):
        with pytest.raises(CancelledError):
            future.result(timeout=10)


def test_a_cancelled_job_gets_no_more_tasks_and_what_runs_is_hurried() -> None:
    executor, log = HurriedExecutor(ends=False), SimpleQueue[str]()
    queue = WorkQueue(executor, slots=1)
    executor.hold()
    job = Steps(log, 1, "a1", "a2")
    queue.add(job)
    assert executor.has_held.wait(10)
    queue.cancel(job)
    assert not executor.hurried.get(timeout=10).done()
    executor.let_go()
    queue.add(Steps(log, 2, "b1"))
    assert taken(log, 3) == ["A1", "B1", "end 2"]
    queue.close()


def test_nobody_waits_for_ever() -> None:
    executor = HeldExecutor()
    queue = WorkQueue(executor, slots=1, longest_wait_s=0.05)
    executor.hold()
    running = queue.submit(Priority.ANSWER, str.upper, "a")
    waiting = queue.submit(Priority.ANSWER, str.upper, "b")
    for future in (running, waiting):
        with pytest.raises(TaskTimedOut, match="too much to do"):
            queue.awaited(future)
    assert waiting.cancelled()
    executor.let_go()
    assert running.result(timeout=10) == "A"
    queue.close()


def test_when_it_is_closed_nobody_waits_any_more() -> None:
    executor = HeldExecutor()
    queue = WorkQueue(executor, slots=1)
    executor.hold()
    running = queue.submit(Priority.ANSWER, str.upper, "a")
    assert executor.has_held.wait(10)
    waiting = queue.submit(Priority.ANSWER, str.upper, "b")
    queue.close()
    with pytest.raises(TaskCrashed, match="stopped"):
        running.result(timeout=10)
    assert waiting.cancelled()
    executor.let_go()


def test_a_task_that_nobody_wants_any_more_is_passed_over_or_hurried() -> None:
    executor = HurriedExecutor(ends=False)
    queue = WorkQueue(executor, slots=1)
    executor.hold()
    running = queue.submit(Priority.ANSWER, str.upper, "a")
    assert executor.has_held.wait(10)
    waiting = queue.submit(Priority.ANSWER, str.upper, "b")
    queue.withdraw(waiting)
    assert waiting.cancelled()
    queue.withdraw(running)
    assert not executor.hurried.get(timeout=10).done()
    executor.let_go()
    assert queue.run(Priority.ANSWER, str.upper, "c") == "C"
    assert executor.hurried.empty()
    queue.close()


def test_it_tells_how_busy_it_is_and_what_it_did() -> None:
    executor, log = HeldExecutor(), SimpleQueue[str]()
    queue = WorkQueue(executor, slots=2)
    assert queue.run(Priority.ANSWER, str.upper, "a") == "A"
    with pytest.raises(TypeError):
        queue.run(Priority.ANSWER, str.upper, 7)
    executor.hold()
    queue.add(Steps(log, 1, "a1", "a2", "a3"))
    while queue.state().running < 2:
        pass
    state = queue.state()
    assert (state.slots, state.jobs, state.workers_alive) == (2, {Priority.SEARCH: 1}, None)
    assert state.tasks == {("upper", "done"): 1, ("upper", "internal"): 1}
    assert state.task_seconds.keys() == {"upper"}
    executor.let_go()
    assert sorted(taken(log, 4)) == ["A1", "A2", "A3", "end 1"]
    queue.close()
    assert queue.state().running == 0
