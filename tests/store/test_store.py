import sqlite3
import threading
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.errors import BytesChanged, NotFoundError, StorageError, UsageError
from lean_parcel.core.metadata.embed import NO_SIZES, SegmentSizes
from lean_parcel.core.metadata.values import Credit, Segments
from lean_parcel.core.original.findings import Finding
from lean_parcel.store import blobs, encodes, framed, inspections, journal, photos, searches
from lean_parcel.store.file import database, lock
from lean_parcel.store.file.connections import Connections
from lean_parcel.store.file.faults import in_words
from tests.store.rows import (
    PLAN,
    SEARCH_INPUT,
    SOURCE,
    STATE,
    TRIAL,
    Connection,
    add_encode,
    add_framed,
    add_photo,
)


def test_migrating_twice_changes_nothing(path: Path, connection: Connection) -> None:
    add_photo(connection)
    database.migrate(path)
    assert connection.execute("SELECT count(*) FROM photo").fetchone()[0] == 1
    assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"


def test_a_file_that_is_no_workspace_is_refused_and_left_alone(tmp_path: Path) -> None:
    other = tmp_path / "letter.txt"
    other.write_bytes(b"Dear reader, " * 200)
    with pytest.raises(UsageError) as caught:
        database.migrate(other)
    assert caught.value.code == "not_a_workspace"
    assert other.read_bytes() == b"Dear reader, " * 200


def test_the_database_of_another_program_is_refused_and_left_alone(tmp_path: Path) -> None:
    for script in ("CREATE TABLE letter (id)", "PRAGMA application_id = 7"):
        other = tmp_path / f"{len(script)}.sqlite3"
        plain = sqlite3.connect(other)
        plain.execute(script)
        plain.close()
        before = other.read_bytes()
        with pytest.raises(UsageError, match="another program") as caught:
            database.migrate(other)
        assert caught.value.code == "not_a_workspace"
        assert other.read_bytes() == before


def test_a_workspace_is_marked_as_one(connection: Connection) -> None:
    assert connection.execute("PRAGMA application_id").fetchone()[0] == 0x4C50574B
    # Room is given back in parts.
    assert connection.execute("PRAGMA auto_vacuum").fetchone()[0] == 2


def test_a_folder_that_is_not_there_is_not_called_no_workspace(tmp_path: Path) -> None:
    with pytest.raises(StorageError) as caught:
        database.begin(tmp_path / "none" / "w.sqlite3")
    assert caught.value.code == "workspace_unreachable"


def test_a_full_disk_is_called_one_and_stores_nothing(connection: Connection) -> None:
    pages = connection.execute("PRAGMA page_count").fetchone()[0]
    connection.execute(f"PRAGMA max_page_count = {pages + 4}")
    with pytest.raises(StorageError) as caught, in_words(), database.transaction(connection):
        blobs.put(connection, b"x" * 100_000)
    assert caught.value.code == "disk_full"
    assert connection.execute("SELECT count(*) FROM blob").fetchone()[0] == 0


def test_a_workspace_that_another_writes_to_is_called_busy(path: Path) -> None:
    writing, waiting = database.connect(path), database.connect(path)
    waiting.execute("PRAGMA busy_timeout = 1")
    with pytest.raises(StorageError) as caught, database.transaction(writing), in_words():
        waiting.execute("BEGIN IMMEDIATE")
    assert caught.value.code == "workspace_busy"
    writing.close()
    waiting.close()


def test_a_workspace_is_held_by_one(path: Path) -> None:
    held = lock.hold(path)
    with pytest.raises(UsageError, match="open in another Lean Parcel") as caught:
        lock.hold(path)
    assert caught.value.code == "workspace_in_use"
    link = path.with_name("link.sqlite3")
    link.symlink_to(path)
    with pytest.raises(UsageError):
        lock.hold(link)
    held.close()
    lock.hold(path).close()


def test_a_file_without_bytes_is_no_workspace_and_stays_so(path: Path) -> None:
    path.write_bytes(b"")
    with pytest.raises(UsageError, match="0 bytes") as caught:
        database.migrate(path)
    assert caught.value.code == "not_a_workspace"
    assert path.read_bytes() == b""


def test_what_is_begun_is_never_begun_over_another(path: Path, connection: Connection) -> None:
    add_photo(connection)
    database.begin(path)
    assert connection.execute("SELECT count(*) FROM photo").fetchone()[0] == 1
    assert [each.name for each in path.parent.iterdir() if each.name.endswith(".new")] == []


@pytest.mark.parametrize("act", ["delete", "replace", "delete the log"])
def test_what_is_stored_in_a_file_that_is_gone_is_not_acknowledged(path: Path, act: str) -> None:
    def act_while_it_goes(connection: Connection) -> None:
        add_photo(connection)
        if act == "replace":
            path.with_name("copy").write_bytes(path.read_bytes())
            path.with_name("copy").replace(path)
        else:
            path.with_name(path.name + ("-wal" if act == "delete the log" else "")).unlink()

    connections = Connections(path)
    with pytest.raises(StorageError) as caught, connections.lent() as connection:
        act_while_it_goes(connection)
    assert caught.value.code == "workspace_gone"
    begun = False
    with pytest.raises(StorageError), connections.lent():
        begun = True
    assert not begun  # what would be written is gone in the end
    connections.close()


