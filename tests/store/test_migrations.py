"""A workspace of the first version comes through with all that it held."""

import hashlib
import json
import sqlite3
from importlib import resources
from pathlib import Path

import pytest

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    JpegSettings,
    PassThrough,
    WebpSettings,
    settings_values,
)
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.metadata.embed import NO_SIZES, SegmentSizes, embedded
from lean_parcel.core.metadata.values import Segments
from lean_parcel.core.picture.serialisation import decode, lossless_png
from lean_parcel.store import encodes, framed, journal, searches
from lean_parcel.store.file import database
from lean_parcel.store.migrations.functions import add_functions
from tests.builders import file, photo

_FILL = """
INSERT INTO blob VALUES (hex(zeroblob(32)), x'01');
INSERT INTO photo (id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px,
  height_px, has_alpha, css_width_px, density, limit_bytes, background, formats, aim_order)
SELECT value, 'p' || value || '.jpg', sha256, sha256, 'jpeg', 9, 40, 30, 0, 300 + value, 2, 5000,
  '#204060', '["jpeg", "webp"]', 10 - value
FROM blob, json_each('[1, 2]');
INSERT INTO framing (id, original_sha256, device_width_px, pixels_sha256, subject)
SELECT 5, sha256, 40, sha256, json_object(
  'rungs', json('[{"width_px": 40, "height_px": 30, "probe_size_bytes": 700, "ceiling": 100},
    {"width_px": 30, "height_px": 22, "probe_size_bytes": 500, "ceiling": 90}]'),
  'is_transparent', json('true'), 'quick_png_size_bytes', 900)
FROM blob;
INSERT INTO encode (id, framing_id, settings, width_px, height_px, file_sha256, size_bytes,
  likeness, encode_ms)
SELECT 8, 5, '{"format": "webp", "quality": 70}', 40, 30, sha256, 1, 80.5, 3 FROM blob;
UPDATE photo SET picked_encode_id = 8 WHERE id = 1;
INSERT INTO search (photo_id, framing_id, limit_bytes, state) VALUES (1, 5, 5000, 'done'),
  (2, NULL, 5000, 'stopped');
INSERT INTO search_format (search_id, format, state) VALUES (1, 'webp', 'done');
INSERT INTO candidate VALUES (1, 8, 1);
"""


@pytest.fixture
def path(tmp_path: Path) -> Path:
    first = resources.files("lean_parcel.store") / "migrations" / "0001_workspace.sql"
    connection = sqlite3.connect(tmp_path / "old.sqlite3")
    connection.executescript(first.read_text() + _FILL + "PRAGMA user_version = 1;")
    connection.close()
    return tmp_path / "old.sqlite3"


def test_photos_aims_picks_and_files_are_carried_over(path: Path) -> None:
    database.migrate(path)
    connection = database.connect(path)
    (page,) = journal.layout_of(connection).pages
    assert [(spot.photo_id, spot.name) for spot in page.spots] == [(1, "p1.jpg"), (2, "p2.jpg")]
    one, two = journal.state_of(connection, 1), journal.state_of(connection, 2)
    assert (one.aim.place.size, one.aim.limit_bytes) == ("301 px", 5000)
    assert (one.framing.background, one.aim.formats) == ("#204060", ("jpeg", "webp"))
    assert (one.picked_encode_id, two.picked_encode_id) == (8, None)
    assert encodes.get(connection, 8).measured.likeness == 80.5
    running = [(ref.photo_id, ref.density, ref.id) for ref in searches.running(connection)]
    assert running == [(1, searches.OWN, 1), (2, searches.OWN, 2)]
    assert [f.format for f in searches.of_photo(connection, 2).formats] == ["jpeg", "webp"]
    assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
    assert json.loads(connection.execute("SELECT plan FROM framed").fetchone()[0])["version"] == 1
    (framed_id,) = connection.execute("SELECT id FROM framed").fetchone()
    search_input = framed.get(connection, framed_id).search_input
    assert (search_input.is_transparent, search_input.is_measured) == (True, False)
    assert [(r.width_px, r.quick_png_size_bytes) for r in search_input.rungs] == [(40, 900)]
    connection.close()


