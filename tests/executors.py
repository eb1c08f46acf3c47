"""Executors for tests: in this process, observable, and under the test's control."""

import pickle
from concurrent.futures import Executor, Future, InvalidStateError
from contextlib import suppress
from threading import Event
from typing import Any

from lean_parcel.core.errors import TaskCrashed

#: What tasks of earlier tests came to: tasks are pure functions of what travels to them.
_results: dict[tuple[Any, bytes], Any] = {}


class InlineExecutor(Executor):
    """Runs each task at once, in this process, and counts them; the same one really runs once."""

    def __init__(self) -> None:
        self.calls = 0

    def submit(self, function: Any, /, *args: Any) -> Future[Any]:
        self.calls += 1
        future: Future[Any] = Future()
        key = (function, pickle.dumps(args))
        try:
            if key not in _results:
                _results[key] = function(*args)
            future.set_result(_results[key])
        except Exception as error:
            future.set_exception(error)
        return future


class HeldExecutor(InlineExecutor):
    """Runs tasks at once until `hold`, and keeps them, or those of one function, from then on until
    `let_go`."""

    def __init__(self) -> None:
        super().__init__()
        self._is_holding = False
        self._kept_function: Any = None
        self._held: list[tuple[Future[Any], Any, tuple[Any, ...]]] = []
        self.has_held = Event()

    def hold(self, function: Any = None) -> None:
        self._is_holding = True
        self._kept_function = function

    @property
    def held_count(self) -> int:
        return len(self._held)

    def let_go(self) -> None:
        self._is_holding = False
        for future, function, args in self._held:
            with suppress(InvalidStateError):  # it was hurried
                try:
                    future.set_result(function(*args))
                except InvalidStateError:
                    raise
                except Exception as error:
                    future.set_exception(error)

    def fail_held(self, error: Exception) -> None:
        """Lets what is held fail."""
        self._is_holding = False
        for future, _, _ in self._held:
            future.set_exception(error)

    def submit(self, function: Any, /, *args: Any) -> Future[Any]:
        if not self._is_holding or self._kept_function not in (None, function):
            return super().submit(function, *args)
        future: Future[Any] = Future()
        self._held.append((future, function, args))
        self.has_held.set()
        return future


class HurriedExecutor(HeldExecutor):
    """Ends a task that is kept and not wanted any more, as a pool of workers does."""

    def hurry(self, future: Future[Any]) -> None:
        with suppress(InvalidStateError):
            future.set_exception(TaskCrashed("The work was stopped."))


class FailingExecutor(InlineExecutor):
    """Fails one task, by its function, with an error; runs all others."""

    def __init__(self, function: Any, error: Exception) -> None:
        super().__init__()
        self._function = function
        self._error = error

    def fail_from_now_on(self, function: Any) -> None:
        self._function = function

    def submit(self, function: Any, /, *args: Any) -> Future[Any]:
        if function is not self._function:
            return super().submit(function, *args)
        future: Future[Any] = Future()
        future.set_exception(self._error)
        return future