def test_bytes_that_the_disk_has_changed_are_not_given_out(connection: Connection) -> None:
    sha256 = blobs.put(connection, b"as they were")
    connection.execute("UPDATE blob SET data = x'00' WHERE sha256 = ?", (sha256,))
    with pytest.raises(BytesChanged, match="lean-parcel check"):
        blobs.get(connection, sha256)
    assert blobs.put(connection, b"as they were") == sha256
    assert blobs.get(connection, sha256) == b"as they were"


def test_nothing_more_is_stored_once_a_file_was_found_damaged(path: Path) -> None:
    connections = Connections(path)
    with connections.lent() as connection, database.transaction(connection):
        blobs.put(connection, b"x" * 500_000)
        add_photo(connection)
    connections.close()
    inside = path.read_bytes().index(b"x" * 4_000) + 50_000
    with path.open("r+b") as file:
        file.seek(inside)
        file.write(b"\xff" * 100_000)
    connections = Connections(path)
    with pytest.raises(StorageError) as caught, connections.lent() as connection:
        connection.execute("SELECT length(CAST(data AS TEXT)) FROM blob").fetchall()
    assert caught.value.code == "workspace_damaged"
    with connections.lent() as connection:
        assert connection.execute("SELECT count(*) FROM photo").fetchone()[0] == 1
    with pytest.raises(StorageError) as caught, connections.lent() as connection:
        blobs.put(connection, b"more")
    assert caught.value.code == "workspace_damaged"
    connections.close()


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
    assert connection.execute("SELECT count(*) FROM photo").fetchone()[0] == 0
    assert connection.execute("SELECT count(*) FROM blob").fetchone()[0] == 0


def test_a_blob_is_kept_once(connection: Connection) -> None:
    first, second = blobs.put(connection, b"same"), blobs.put(connection, b"same")
    assert first == second
    assert blobs.get(connection, first) == b"same"
    assert connection.execute("SELECT count(*) FROM blob").fetchone()[0] == 1


def test_a_photo_comes_back_as_it_was_stored(connection: Connection) -> None:
    photo = photos.get(connection, add_photo(connection))
    assert (photo.name, photo.source) == ("a.png", SOURCE)
    photos.set_thumbnail(connection, photo.id, blobs.put(connection, b"framed"))
    assert blobs.get(connection, photos.get(connection, photo.id).thumbnail_sha256) == b"framed"
    with pytest.raises(NotFoundError):
        photos.get(connection, 99)


def test_framed_pixels_are_found_by_original_and_plan(connection: Connection) -> None:
    row = add_framed(connection)
    assert add_framed(connection).id == row.id
    assert framed.get(connection, row.id).search_input == SEARCH_INPUT
    assert framed.find(connection, row.original_sha256, PLAN) == row
    other = replace(PLAN, kernel="nearest")
    assert framed.find(connection, row.original_sha256, other) is None
    with pytest.raises(NotFoundError):
        framed.get(connection, 99)


def test_an_encode_with_the_same_settings_is_kept_once(connection: Connection) -> None:
    row = add_framed(connection)
    first, again = add_encode(connection, row.id), add_encode(connection, row.id, 77)
    assert again == first
    assert encodes.of_framed(connection, row.id, NO_SIZES) == [first]
    assert encodes.get(connection, first.id).trial == TRIAL
    assert encodes.find(connection, row.id, TRIAL) == first
    assert encodes.find(connection, row.id + 1, TRIAL) is None
    sizes = SegmentSizes(exif_bytes=3)
    (credited,) = encodes.of_framed(connection, row.id, sizes)
    assert credited.measured.size_bytes == first.measured.size_bytes + 8 + 4
    with pytest.raises(NotFoundError):
        encodes.get(connection, 99)


def test_what_was_found_in_an_original_comes_back_as_it_was(connection: Connection) -> None:
    photo_id = add_photo(connection)
    assert inspections.find(connection, photo_id) is None
    inspection = inspections.Inspection(
        findings=(Finding(topic="dpi", title="72 dpi", note="Without effect."),),
        credit=Credit(author="Ada"),
        preview_sha256=blobs.put(connection, b"preview"),
        choices=(
            inspections.MetadataChoice(
                policy="credit", segments=Segments(exif=b"x", xmp=b""), costs={"jpeg": 14}
            ),
        ),
    )
    assert inspections.segment_sizes(connection, photo_id, "credit") == NO_SIZES
    inspections.add(connection, photo_id, inspection)
    assert inspections.find(connection, photo_id) == inspection
    assert inspections.segments_of(connection, photo_id, "credit") == Segments(exif=b"x")
    sizes = inspections.segment_sizes(connection, photo_id, "credit")
    assert sizes == SegmentSizes(exif_bytes=1)
    with pytest.raises(NotFoundError):
        inspections.segments_of(connection, photo_id, "nothing")


