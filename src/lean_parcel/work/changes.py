"""What changed, photos or the pages: announced by whoever stores something, awaited by browsers."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class News:
    """What changed up to a version: photos by id, and whether the pages did."""

    version: int
    photo_ids: tuple[int, ...] = ()
    has_pages: bool = False

    @property
    def is_empty(self) -> bool:
        """Whether nothing changed."""
        return not self.photo_ids and not self.has_pages


class Changes:
    """A growing version, and the version at which each photo, and the pages, last changed."""

    def __init__(self) -> None:
        self._condition = threading.Condition()
        self._version = 0
        self._photos_at: dict[int, int] = {}
        self._pages_at = 0
        self._listeners: list[Callable[[], object]] = []
        self.is_closed = False

    def announce_photo(self, photo_id: int) -> None:
        """Something about a photo was stored."""
        with self._condition:
            self._version += 1
            self._photos_at[photo_id] = self._version
            self._notify()

    def announce_pages(self) -> None:
        """Something about the pages was stored."""
        with self._condition:
            self._version += 1
            self._pages_at = self._version
            self._notify()

    def since(self, seen: int) -> News:
        """What changed after the version `seen`; nothing after the present one."""
        with self._condition:
            return News(
                version=self._version,
                photo_ids=tuple(i for i, at in self._photos_at.items() if at > seen),
                has_pages=self._pages_at > seen,
            )

    def wait(self, seen: int, timeout_s: float) -> News:
        """What changed after the version `seen`: at once if something did, else when it does, or
        nothing after the timeout."""
        with self._condition:
            self._condition.wait_for(lambda: self.is_closed or self._version > seen, timeout_s)
            return self.since(seen)

    @contextmanager
    def listening(self, listener: Callable[[], object]) -> Iterator[None]:
        """Calls the listener at every change, and at the end, from the thread that announces; it
        must not block."""
        with self._condition:
            self._listeners.append(listener)
        try:
            yield
        finally:
            with self._condition:
                self._listeners.remove(listener)

    def close(self) -> None:
        """Ends every wait."""
        with self._condition:
            self.is_closed = True
            self._notify()

    def _notify(self) -> None:
        self._condition.notify_all()
        for listener in self._listeners:
            listener()
