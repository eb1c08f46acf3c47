import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from lean_parcel.core.aim import FIRST_AIM, Aim
from lean_parcel.core.encode import WebpSettings
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.fit import Measured, Rung, Subject, Trial
from lean_parcel.core.frame import Place
from lean_parcel.core.photo import Source
from lean_parcel.store import blobs, database, encodes, framings, photos, searches

SOURCE = Source(format="png", size_bytes=9, width_px=40, height_px=30, has_alpha=True)
SUBJECT = Subject(
    rungs=(Rung(width_px=40, height_px=30, probe_size_bytes=700, ceiling=100),),
    is_transparent=True,
    quick_png_size_bytes=900,
)
TRIAL = Trial(settings=WebpSettings(quality=70), width_px=40, height_px=30)
Connection = sqlite3.Connection


@pytest.fixture
def path(tmp_path: Path) -> Path:
    database.migrate(tmp_path / "w.sqlite3")
    return tmp_path / "w.sqlite3"


@pytest.fixture
def connection(path: Path) -> Iterator[Connection]:
    opened = database.connect(path)
    yield opened
    opened.close()


def add_photo(connection: Connection, aim: Aim = FIRST_AIM) -> int:
    return photos.add(
        connection,
        name="a.png",
        original_sha256=blobs.put(connection, b"original"),
        thumbnail_sha256=blobs.put(connection, b"thumbnail"),
        source=SOURCE,
        aim=aim,
    )


def add_framing(connection: Connection, original: bytes = b"original") -> framings.Framing:
    return framings.add(
        connection,
        original_sha256=blobs.put(connection, original),
        device_width_px=40,
        pixels_sha256=blobs.put(connection, b"pixels"),
        subject=SUBJECT,
    )


def add_encode(connection: Connection, framing_id: int, size_bytes: int = 5) -> encodes.Encode:
    return encodes.add(
        connection,
        framing_id=framing_id,
        trial=TRIAL,
        measured=Measured(size_bytes=size_bytes, likeness=81.5),
        encode_ms=3.5,
        file_sha256=blobs.put(connection, b"coded"),
    )


def test_migrating_twice_changes_nothing(path: Path, connection: Connection) -> None:
    add_photo(connection)
    database.migrate(path)
    assert len(photos.list_all(connection)) == 1
    assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"


def test_a_file_that_is_no_workspace_is_refused_and_left_alone(tmp_path: Path) -> None:
    other = tmp_path / "letter.txt"
    other.write_bytes(b"Dear reader, " * 200)
    with pytest.raises(UsageError) as caught:
        database.migrate(other)
    assert caught.value.code == "not_a_workspace"
    assert other.read_bytes() == b"Dear reader, " * 200


def test_a_workspace_of_a_newer_version_is_refused(path: Path) -> None:
    plain = sqlite3.connect(path)
    plain.execute("PRAGMA user_version = 999")
    plain.close()
    with pytest.raises(UsageError) as caught:
        database.migrate(path)
    assert caught.value.code == "workspace_too_new"


def add_photo_and_fail(connection: Connection) -> None:
    with database.transaction(connection):
        add_photo(connection)
        raise ZeroDivisionError


def test_a_transaction_is_all_or_nothing(connection: Connection) -> None:
    with pytest.raises(ZeroDivisionError):
        add_photo_and_fail(connection)
    assert photos.list_all(connection) == []
    assert connection.execute("SELECT count(*) FROM blob").fetchone()[0] == 0


def test_a_blob_is_kept_once(connection: Connection) -> None:
    first, second = blobs.put(connection, b"same"), blobs.put(connection, b"same")
    assert first == second
    assert blobs.get(connection, first) == b"same"
    assert connection.execute("SELECT count(*) FROM blob").fetchone()[0] == 1


def test_a_photo_comes_back_as_it_was_stored(connection: Connection) -> None:
    photo = photos.get(connection, add_photo(connection))
    assert (photo.name, photo.source, photo.aim) == ("a.png", SOURCE, FIRST_AIM)
    assert photo.picked_encode_id is None
    with pytest.raises(NotFoundError):
        photos.get(connection, 99)


def test_the_latest_aim_is_the_one_set_last(connection: Connection) -> None:
    assert photos.latest_aim(connection) is None
    first, _ = add_photo(connection), add_photo(connection)
    aim = Aim(place=Place(css_width_px=333, density=1.5), limit_bytes=9, formats=("webp",))
    photos.set_aim(connection, first, aim)
    assert photos.latest_aim(connection) == aim


def test_a_framing_is_found_by_original_and_width(connection: Connection) -> None:
    framing = add_framing(connection)
    assert add_framing(connection).id == framing.id
    assert framings.get(connection, framing.id).subject == SUBJECT
    assert framings.find(connection, framing.original_sha256, 40) == framing
    assert framings.find(connection, framing.original_sha256, 41) is None


def test_an_encode_with_the_same_settings_is_kept_once(connection: Connection) -> None:
    framing = add_framing(connection)
    first, again = add_encode(connection, framing.id), add_encode(connection, framing.id, 77)
    assert again == first
    assert encodes.of_framing(connection, framing.id) == [first]
    assert encodes.get(connection, first.id).trial == TRIAL
    with pytest.raises(NotFoundError):
        encodes.get(connection, 99)


def test_a_new_search_takes_the_place_of_the_older_one(connection: Connection) -> None:
    photo_id = add_photo(connection)
    framing = add_framing(connection)
    older = searches.start(connection, photo_id, 100, ("jpeg", "webp"))
    searches.set_framing(connection, older, framing.id)
    searches.set_encodes(connection, older, "jpeg", 3)
    searches.end_format(connection, older, "jpeg")
    searches.end_format(connection, older, "webp", "It broke.")
    encode = add_encode(connection, framing.id)
    searches.add_candidate(connection, older, encode.id, within_limit=True)
    found = searches.of_photo(connection, photo_id)
    assert [(f.format, f.state, f.encodes) for f in found.formats] == [
        ("jpeg", "done", 3),
        ("webp", "failed", 0),
    ]
    assert found.found == (searches.Found(encode_id=encode.id, within_limit=True),)
    newer = searches.start(connection, photo_id, 200, ("avif",))
    assert not searches.is_current(connection, older)
    assert searches.running(connection) == [(photo_id, newer)]
    assert searches.of_photo(connection, photo_id).found == ()
    searches.end(connection, newer, "done")
    assert searches.running(connection) == []


def test_a_pick_must_exist(connection: Connection) -> None:
    with pytest.raises(sqlite3.IntegrityError):
        photos.set_pick(connection, add_photo(connection), 12345)


def test_writers_in_several_threads_wait_for_each_other(path: Path) -> None:
    def write() -> None:
        own = database.connect(path)
        for _ in range(10):
            with database.transaction(own):
                add_photo(own)
        own.close()

    threads = [threading.Thread(target=write) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    reader = database.connect(path)
    assert len(photos.list_all(reader)) == 40
    reader.close()