_FILL_4 = """
INSERT INTO blob VALUES (hex(zeroblob(32)), x'01');
INSERT INTO photo (id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px,
  height_px, has_alpha)
SELECT 1, 'p.jpg', sha256, sha256, 'jpeg', 9, 40, 30, 0 FROM blob;
INSERT INTO framed (id, original_sha256, plan, plain_sha256, pixels_sha256, subject)
SELECT value, sha256, json_object('n', value), sha256, sha256, json_object(
  'rungs', json('[{"width_px": 40, "height_px": 30, "probe_size_bytes": 700,
    "quick_png_size_bytes": 900, "ceiling": 100}]'),
  'is_transparent', json('false'), 'is_sized_up', json(iif(value = 5, 'true', 'false')))
FROM blob, json_each('[5, 6]');
INSERT INTO encode (id, framed_id, settings, width_px, height_px, blocks_sha256, file_sha256,
  size_bytes, likeness, encode_ms)
SELECT value, 5, iif(value = 8, '{"format": "jpeg", "kept": true}',
  '{"format": "webp", "quality": 60}'), 40, 30, '', sha256, 1, 80.5, 3
FROM blob, json_each('[8, 9]');
INSERT INTO search (id, photo_id, framed_id, limit_bytes, state) VALUES (3, 1, 5, 5000, 'done');
INSERT INTO candidate (search_id, encode_id, within_limit) VALUES (3, 8, 1), (3, 9, 0);
"""


_PLAN = '{"width_px": 1024, "height_px": 768}'
_GREY_PLAN = '{"width_px": 1024, "height_px": 768, "light": "gamma"}'
_TAKEN_STATE = '{"aim": {"place": {"css_width_px": 1024}}, "picked_encode_id": 6}'


def _migrated(folder: Path, version: int, content: str) -> sqlite3.Connection:
    """A workspace of an earlier version with this content, brought to the newest form."""
    path = folder / "old.sqlite3"
    connection = sqlite3.connect(path)
    folder = resources.files("lean_parcel.store") / "migrations"
    scripts = [script for script in folder.iterdir() if script.name.endswith(".sql")]
    add_functions(connection)
    for script in sorted(scripts, key=lambda script: script.name)[:version]:
        connection.executescript(script.read_text())
    connection.executescript(f"{content}PRAGMA user_version = {version};")
    connection.close()
    database.migrate(path)
    return database.connect(path)


def test_what_was_framed_encoded_and_found_is_read_under_its_new_words(tmp_path: Path) -> None:
    connection = _migrated(tmp_path, 4, _FILL_4)
    measured, unmeasured = (framed.get(connection, i).search_input for i in (5, 6))
    assert (measured.is_measured, unmeasured.is_measured) == (True, False)
    original, webp = (encodes.get(connection, i).trial for i in (8, 9))
    assert original.settings == PassThrough(format="jpeg")
    assert webp.settings == WebpSettings(quality=60)
    search = searches.of_photo(connection, 1)
    assert [(each.encode_id, each.meets_aim) for each in search.found] == [(9, False)]
    assert search.state == "running"  # the original is decoded again as it goes out
    connection.close()


_O, _A, _B, _C = (letter * 64 for letter in "oabc")
_BLOBS = f"""INSERT INTO blob SELECT value, CAST(value AS BLOB)
FROM json_each('["{_O}", "{_A}", "{_B}", "{_C}"]');"""
_SEARCH = """
INSERT INTO search (id, photo_id, framed_id, limit_bytes, state) VALUES (3, 1, 5, 5000, 'done');"""
_ENTRY = f"""
INSERT INTO entry (photo_id, words, state, visited) VALUES (1, 'Took it', '{_TAKEN_STATE}', 99);"""


