"""Rows for tests of the store."""

import sqlite3

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.decisions.aim import FIRST_AIM
from lean_parcel.core.decisions.state import State
from lean_parcel.core.encoding.settings import WebpSettings
from lean_parcel.core.framing.framing import FIRST_FRAMING, Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.metadata.embed import NO_SIZES
from lean_parcel.core.original.source import Source
from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.store import (
    blobs,
    encodes,
    framed,
    journal,
    photos,
)
from tests.builders import rung

SOURCE = Source(format="png", size_bytes=9, width_px=40, height_px=30, has_alpha=True)
SEARCH_INPUT = SearchInput(rungs=(rung(40, 30),), is_transparent=True)
TRIAL = Trial(settings=WebpSettings(quality=70), width_px=40, height_px=30)
PLAN = plan_framing(SOURCE, Framing(), Place(size="40"))
STATE = State(framing=FIRST_FRAMING, aim=FIRST_AIM)
Connection = sqlite3.Connection


def add_photo(connection: Connection, state: State = STATE) -> int:
    photo_id = photos.add(
        connection,
        name="a.png",
        folder="",
        original_sha256=blobs.put(connection, b"original"),
        thumbnail_sha256=blobs.put(connection, b"thumbnail"),
        source=SOURCE,
    )
    journal.append_state(connection, photo_id, "Added", state)
    return photo_id


def add_framed(connection: Connection, original: bytes = b"original") -> framed.FramedRow:
    return framed.add(
        connection,
        original_sha256=blobs.put(connection, original),
        plan=PLAN,
        plain_sha256=blobs.put(connection, b"plain"),
        pixels_sha256=blobs.put(connection, b"pixels"),
        thumbnail_sha256=blobs.put(connection, b"small"),
        search_input=SEARCH_INPUT,
    )


def add_encode(
    connection: Connection, framed_id: int, size_bytes: int = 5, trial: Trial = TRIAL
) -> encodes.Encode:
    return encodes.add(
        connection,
        framed_id=framed_id,
        trial=trial,
        measured=Measured(size_bytes=size_bytes, likeness=81.5),
        container_bytes=0,
        encode_ms=3.5,
        sizes=NO_SIZES,
        file_sha256=blobs.put(connection, b"coded"),
    )
