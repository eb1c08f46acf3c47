"""What changed, photos or the pages: announced by whoever stores something, awaited by browsers."""

import threading


class Changes:
    """A growing version, and for each photo, and None, the version at which it last changed."""

    def __init__(self) -> None:
        self._condition = threading.Condition()
        self._version = 0
        self._changed_at: dict[int | None, int] = {}
        self.is_closed = False

    def announce(self, photo_id: int | None) -> None:
        """Something about a photo was stored, or with None about the pages."""
        with self._condition:
            self._version += 1
            self._changed_at[photo_id] = self._version
            self._condition.notify_all()

    def wait(self, seen: int, timeout_s: float) -> tuple[int, list[int | None]]:
        """The version, and what changed after `seen`: at once if something did, else when it does,
        or nothing after the timeout."""
        with self._condition:
            self._condition.wait_for(lambda: self.is_closed or self._version > seen, timeout_s)
            changed = [photo_id for photo_id, at in self._changed_at.items() if at > seen]
            return self._version, changed

    def close(self) -> None:
        """Lets everybody who waits go."""
        with self._condition:
            self.is_closed = True
            self._condition.notify_all()
