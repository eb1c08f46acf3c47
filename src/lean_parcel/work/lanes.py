"""Whose turn it is: tasks of many searches over one Executor, those of the preferred photo first,
then those of the photo that has waited longest.

An Executor serves its queue in order, so a photo that somebody looks at would wait for all that was
asked for before. Here tasks wait in a lane a photo, and go on only when a worker is free.
"""

import threading
from collections import deque
from collections.abc import Callable
from concurrent.futures import CancelledError, Executor, Future
from dataclasses import dataclass, field
from functools import partial
from typing import Any


@dataclass(slots=True)
class _Task:
    outer: Future[Any]
    call: Callable[[], Future[Any]]


@dataclass(slots=True)
class _Waiting:
    preferred_at: int = 0
    tasks: deque[_Task] = field(default_factory=deque)


class Lanes:
    """Lanes of tasks over an executor, of which at most `slots` run at a time."""

    def __init__(self, executor: Executor, slots: int) -> None:
        self.slots = slots
        self._executor = executor
        self._free = slots
        self._clock = 0
        self._lock = threading.Lock()
        self._lanes: dict[int, _Waiting] = {}

    def prefer(self, photo_id: int) -> None:
        """Puts a photo's tasks before all others, until another one is preferred."""
        with self._lock:
            self._clock += 1
            self._lanes.setdefault(photo_id, _Waiting()).preferred_at = self._clock

    def lane(self, photo_id: int) -> Executor:
        """An Executor for the tasks of one photo."""
        return _Lane(self, photo_id)

    def submit(
        self, photo_id: int, function: Callable[..., Any], *args: Any, **kwargs: Any
    ) -> Future[Any]:
        """Puts a task into a photo's lane."""
        outer: Future[Any] = Future()
        task = _Task(outer, lambda: self._executor.submit(function, *args, **kwargs))
        with self._lock:
            self._lanes.setdefault(photo_id, _Waiting()).tasks.append(task)
        self._start_what_can()
        return outer

    def _start_what_can(self) -> None:
        while task := self._next():
            if not task.outer.set_running_or_notify_cancel():
                self._release()
                continue
            inner = task.call()
            inner.add_done_callback(partial(self._settle, task))

    def _next(self) -> _Task | None:
        with self._lock:
            waiting = [lane for lane in self._lanes.values() if lane.tasks]
            if not self._free or not waiting:
                return None
            self._free -= 1
            return max(waiting, key=lambda lane: lane.preferred_at).tasks.popleft()

    def _release(self) -> None:
        with self._lock:
            self._free += 1

    def _settle(self, task: _Task, done: Future[Any]) -> None:
        self._release()
        self._start_what_can()
        error = CancelledError() if done.cancelled() else done.exception()
        if error:
            task.outer.set_exception(error)
        else:
            task.outer.set_result(done.result())


class _Lane(Executor):
    def __init__(self, lanes: Lanes, photo_id: int) -> None:
        self._lanes = lanes
        self._photo_id = photo_id

    def submit(self, function: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Puts a task into this lane."""
        return self._lanes.submit(self._photo_id, function, *args, **kwargs)
