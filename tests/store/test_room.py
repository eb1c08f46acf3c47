import sqlite3
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.metadata.embed import NO_SIZES
from lean_parcel.core.page.layout import Layout, Page, Spot
from lean_parcel.store import blobs, encodes, framed, journal, photos, room, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database
from tests.store.rows import PLAN, SEARCH_INPUT, STATE, Connection, add_framed, add_photo


def made(connection: Connection, framed_id: int, quality: int, size_bytes: int = 1_000) -> Encode:
    """An encode of a file of its own."""
    trial = Trial(settings=JpegSettings(quality=quality, chroma="4:2:0"), width_px=40, height_px=30)
    encode = encodes.add(
        connection,
        framed_id=framed_id,
        container_bytes=0,
        sizes=NO_SIZES,
        trial=trial,
        measured=Measured(size_bytes=size_bytes, likeness=50),
        encode_ms=1,
        file_sha256=blobs.put(connection, bytes([quality]) * size_bytes),
    )
    room.touch(connection, encode)
    return encode


def kept(connection: Connection, all_made: list[Encode]) -> list[int]:
    """The qualities of the encodes that are still there, each with its file."""
    found = []
    for encode in all_made:
        try:
            encodes.get(connection, encode.id)
        except NotFoundError:
            with pytest.raises(NotFoundError):
                blobs.get(connection, encode.file_sha256)
            continue
        blobs.get(connection, encode.file_sha256)
        found.append(encode.trial.settings.quality)  # type: ignore[union-attr]
    return found


def shown(connection: Connection, *photo_ids: int, steps: int = 1) -> None:
    """Puts exactly these photos on a page, in so many steps."""
    spots = tuple(Spot(photo_id=photo_id, name="a.png") for photo_id in photo_ids)
    for _ in range(steps):
        page = Page(id=1, name="First page", spots=spots)
        journal.append_layout(connection, "Moved", Layout(pages=(page,)))


def counts(connection: Connection) -> dict[str, int]:
    tables = ("photo", "framed", "encode", "inspection", "blob")
    return {t: connection.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in tables}


def test_what_was_used_longest_ago_goes_first(connection: Connection) -> None:
    photo_id = add_photo(connection)
    shown(connection, photo_id)
    framed_id = add_framed(connection).id
    searches.set_framed(
        connection, searches.start(connection, photo_id, 9, ("jpeg",)).id, framed_id
    )
    searches.end(connection, searches.of_photo(connection, photo_id).id, "stopped")
    files = [made(connection, framed_id, quality) for quality in (10, 20, 30, 40)]
    room.touch(connection, files[0])
    room.make_room(connection, 4_100)
    assert kept(connection, files) == [10, 20, 30, 40]
    room.make_room(connection, 2_600)
    assert kept(connection, files) == [10, 40]


def test_picks_offers_and_running_searches_stay(connection: Connection) -> None:
    photo_id = add_photo(connection)
    shown(connection, photo_id)
    framed_id = add_framed(connection).id
    files = [made(connection, framed_id, quality) for quality in (10, 20, 30, 40)]
    for picked in (files[0], files[3]):
        state = replace(STATE, picked_encode_id=picked.id)
        journal.append_state(connection, photo_id, "Took it", state)
    search_id = searches.start(connection, photo_id, 5_000, ("jpeg",)).id
    searches.add_candidate(connection, search_id, files[1].id, meets_aim=True)
    searches.set_framed(connection, search_id, framed_id)
    room.make_room(connection, 1)
    assert kept(connection, files) == [10, 20, 30, 40]
    searches.end(connection, search_id, "done")
    room.make_room(connection, 1)
    assert kept(connection, files) == [10, 20, 40]


def test_a_file_that_is_also_an_original_stays(connection: Connection) -> None:
    photo_id = add_photo(connection)
    shown(connection, photo_id)
    framed_id = add_framed(connection).id
    original = connection.execute("SELECT original_sha256 FROM photo").fetchone()[0]
    made(connection, framed_id, 10)
    connection.execute("UPDATE encode SET file_sha256 = ?", (original,))
    room.make_room(connection, 0)
    assert blobs.get(connection, original)
    assert counts(connection)["encode"] == 0