def test_a_pick_is_held_by_the_database(connection: Connection) -> None:
    photo_id = add_photo(connection)
    encode = add_encode(connection, add_framed(connection).id)
    journal.append_state(
        connection, photo_id, "Took it", replace(STATE, picked_encode_id=encode.id)
    )
    with pytest.raises(sqlite3.IntegrityError):
        connection.execute("DELETE FROM encode")
    with pytest.raises(sqlite3.IntegrityError):
        journal.append_state(connection, photo_id, "Took", replace(STATE, picked_encode_id=99))


def test_a_workspace_begins_with_places_and_treatments(connection: Connection) -> None:
    layout = journal.layout_of(connection)
    names = [place.name for place in layout.places]
    assert names == ["Full-width banner", "Column", "Card", "Thumbnail", "E-mail"]
    assert len(layout.treatments) == 4
    assert layout.treatments[1].name == "Banner at two densities"
    banner = layout.treatments[1].treatment
    assert {banner.aim.place.density, *banner.aim.variants.densities} == {1, 2}
    assert (banner.aim.place.size, banner.aim.place.density) == ("1440 × 600 px", 2)
    assert banner.framing.sharpen.amount_percent is None


def test_a_new_search_takes_the_place_of_the_older_one(connection: Connection) -> None:
    photo_id = add_photo(connection)
    row = add_framed(connection)
    older = searches.start(connection, photo_id, 100, ("jpeg", "webp")).id
    searches.set_framed(connection, older, row.id)
    searches.set_encodes(connection, older, "jpeg", 3)
    searches.end_format(connection, older, "jpeg")
    searches.end_format(connection, older, "webp", "It broke.")
    encode = add_encode(connection, row.id)
    searches.add_candidate(connection, older, encode.id, meets_aim=True)
    found = searches.of_photo(connection, photo_id)
    assert [(f.format, f.state, f.encodes) for f in found.formats] == [
        ("jpeg", "done", 3),
        ("webp", "failed", 0),
    ]
    first = searches.FoundCandidate(encode_id=encode.id, meets_aim=True, improves_id=None)
    assert found.found == (first,)
    better = add_encode(connection, row.id, trial=replace(TRIAL, width_px=31))
    searches.add_candidate(connection, older, better.id, meets_aim=True, improves_id=encode.id)
    second = searches.FoundCandidate(encode_id=better.id, meets_aim=True, improves_id=encode.id)
    assert searches.found(connection, older) == (first, second)
    newest = searches.start(connection, photo_id, 200, ("avif",))
    newer = newest.id
    assert not searches.is_running(connection, older)
    assert searches.is_running(connection, newer)
    searches.add_candidate(connection, older, encode.id, meets_aim=True)
    assert searches.found(connection, older) == ()
    assert searches.running(connection) == [newest]
    assert searches.of_photo(connection, photo_id).found == ()
    searches.end(connection, newer, "done")
    assert searches.running(connection) == []
    searches.end(connection, newer, "failed", error_message="Too late.")
    assert searches.of_photo(connection, photo_id).state == "done"


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
    assert reader.execute("SELECT count(*) FROM photo").fetchone()[0] == 40
    reader.close()


def test_an_estimate_is_found_by_its_trial_and_has_no_file(connection: Connection) -> None:
    row = add_framed(connection)
    estimate = Measured(size_bytes=4_000, likeness=71.5)
    for _ in range(2):
        encodes.add_estimate(connection, row.id, TRIAL, estimate)
    assert encodes.estimates(connection, row.id, NO_SIZES) == {TRIAL: estimate}
    assert encodes.of_framed(connection, row.id, NO_SIZES) == []


def test_a_connection_is_lent_again_unless_it_has_failed(tmp_path: Path) -> None:
    path = tmp_path / "w.sqlite3"
    database.begin(path)
    connections = Connections(path)
    with connections.lent() as first, connections.lent() as second:
        assert first is not second
    with connections.lent() as again:
        assert again is first
    with pytest.raises(sqlite3.OperationalError), connections.lent() as failing:
        failing.executescript("BEGIN; SELECT missing")
    with connections.lent() as fresh:
        assert fresh is not failing
        assert not fresh.in_transaction
        connections.close()
        fresh.execute("SELECT 1")
    with pytest.raises(sqlite3.ProgrammingError):
        fresh.execute("SELECT 1")


def test_what_another_version_of_an_encoder_made_is_kept_and_not_found(
    connection: Connection,
) -> None:
    add_photo(connection)
    row = add_framed(connection)
    made = add_encode(connection, row.id)
    encodes.add_estimate(connection, row.id, TRIAL, Measured(size_bytes=5, likeness=60.0))
    assert encodes.find(connection, row.id, TRIAL) == made
    for table in ("encode", "estimate"):
        connection.execute(f"UPDATE {table} SET version = version + 1")
    assert encodes.find(connection, row.id, TRIAL) is None
    assert encodes.of_framed(connection, row.id, NO_SIZES) == []
    assert encodes.estimates(connection, row.id, NO_SIZES) == {}
    assert encodes.get(connection, made.id) == made
    again = add_encode(connection, row.id)
    assert again.id != made.id
    assert encodes.find(connection, row.id, TRIAL) == again
