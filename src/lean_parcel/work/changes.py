"""Which photos changed: announced by whoever stores something, awaited by pages that show it."""

import threading


class Changes:
    """A growing version, and for each photo the version at which it last changed."""

    def __init__(self) -> None:
        self._condition = threading.Condition()
        self._version = 0
        self._changed_at: dict[int, int] = {}
        self.is_closed = False

    def announce(self, photo_id: int) -> None:
        """Something about a photo was stored."""
        with self._condition:
            self._version += 1
            self._changed_at[photo_id] = self._version
            self._condition.notify_all()

    def wait(self, seen: int, timeout_s: float) -> tuple[int, list[int]]:
        """The version, and the photos that changed after `seen`: at once if there are some, else
        when one does, or none after the timeout."""
        with self._condition:
            self._condition.wait_for(lambda: self.is_closed or self._version > seen, timeout_s)
            changed = [photo_id for photo_id, at in self._changed_at.items() if at > seen]
            return self._version, changed

    def close(self) -> None:
        """Lets everybody who waits go."""
        with self._condition:
            self.is_closed = True
            self._condition.notify_all()
