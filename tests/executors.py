"""Executors for tests: in this process, observable, and under the test's control."""

import os
import pickle
import shutil
from collections.abc import Iterator
from concurrent.futures import Executor, Future, InvalidStateError
from contextlib import contextmanager, suppress
from hashlib import sha256
from pathlib import Path
from queue import SimpleQueue
from threading import Event, get_ident
from typing import Any

from lean_parcel.core.errors import TaskCrashed
from lean_parcel.work.queue.pool import WorkerPool


class Memory:
    """What tasks came to that were run before, by any test of this run: tasks are pure functions of
    what travels to them."""

    def __init__(self) -> None:
        #: Where all processes of a run look; none before a run has one.
        self.folder: Path | None = None
        self._values: dict[str, Any] = {}

    def key(self, function: Any, args: tuple[Any, ...]) -> str:
        """The task's name here."""
        return sha256(pickle.dumps((function, args))).hexdigest()

    def __contains__(self, key: str) -> bool:
        path = self._path(key)
        if key not in self._values and path and path.exists():
            self._values[key] = pickle.loads(path.read_bytes())
        return key in self._values

    def __getitem__(self, key: str) -> Any:
        return self._values[key]

    def keep(self, key: str, value: Any) -> None:
        """Remembers what a task came to."""
        self._values[key] = value
        if path := self._path(key):
            with self._written(path) as own:
                own.write_bytes(pickle.dumps(value))

    def place(self, made_of: object) -> Path:
        """Where a file lies that is made of these values, or will lie."""
        assert self.folder
        return self.folder / sha256(pickle.dumps(made_of)).hexdigest()

    def give(self, file: Path, place: Path) -> None:
        """A copy of a file for all who look there."""
        with self._written(place) as own:
            shutil.copyfile(file, own)

    @contextmanager
    def _written(self, path: Path) -> Iterator[Path]:
        """Where to write what appears there whole."""
        own = path.with_suffix(f".{os.getpid()}-{get_ident()}")
        yield own
        own.replace(path)

    def _path(self, key: str) -> Path | None:
        return self.folder / key if self.folder else None


MEMORY = Memory()


class InlineExecutor(Executor):
    """Runs each task at once, in this process, and counts them; the same one really runs once."""

    def __init__(self) -> None:
        self.calls = 0

    def submit(self, function: Any, /, *args: Any) -> Future[Any]:
        self.calls += 1
        future: Future[Any] = Future()
        key = MEMORY.key(function, args)
        try:
            if key not in MEMORY:
                MEMORY.keep(key, function(*args))
            future.set_result(MEMORY[key])
        except Exception as error:
            future.set_exception(error)
        return future


class LentPool(Executor):
    """Workers that all tests of a process share, since to start some takes longer than most of what
    they are asked; the same task really runs once. Who borrows them may not end them."""

    def __init__(self, pool: WorkerPool) -> None:
        self._pool = pool
        self.hurry = pool.hurry

    def submit(self, function: Any, /, *args: Any, **kwargs: Any) -> Future[Any]:
        key = MEMORY.key(function, (*args, *sorted(kwargs.items())))
        if key in MEMORY:
            known: Future[Any] = Future()
            known.set_result(MEMORY[key])
            return known
        future = self._pool.submit(function, *args, **kwargs)
        future.add_done_callback(lambda done: _keep(key, done))
        return future


def _keep(key: str, done: Future[Any]) -> None:
    if not done.cancelled() and not done.exception():
        MEMORY.keep(key, done.result())


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

    @property
    def held_args(self) -> list[tuple[Any, ...]]:
        return [args for _, _, args in self._held]

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
    """Remembers what it was asked to hurry, and `ends` it where it is kept, as a pool of workers
    does."""

    def __init__(self, *, ends: bool = True) -> None:
        super().__init__()
        self._ends = ends
        self.hurried: SimpleQueue[Future[Any]] = SimpleQueue()

    def hurry(self, future: Future[Any]) -> None:
        if not future.done():
            self.hurried.put(future)
            if self._ends:
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
