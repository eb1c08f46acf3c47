"""Workspaces that earlier versions of this software wrote themselves, through their own interface:
whatever they said of a workspace, they are asked for again after its migration.

`earlier/version_N.sqlite3` is a workspace with N migrations: two photos that were framed, weighed
and taken, one of them tuned by hand and moved to a page of its own, steps undone, and one removed.
`earlier/version_N.json` is what that version answered.
"""

import hashlib
import io
import json
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from lean_parcel.core.decisions.earlier import with_one_size
from lean_parcel.work.upkeep import check
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor
from tests.web.steps import LIMITS

_EARLIER = Path(__file__).parent / "earlier"
_VERSIONS = [4, 8, 13]


@pytest.fixture(params=_VERSIONS)
def version(request: pytest.FixtureRequest) -> int:
    return int(request.param)


@pytest.fixture
def said(version: int) -> dict[str, Any]:
    """What the earlier version said."""
    value: dict[str, Any] = json.loads((_EARLIER / f"version_{version}.json").read_text())
    return value


@pytest.fixture
def workspace(tmp_path: Path, version: int) -> Iterator[Workspace]:
    shutil.copy(_EARLIER / f"version_{version}.sqlite3", tmp_path / "w.sqlite3")
    opened = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), LIMITS)
    yield opened
    opened.close()
    assert check(tmp_path / "w.sqlite3") == []


def holds(now: Any, then: Any) -> bool:
    """Whether all that was said is said again; more may have come."""
    if isinstance(then, dict):
        return all(key in now and holds(now[key], then[key]) for key in then)
    return bool(now == then)


def test_pages_and_places_are_as_they_were(client: FlaskClient, said: dict[str, Any]) -> None:
    pages = [
        {
            "name": page["name"],
            "budget_bytes": page["budget_bytes"],
            "photo_ids": [photo["id"] for photo in page["photos"]],
        }
        for page in client.get("/api/pages").json["pages"]
    ]
    assert pages == said["pages"]
    places = client.get("/api/places").json["places"]
    known = [[p["name"], p["place"]["size"].split()[0], p["place"]["density"]] for p in places]
    assert known == [[name, str(width_px), density] for name, width_px, density in said["places"]]


def test_photos_are_as_they_were_decided(client: FlaskClient, said: dict[str, Any]) -> None:
    for photo_id, then in said["photos"].items():
        now = client.get(f"/api/photos/{photo_id}/at/0").json
        if then["aim"]["likeness"] is not None:  # a limit beside it was only remembered
            then["aim"]["limit_bytes"] = None
        came_to = with_one_size(then)
        for what in ("name", "page_id", "aim", "framing"):
            assert holds(now[what], came_to[what]), what
        assert now["marks"] == then["marks"]
        assert now["picked_ids"] == [then["pick_id"]]
        journal = client.get(f"/api/photos/{photo_id}/journal").json
        assert [entry["words"] for entry in journal["entries"]] == then["journal"]


def test_files_are_the_same_to_the_byte(
    client: FlaskClient, said: dict[str, Any], version: int
) -> None:
    for photo_id, then in said["photos"].items():
        now = {
            each["id"]: each for each in client.get(f"/api/photos/{photo_id}/at/0").json["encodes"]
        }
        for encode_id in then["likeness"]:
            if is_shifted(version, int(encode_id)):
                assert int(encode_id) not in now
                continue
            if int(encode_id) not in now:  # its likeness is of another measure
                assert int(encode_id) != then["pick_id"]
                continue
            file = delivered(client, photo_id, encode_id)
            assert hashlib.sha256(file).hexdigest() == then["files"][encode_id]


def test_a_pick_stays_what_it_showed(
    client: FlaskClient, said: dict[str, Any], version: int
) -> None:
    for photo_id, then in said["photos"].items():
        file = delivered(client, photo_id, then["pick_id"])
        if not is_shifted(version, then["pick_id"]):
            assert hashlib.sha256(file).hexdigest() == then["files"][str(then["pick_id"])]
            continue
        before = stored(version, then["pick_id"])
        assert len(file) == len(before)  # its parts stand in another order
        with Image.open(io.BytesIO(before)) as one, Image.open(io.BytesIO(file)) as other:
            assert np.array_equal(one, other)
            assert dict(one.getexif()) == dict(other.getexif())


def delivered(client: FlaskClient, photo_id: str, encode_id: int | str) -> bytes:
    answer = client.get(f"/api/photos/{photo_id}/encodes/{encode_id}/download")
    assert answer.status_code == 200
    return answer.data


def stored(version: int, encode_id: int) -> bytes:
    """The file of an encode, as the earlier version had it."""
    asked = "SELECT data FROM encode JOIN blob ON file_sha256 = sha256 WHERE id = ?"
    return bytes(asked_of(_EARLIER / f"version_{version}.sqlite3", asked, encode_id)[0][0])


def is_shifted(version: int, encode_id: int) -> bool:
    """Whether an encode is an AVIF whose colours were shifted, which is made anew: in any chroma
    first, and with fewer chroma samples for a while more."""
    asked = "SELECT settings FROM encode WHERE id = ?"
    text = asked_of(_EARLIER / f"version_{version}.sqlite3", asked, encode_id)[0][0]
    settings = json.loads(text)
    is_avif = settings["format"] == "avif" and not settings.get("pass_through")
    return is_avif and (version < 6 or (version < 9 and settings["chroma"] != "4:4:4"))


def asked_of(path: Path, asked: str, *of: int) -> list[tuple[Any, ...]]:
    with closing(sqlite3.connect(path)) as connection:
        return connection.execute(asked, of).fetchall()


def test_originals_are_untouched(tmp_path: Path, workspace: Workspace, version: int) -> None:
    then = originals(_EARLIER / f"version_{version}.sqlite3")
    assert len(then) == 3
    assert originals(tmp_path / "w.sqlite3") == then


def originals(path: Path) -> list[tuple[int, str, str]]:
    """The photos of a workspace, with the stated and the real hash of their originals."""
    asked = (
        "SELECT p.id, sha256, data FROM photo p JOIN blob ON sha256 = original_sha256 ORDER BY 1"
    )
    return [
        (i, sha256, hashlib.sha256(data).hexdigest()) for i, sha256, data in asked_of(path, asked)
    ]


def test_steps_go_back_as_they_were_made(client: FlaskClient, said: dict[str, Any]) -> None:
    for photo_id in said["photos"]:
        journal = client.get(f"/api/photos/{photo_id}/journal").json["entries"]
        done = [entry["status"] for entry in journal].count("done")
        assert done >= 2
        for _ in range(done):
            assert client.post(f"/api/photos/{photo_id}/journal/undo").status_code == 204
        refused = client.post(f"/api/photos/{photo_id}/journal/undo")
        assert refused.json["code"] == "nothing_to_undo"
        assert client.get(f"/api/photos/{photo_id}/at/0").json["picked_ids"] == []