def test_framings_that_no_photo_has_any_more_go_before_encodes_in_sight(
    connection: Connection,
) -> None:
    photo_id = add_photo(connection)
    shown(connection, photo_id)
    old = add_framed(connection)
    search_id = searches.start(connection, photo_id, 9, ("jpeg",)).id
    now = framed.add(
        connection,
        original_sha256=old.original_sha256,
        plan=replace(PLAN, straighten_deg=1),
        plain_sha256=old.plain_sha256,
        pixels_sha256=blobs.put(connection, b"p" * 500),
        thumbnail_sha256=blobs.put(connection, b"other small"),
        search_input=SEARCH_INPUT,
    )
    searches.set_framed(connection, search_id, now.id)
    searches.end(connection, search_id, "done")
    lost, here = made(connection, old.id, 10), made(connection, now.id, 20)
    room.make_room(connection, 2_000)
    assert kept(connection, [lost, here]) == [20]
    assert framed.get(connection, now.id) == now
    with pytest.raises(NotFoundError):
        framed.get(connection, old.id)


def test_a_removed_photo_goes_once_undo_does_not_reach_it(connection: Connection) -> None:
    stays, goes = add_photo(connection), add_photo(connection)
    for photo_id in (stays, goes):
        searches.start(connection, photo_id, 9, ("jpeg",))
        searches.end(connection, searches.of_photo(connection, photo_id).id, "done")
    shown(connection, stays, goes)
    shown(connection, stays, steps=room.UNDO_STEPS - 1)
    room.make_room(connection, 0)
    assert photos.get(connection, goes)
    shown(connection, stays)
    room.make_room(connection, 0)
    with pytest.raises(NotFoundError):
        photos.get(connection, goes)
    assert photos.get(connection, stays)
    for _ in range(room.UNDO_STEPS - 1):
        journal.undo(connection, journal.PAGES)
    with pytest.raises(UsageError):
        journal.undo(connection, journal.PAGES)
    assert connection.execute("PRAGMA foreign_key_check").fetchall() == []


def test_what_would_be_given_back_is_what_is_given_back(path: Path, connection: Connection) -> None:
    stays, goes = add_photo(connection), add_photo(connection)
    searches.start(connection, goes, 9, ("jpeg",))
    framed_id = add_framed(connection, b"o" * 300_000).id
    connection.execute(
        "UPDATE photo SET original_sha256 = (SELECT original_sha256 FROM framed) WHERE id = ?",
        (goes,),
    )
    made(connection, framed_id, 10, 200_000)
    shown(connection, stays, goes)
    shown(connection, stays)
    before = counts(connection)
    said = room.room_of(connection)
    assert counts(connection) == before
    assert 200_000 <= said.free_bytes < 250_000
    assert said.removed_bytes >= 300_000
    connection.execute("BEGIN")
    room.reclaim(connection, forgets_removed=True)
    connection.execute("COMMIT")
    room.shrink(connection)
    after = room.room_of(connection)
    assert (after.free_bytes, after.removed_bytes) == (0, 0)
    assert after.file_bytes <= said.file_bytes - 450_000
    assert path.stat().st_size == after.file_bytes
    assert counts(connection)["photo"] == 1


def test_a_workspace_of_an_earlier_version_shrinks_too(tmp_path: Path) -> None:
    path = tmp_path / "old.sqlite3"
    database.begin(path)
    connection = sqlite3.connect(path)
    connection.executescript("PRAGMA auto_vacuum = NONE; VACUUM;")
    connection.close()
    opened = database.connect(path)
    assert opened.execute("PRAGMA auto_vacuum").fetchone()[0] == 0
    blobs.put(opened, b"x" * 400_000)
    before = room.room_of(opened).file_bytes
    room.reclaim(opened, forgets_removed=False)
    room.shrink(opened)
    assert opened.execute("PRAGMA auto_vacuum").fetchone()[0] == 2
    assert path.stat().st_size < before - 350_000
    opened.close()
