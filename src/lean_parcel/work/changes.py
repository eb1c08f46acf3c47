"""What changed, photos or the pages: announced by whoever stores something, awaited by browsers."""

import threading
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
        self.is_closed = False

    def announce_photo(self, photo_id: int) -> None:
        """Something about a photo was stored."""
        with self._condition:
            self._version += 1
            self._photos_at[photo_id] = self._version
            self._condition.notify_all()

    def announce_pages(self) -> None:
        """Something about the pages was stored."""
        with self._condition:
            self._version += 1
            self._pages_at = self._version
            self._condition.notify_all()

    def wait(self, seen: int, timeout_s: float) -> News:
        """What changed after the version `seen`: at once if something did, else when it does, or
        nothing after the timeout."""
        with self._condition:
            self._condition.wait_for(lambda: self.is_closed or self._version > seen, timeout_s)
            return News(
                version=self._version,
                photo_ids=tuple(i for i, at in self._photos_at.items() if at > seen),
                has_pages=self._pages_at > seen,
            )

    def close(self) -> None:
        """Ends every wait."""
        with self._condition:
            self.is_closed = True
            self._condition.notify_all()