def _framed(search_input: str = "{}", plan: str = _PLAN, original: str = _O) -> str:
    """A photo of one page, and its framed pixels."""
    return f"""
INSERT INTO photo (id, name, original_sha256, thumbnail_sha256, format, size_bytes, width_px,
  height_px, has_alpha) VALUES (1, 'p.jpg', '{original}', '{original}', 'jpeg', 9, 40, 30, 0);
INSERT INTO framed (id, original_sha256, plan, plain_sha256, pixels_sha256, search_input)
VALUES (5, '{original}', '{plan}', '{original}', '{original}', '{search_input}');"""


def _candidates(*encode_ids: int) -> str:
    values = ", ".join(f"(3, {encode_id}, 1)" for encode_id in encode_ids)
    return f"INSERT INTO candidate (search_id, encode_id, meets_aim) VALUES {values};"


#: By version: AVIF whose colours were shifted, and AVIF that was rounded in another way.
_AVIF_5 = f"""
INSERT INTO encode (id, framed_id, settings, width_px, height_px, segments_sha256, file_sha256,
  size_bytes, likeness, encode_ms)
SELECT column1, 5, column2, 40, 30, '', column3, 1, 80.5, 3 FROM (VALUES
  (6, '{{"chroma": "4:2:0", "format": "avif", "quality": 60}}', '{_A}'),
  (7, '{{"chroma": "4:4:4", "format": "avif", "quality": 60}}', '{_B}'),
  (8, '{{"format": "webp", "quality": 60}}', '{_C}'),
  (9, '{{"format": "avif", "pass_through": true}}', '{_O}'));
"""
_AVIF_8 = f"""
INSERT INTO encode (id, framed_id, settings, width_px, height_px, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms)
SELECT column1, 5, column2, 40, 30, column3, 1, 0, 80.5, 3 FROM (VALUES
  (6, '{{"chroma": "4:2:0", "format": "avif", "quality": 60}}', '{_A}'),
  (7, '{{"chroma": "4:2:2", "depth": 8, "format": "avif", "quality": 60}}', '{_B}'),
  (8, '{{"chroma": "4:4:4", "format": "avif", "quality": 60}}', '{_C}'),
  (9, '{{"chroma": "4:2:0", "depth": 10, "format": "avif", "quality": 60}}', '{_C}'),
  (10, '{{"format": "webp", "quality": 60}}', '{_C}'));
"""


@pytest.mark.parametrize(
    ("version", "made", "candidates", "left", "found"),
    [(5, _AVIF_5, (6, 7, 8, 9), [8], [8]), (8, _AVIF_8, (7, 10), [8, 9, 10], [10])],
)
def test_avif_that_was_made_wrong_is_not_offered_again(
    tmp_path: Path,
    version: int,
    made: str,
    candidates: tuple[int, ...],
    left: list[int],
    found: list[int],
) -> None:
    formats = """
INSERT INTO search_format (search_id, format, state, encodes)
VALUES (3, 'avif', 'done', 4), (3, 'webp', 'done', 3);"""
    content = _BLOBS + _framed() + made + _ENTRY + _SEARCH + formats + _candidates(*candidates)
    connection = _migrated(tmp_path, version, content)
    assert [each.id for each in encodes.of_framed(connection, 5, NO_SIZES)] == left
    assert encodes.get(connection, 6).file_sha256 == _A  # what was taken stays
    search = searches.of_photo(connection, 1)
    assert [each.encode_id for each in search.found] == found
    assert (search.state, [each.state for each in search.formats]) == (
        "running",
        ["running", "done"],
    )
    files = connection.execute("SELECT sha256 FROM blob ORDER BY sha256").fetchall()
    assert [row["sha256"] for row in files] == [_A, _C, _O]
    connection.close()


