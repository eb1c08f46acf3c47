"""A batch whose server is killed at random moments, and goes on."""

import random
import signal
import sqlite3
import time
from contextlib import closing
from pathlib import Path
from typing import Any

import httpx
import pytest
from tools.served import Served

from tests.builders import file, photo

pytestmark = pytest.mark.e2e
PHOTOS, KILLS = 6, 3
TREATMENT = {
    "name": "Small",
    "framing": {"metadata": "nothing"},
    "aim": {"place": {"css_width_px": 90}, "limit_bytes": 3_000, "formats": ["jpeg", "webp"]},
}
_TWICE = """
SELECT count(*) FROM (
  SELECT 1 FROM encode GROUP BY framed_id, settings, width_px, height_px, version
  HAVING count(*) > 1)"""


def test_every_photo_is_done_once_and_none_is_lost(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    served = Served(path, "--workers", "2")
    chance = random.Random(11)
    with httpx.Client(base_url=served.url, headers={"Origin": served.url}, timeout=60) as http:
        ids = [added(http, seed) for seed in range(PHOTOS)]
        treatment = http.post("/api/treatments", json=TREATMENT).json()["id"]
        chosen = {"photo_ids": ids, "treatment_id": treatment}
        assert http.post("/api/selection/treatment", json=chosen).status_code == 204
        for _ in range(KILLS):
            time.sleep(chance.uniform(0.2, 1.5))
            served.end(signal.SIGKILL)
            served.start()
        batch = ended(http)
        rows = {row["id"]: row for row in http.get("/api/pages").json()["pages"][0]["photos"]}
        files = {i: len(http.get(address(i, row)).content) for i, row in rows.items()}
    served.end()
    assert (batch["photo_ids"], batch["ended"], batch["failed"]) == (ids, PHOTOS, 0)
    for photo_id, row in rows.items():
        assert row["aim"]["limit_bytes"] == 3_000
        assert row["best"]["size_bytes"] == files[photo_id] <= 3_000
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        assert connection.execute(_TWICE).fetchone() == (0,)


def added(http: httpx.Client, seed: int) -> int:
    name = f"{seed}.png"
    answer = http.post("/api/photos", files={"photo": (name, file(photo(90, 60, seed)))})
    return int(answer.json()["id"])


def address(photo_id: int, row: dict[str, Any]) -> str:
    return f"/api/photos/{photo_id}/encodes/{row['best']['id']}/download"


def ended(http: httpx.Client) -> dict[str, Any]:
    """The batch once it has ended."""
    until = time.monotonic() + 90
    while time.monotonic() < until:
        batch: dict[str, Any] = http.get("/api/pages/1/batch").json()
        if batch["state"] == "done":
            return batch
        time.sleep(0.2)
    raise AssertionError("the batch does not end")
