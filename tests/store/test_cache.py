from dataclasses import replace

import pytest

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.metadata.embed import NO_SIZES
from lean_parcel.store import blobs, cache, encodes, journal, searches
from lean_parcel.store.encodes import Encode
from tests.store.rows import STATE, Connection, add_framed, add_photo


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
    cache.touch(connection, encode)
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


def test_what_was_used_longest_ago_goes_first(connection: Connection) -> None:
    add_photo(connection)
    framed_id = add_framed(connection).id
    files = [made(connection, framed_id, quality) for quality in (10, 20, 30, 40)]
    cache.touch(connection, files[0])
    assert cache.evict(connection, 4_000) == 0
    assert cache.evict(connection, 2_500) == 2
    assert kept(connection, files) == [10, 40]


def test_picks_offers_and_running_searches_stay(connection: Connection) -> None:
    photo_id = add_photo(connection)
    framed_id = add_framed(connection).id
    files = [made(connection, framed_id, quality) for quality in (10, 20, 30, 40)]
    for picked in (files[0], files[3]):
        state = replace(STATE, picked_encode_id=picked.id)
        journal.append_state(connection, photo_id, "Took it", state)
    search_id = searches.start(connection, photo_id, 5_000, ("jpeg",))
    searches.add_candidate(connection, search_id, files[1].id, meets_aim=True)
    searches.set_framed(connection, search_id, framed_id)
    assert cache.evict(connection, 1) == 0
    searches.end(connection, search_id, "done")
    assert cache.evict(connection, 1) == 1
    assert kept(connection, files) == [10, 20, 40]


def test_a_file_that_is_also_an_original_stays(connection: Connection) -> None:
    add_photo(connection)
    framed_id = add_framed(connection).id
    original = connection.execute("SELECT original_sha256 FROM photo").fetchone()[0]
    made(connection, framed_id, 10)
    connection.execute("UPDATE encode SET file_sha256 = ?", (original,))
    assert cache.evict(connection, 0) == 1
    assert blobs.get(connection, original)