def _hash(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


_EXIF = Segments(exif=b"II*\0\x08\0\0\0\0\0Ada Wren\0\0\0\0")
_PLAIN_WEBP, _PLAIN_JPEG = file(photo(40, 30), "WEBP"), file(photo(40, 30), "JPEG")
_WEBP_BY_ADA = embedded(_PLAIN_WEBP, "webp", _EXIF)
_JPEG_BY_ADA = embedded(_PLAIN_JPEG, "jpeg", _EXIF)
_JPEG = _hash(_JPEG_BY_ADA)
_BLOBS_6 = ", ".join(
    f"('{_hash(data)}', x'{data.hex()}')" for data in (_PLAIN_WEBP, _WEBP_BY_ADA, _JPEG_BY_ADA)
)
_FILL_6 = f"""
INSERT INTO blob (sha256, data) VALUES {_BLOBS_6};
{_framed(original=_JPEG)}
INSERT INTO encode (id, framed_id, settings, width_px, height_px, segments_sha256, file_sha256,
  size_bytes, likeness, encode_ms)
SELECT column1, 5, column2, 40, 30, column3, column4, 1, 80.5, 3 FROM (VALUES
  (6, '{{"format": "webp", "quality": 60}}', '', '{_hash(_PLAIN_WEBP)}'),
  (7, '{{"format": "webp", "quality": 60}}', 'ada', '{_hash(_WEBP_BY_ADA)}'),
  (8, '{{"format": "webp", "quality": 50}}', 'ada', '{_hash(_WEBP_BY_ADA)}'),
  (9, '{{"format": "jpeg", "pass_through": true}}', '', '{_JPEG}'));
INSERT INTO entry (id, photo_id, words, state, visited)
SELECT 10 + column1, 1, 'Took it', json_object(
  'aim', json('{{"place": {{"css_width_px": 1024}}}}'), 'picked_encode_id', column1,
  'framing', json_object('metadata', column2)), 90 + column1
FROM (VALUES (7, 'everything'), (8, 'nothing'), (9, 'nothing'), (6, 'credit'));
{_SEARCH}
{_candidates(6, 7, 8, 9)}
"""


def test_encodes_lose_their_metadata_and_picks_stay_what_they_showed(tmp_path: Path) -> None:
    connection = _migrated(tmp_path, 6, _FILL_6)
    made = {encode.id: encode for encode in encodes.of_framed(connection, 5, NO_SIZES)}
    assert list(made) == [6, 8]
    assert made[6].file_sha256 == _hash(_PLAIN_WEBP)
    bare = connection.execute("SELECT data FROM blob WHERE sha256 = ?", (made[8].file_sha256,))
    assert b"Ada" not in bare.fetchone()["data"]
    with_ada = SegmentSizes(exif_bytes=len(_EXIF.exif))
    assert encodes.get(connection, 8, with_ada).measured.size_bytes == len(_WEBP_BY_ADA)
    originals = [encodes.get(connection, encode_id) for encode_id in (9, 10)]
    assert [each.trial.settings for each in originals] == [
        PassThrough(format="jpeg"),
        PassThrough(format="jpeg", keeps_metadata=False),
    ]
    assert originals[1].file_sha256 == _hash(_PLAIN_JPEG)
    picks = connection.execute("SELECT id, picked_encode_id FROM entry WHERE photo_id ORDER BY id")
    assert [tuple(row) for row in picks] == [(16, 6), (17, 6), (18, 8), (19, 10)]
    found = [each.encode_id for each in searches.of_photo(connection, 1).found]
    assert found == [6, 8]
    assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
    (left,) = connection.execute("SELECT count(*) FROM blob").fetchone()
    assert left == 4  # the original, its picture alone, and a file of each WebP
    connection.close()


_OLD_JPEG = (
    '{"background": "#ffffff", "chroma": "4:2:0", "deringing": true, "format": "jpeg",'
    ' "progressive": true, "quality": 60, "smoothing_px": 0.0, "table": 3, "trellis": true}'
)
_FILL_13 = f"""
INSERT INTO blob SELECT value, CAST(value AS BLOB) FROM json_each('["{_O}", "{_A}"]');
INSERT INTO framed (id, original_sha256, plan, plain_sha256, pixels_sha256, search_input)
VALUES (5, '{_O}', '{_PLAN}', '{_O}', '{_O}', '{{"is_grey": false}}'),
  (6, '{_O}', '{_GREY_PLAN}', '{_O}', '{_O}', '{{"is_grey": true}}');
INSERT INTO encode (id, framed_id, settings, width_px, height_px, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms, is_current)
SELECT column1, column2, column3, 40, 30, '{_A}', 1, 0, 80.5, 3, column4 FROM (VALUES
  (1, 5, '{_OLD_JPEG}', 1),
  (2, 6, '{_OLD_JPEG}', 1),
  (3, 6, '{{"format": "webp", "quality": 60}}', 1),
  (4, 6, '{{"format": "jpeg", "keeps_metadata": true, "pass_through": true}}', 1),
  (5, 5, '{{"chroma": "4:2:0", "format": "avif", "quality": 60}}', 0),
  (6, 5, '{{"chroma": "4:2:0", "format": "avif", "quality": 60}}', 1));
"""


def test_encodes_that_are_made_in_another_way_now_are_not_found(tmp_path: Path) -> None:
    connection = _migrated(tmp_path, 13, _FILL_13)
    assert [made.id for made in encodes.of_framed(connection, 5, NO_SIZES)] == [1, 6]
    assert [made.id for made in encodes.of_framed(connection, 6, NO_SIZES)] == [3]
    assert encodes.get(connection, 2).file_sha256 == _A
    jpeg = encodes.get(connection, 1).trial
    assert jpeg.settings == JpegSettings(quality=60, chroma="4:2:0")
    original = encodes.get(connection, 4).trial
    for framed_id, trial, encode_id in ((5, jpeg, 1), (6, jpeg, None), (6, original, None)):
        found = encodes.find(connection, framed_id, trial)
        assert (found.id if found else None) == encode_id
    connection.close()


def test_likenesses_of_small_and_of_dense_pictures_are_measured_again(tmp_path: Path) -> None:
    pixels = photo(200, 150)
    jpeg = JpegSettings(quality=30, chroma="4:2:0")
    png, made = lossless_png(pixels), encode(pixels, jpeg)
    state = """'{"aim": {"place": {"css_width_px": 100, "density": 2.0}}, "picked_encode_id": 6}'"""
    rungs = '{"rungs": [{"width_px": 200}, {"width_px": 100}], "is_measured": true}'
    connection = _migrated(
        tmp_path,
        16,
        f"""
INSERT INTO blob VALUES ('{_O}', x'{png.hex()}'), ('{_A}', x'{made.hex()}'), ('{_B}', x'00');
{_framed(rungs, '{"width_px":200,"height_px":150,"gamut":"srgb"}')}
INSERT INTO encode (id, framed_id, settings, width_px, height_px, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms, version)
SELECT column1, 5, column2, 200, 150, column3, 1, 0, 80.5, 3, 1 FROM (VALUES
  (6, '{json.dumps(settings_values(jpeg))}', '{_A}'),
  (7, '{{"format": "webp", "quality": 60}}', '{_B}'));
INSERT INTO entry (photo_id, words, state, visited) VALUES (1, 'Took it', {state}, 99);
{_SEARCH}
INSERT INTO search_format (search_id, format, state, encodes) VALUES (3, 'webp', 'done', 4);
{_candidates(6, 7)}
""",
    )
    (taken,) = connection.execute("SELECT likeness FROM encode")
    assert taken["likeness"] == Reference(pixels, density=2).likeness(decode(made))
    (row,) = connection.execute("SELECT plan, search_input FROM framed")
    assert json.loads(row["plan"])["density"] == 2
    assert json.loads(row["search_input"]) == {"rungs": [{"width_px": 200}], "is_measured": False}
    search = searches.of_photo(connection, 1)
    assert (search.state, search.found, search.formats[0].encodes) == ("running", (), 0)
    files = connection.execute("SELECT sha256 FROM blob ORDER BY sha256").fetchall()
    assert [file["sha256"] for file in files] == [_A, _O]
    connection.close()


_TRANSPARENT = '{"is_transparent": true, "is_measured": true}'
_FILL_16 = f"""
{_BLOBS}
{_framed(_TRANSPARENT, '{"width_px":1024,"height_px":768,"gamut":"srgb"}')}
INSERT INTO encode (id, framed_id, settings, width_px, height_px, file_sha256, size_bytes,
  container_bytes, likeness, encode_ms, version)
SELECT column1, 5, column2, 1024, 768, column3, 1, 0, 80.5, 3, 2 FROM (VALUES
  (6, '{{"format": "avif", "quality": 60, "chroma": "4:2:0"}}', '{_A}'),
  (7, '{{"format": "avif", "quality": 50, "chroma": "4:2:0"}}', '{_B}'),
  (8, '{{"format": "webp", "quality": 60}}', '{_C}'));
{_ENTRY}
{_SEARCH}
{_candidates(6, 7, 8)}
"""


def test_transparent_avifs_are_made_anew_and_what_was_taken_stays(tmp_path: Path) -> None:
    connection = _migrated(tmp_path, 16, _FILL_16)
    rows = connection.execute("SELECT id, version, likeness FROM encode ORDER BY id").fetchall()
    assert [tuple(row) for row in rows] == [(6, None, 80.5), (8, 2, 80.5)]
    assert searches.of_photo(connection, 1).state == "running"
    (row,) = connection.execute("SELECT search_input FROM framed")
    assert json.loads(row["search_input"])["is_measured"] is True
    assert encodes.get(connection, 6).file_sha256 == _A
    connection.close()


def test_a_limit_beside_a_likeness_was_only_remembered(tmp_path: Path) -> None:
    def aims(likeness: int | None, limit_bytes: int | None, *, is_now: bool = True) -> str:
        aim = {"limit_bytes": limit_bytes, "likeness": likeness}
        page = {"spots": []}
        pages = [{**page, "settings": aim}, {**page, "settings": {}}]
        if not is_now:
            pages = [{**page, "default": aim}, {**page, "default": None}]
        return json.dumps({"aim": aim, "pages": pages, "treatments": [{"treatment": {"aim": aim}}]})

    rows = ", ".join(
        f"('x', '{aims(likeness, 5_000, is_now=False)}', {visited})"
        for visited, likeness in ((98, 80), (99, None))
    )
    content = f"INSERT INTO entry (words, state, visited) VALUES {rows};"
    connection = _migrated(tmp_path, 17, content)
    states = [row["state"] for row in connection.execute("SELECT state FROM entry ORDER BY id")]
    kept = [state for state in states if json.loads(state).get("aim")]
    assert [json.loads(state) for state in kept] == [
        json.loads(aims(80, None)),
        json.loads(aims(None, 5_000)),
    ]


def test_photos_follow_their_page_in_what_they_have_as_it_has(tmp_path: Path) -> None:
    def state(limit_bytes: int, size: str, *, follows: bool) -> str:
        aim = {"place": {"size": size}, "limit_bytes": limit_bytes, "likeness": 90}
        values = {"aim": aim, "framing": {"metadata": "nothing"}, "follows_page": follows}
        return json.dumps(values)

    pages = [
        {"default": {"limit_bytes": 9, "likeness": 90}, "spots": [{"photo_id": 1}]},
        {"default": None, "spots": [{"photo_id": 2}]},
    ]
    rows = [
        (1, state(9, "1200 px", follows=True)),
        (1, state(9, "60 px", follows=False)),
        (2, state(200_000, "1200 px", follows=True)),
        (2, state(7, "9 px", follows=True)),
        (None, json.dumps({"pages": pages})),
    ]
    values = ", ".join(
        f"({photo_id or 'NULL'}, 'x', '{text}', {visited})"
        for visited, (photo_id, text) in enumerate(rows, start=90)
    )
    content = f"INSERT INTO entry (photo_id, words, state, visited) VALUES {values};"
    connection = _migrated(tmp_path, 19, content)
    states = connection.execute("SELECT state FROM entry WHERE visited BETWEEN 90 AND 93")
    assert [json.loads(row["state"])["follows"] for row in states] == [
        ["size", "density", "limit_bytes", "likeness", "formats"],
        ["density", "formats"],
        ["size", "density", "limit_bytes", "likeness", "formats"],
        ["density", "likeness", "formats"],
    ]
