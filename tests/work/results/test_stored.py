"""What tasks came to is stored whole, and read back as it was."""

from collections.abc import Iterator
from sqlite3 import Connection

import pytest

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.damage.spots import worst_of
from lean_parcel.core.decisions.state import State
from lean_parcel.core.encoding.settings import WebpSettings
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.embed import SegmentSizes
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.source import Limits
from lean_parcel.store import blobs, damages, encodes, framed, inspections, photos
from lean_parcel.store.file import database
from lean_parcel.store.framed import FramedRow
from lean_parcel.work.results.damages import examine_args, store_examined
from lean_parcel.work.results.encodes import encode_of, store_encode
from lean_parcel.work.results.framed import store_framed
from lean_parcel.work.results.inspections import store_inspection
from lean_parcel.work.tasks.damage import examine_task
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.tasks.framing import FramedFiles, frame_task
from lean_parcel.work.tasks.inspection import inspect_task
from lean_parcel.work.workspace import Workspace
from tests.files import full_jpeg
from tests.workspaces import AIM, all_settled

TRIAL = Trial(settings=WebpSettings(quality=20), width_px=40, height_px=60)


@pytest.fixture
def photo_id(workspace: Workspace) -> int:
    """A photo; its search finds what is stored here, or is stopped by its end."""
    return workspace.adding.add_photo("cup.jpg", full_jpeg(), aim=AIM)


@pytest.fixture
def connection(workspace: Workspace, photo_id: int) -> Iterator[Connection]:
    all_settled(workspace)
    with workspace.context.connection() as lent, database.transaction(lent):
        yield lent


@pytest.fixture
def files() -> FramedFiles:
    place = Place(size="40")
    return frame_task(full_jpeg(), "cup.jpg", Framing(gamut="display-p3"), place, Limits())


@pytest.fixture
def row(connection: Connection, photo_id: int, files: FramedFiles) -> FramedRow:
    return store_framed(connection, photos.get(connection, photo_id).original_sha256, files)


def test_framed_pixels(connection: Connection, files: FramedFiles, row: FramedRow) -> None:
    assert framed.get(connection, row.id) == row
    assert framed.find(connection, row.original_sha256, files.plan) == row
    assert row.search_input == files.search_input
    assert blobs.get(connection, row.plain_sha256) == files.plain_png
    assert blobs.get(connection, row.pixels_sha256) == files.pixels_png
    assert blobs.get(connection, row.thumbnail_sha256 or "") == files.thumbnail_webp


def test_an_inspection(connection: Connection, photo_id: int) -> None:
    made = inspect_task(full_jpeg(), "other.webp", Credit(), Limits())
    connection.execute("DELETE FROM metadata_choice")
    connection.execute("DELETE FROM inspection")
    assert inspections.find(connection, photo_id) is None
    store_inspection(connection, photo_id, made)
    found = inspections.find(connection, photo_id)
    assert found
    assert (found.findings, found.credit) == (made.findings, made.credit)
    assert blobs.get(connection, found.preview_sha256) == made.preview_webp
    assert {each.policy: each.segments for each in found.choices} == made.segments
    assert {each.policy: each.costs for each in found.choices} == made.costs


def test_an_encode_and_what_is_found_in_it(
    workspace: Workspace,
    connection: Connection,
    photo_id: int,
    files: FramedFiles,
    row: FramedRow,
) -> None:
    made = encode_task(EncoderInput(pixels_png=files.pixels_png, gamut="display-p3"), TRIAL)
    sizes = SegmentSizes(exif_bytes=30, xmp_bytes=0)
    encode = store_encode(connection, workspace.context, row.id, TRIAL, made, sizes)
    assert encode.trial == TRIAL
    assert encode.measured.likeness == made.measured.likeness
    assert encode.measured.size_bytes > made.measured.size_bytes + 30
    assert encode.encode_ms == made.encode_ms
    assert blobs.get(connection, encode.file_sha256) == made.data
    bare = encode_of(connection, photo_id, encode.id)
    assert (bare.photo.id, bare.framed) == (photo_id, row)
    assert bare.encode.measured == made.measured
    state = State(framing=Framing(gamut="display-p3"), aim=AIM)
    args = examine_args(connection, workspace.context, encode, state)
    assert args[0] == EncoderInput(pixels_png=files.pixels_png, gamut="display-p3")
    examined = examine_task(*args)  # type: ignore[arg-type]
    store_examined(connection, encode.id, examined)
    found = encodes.get(connection, encode.id)
    assert found.worst == worst_of(examined.damage)
    assert found.flip == pytest.approx(examined.flip, rel=1e-6)
    stored = damages.find(connection, encode.id)
    assert stored
    assert (stored.verdict, stored.strengths) == (
        examined.damage.verdict,
        examined.damage.strengths,
    )
