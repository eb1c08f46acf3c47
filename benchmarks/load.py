"""Many clients at one server: how long answers take that compute nothing, what memory the server
has, and whether clients are served alike."""

import random
import tempfile
import time
from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path
from threading import Thread

import httpx
from tools.served import Served

from benchmarks.waiting_photos import small_png

CLIENTS, PHOTOS, SECONDS = 20, 300, 60
_SAMPLES = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Seconds of each answer by its kind, answers by client, and the server's memory on the way."""

    taken_s: dict[str, list[float]]
    answers: list[int]
    memory_bytes: list[int]


class _Client(Thread):
    """Looks at photos and changes limits, each about half a second after the answer before."""

    def __init__(self, url: str, ids: list[int], seed: int) -> None:
        super().__init__()
        self._ids, self._chance = ids, random.Random(seed)
        self._http = httpx.Client(base_url=url, headers={"Origin": url}, timeout=120)
        self.taken_s: dict[str, list[float]] = defaultdict(list)

    def run(self) -> None:
        ends_at = time.monotonic() + SECONDS
        while time.monotonic() < ends_at:
            photo_id = self._chance.choice(self._ids)
            self._ask("photo", "GET", f"/api/photos/{photo_id}/at/0")
            self._ask("row", "GET", f"/api/photos/{photo_id}/row")
            self._ask("thumbnail", "GET", f"/api/photos/{photo_id}/thumbnail")
            self._ask("journal", "GET", f"/api/photos/{photo_id}/journal")
            limit = {"limit_bytes": self._chance.randrange(1_000, 9_000)}
            self._ask("new limit", "PATCH", f"/api/photos/{photo_id}/aim", json=limit)
            if self._chance.random() < 0.1:
                self._ask("all pages", "GET", "/api/pages")
        self._http.close()

    def _ask(self, kind: str, method: str, path: str, **body: object) -> None:
        time.sleep(self._chance.uniform(0, 1))
        start_s = time.perf_counter()
        self._http.request(method, path, **body).raise_for_status()  # type: ignore[arg-type]
        self.taken_s[kind].append(time.perf_counter() - start_s)


def measure() -> Row:
    """A server whose workers are busy all the while with what the clients want weighed."""
    with tempfile.TemporaryDirectory() as folder:
        served = Served(Path(folder) / "load.sqlite3", "--workers", "2")
        try:
            return _measured(served)
        finally:
            served.end()


def _measured(served: Served) -> Row:
    with httpx.Client(base_url=served.url, headers={"Origin": served.url}, timeout=120) as http:
        ids = []
        for seed in range(PHOTOS):
            files = {"photo": (f"{seed}.png", small_png(seed))}
            ids.append(http.post("/api/photos", files=files).json()["id"])
    clients = [_Client(served.url, ids, seed) for seed in range(CLIENTS)]
    for client in clients:
        client.start()
    memory_bytes = []
    for _ in range(_SAMPLES):
        time.sleep(SECONDS / _SAMPLES)
        memory_bytes.append(served.process.memory_info().rss)
    taken_s: dict[str, list[float]] = defaultdict(list)
    for client in clients:
        client.join()
        for kind, seconds in client.taken_s.items():
            taken_s[kind] += seconds
    answers = [sum(map(len, client.taken_s.values())) for client in clients]
    return Row(taken_s=dict(taken_s), answers=answers, memory_bytes=memory_bytes)
