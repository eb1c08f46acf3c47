"""The framed table: the pixels of an original, once for each plan."""

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from pydantic import TypeAdapter

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.store.rows import as_a

_PLANS: TypeAdapter[Plan] = TypeAdapter(Plan)
_SEARCH_INPUTS: TypeAdapter[SearchInput] = TypeAdapter(SearchInput)


@dataclass(frozen=True, slots=True, kw_only=True)
class FramedRow:
    """A row of the framed table: pixels before (`plain`) and after sharpening, as blobs; and how
    many of them are judged as a CSS pixel."""

    id: int
    original_sha256: str
    plain_sha256: str
    pixels_sha256: str
    thumbnail_sha256: str | None
    density: float
    search_input: SearchInput


_ADD = """
INSERT INTO framed (original_sha256, plan, plain_sha256, pixels_sha256, thumbnail_sha256,
  search_input)
VALUES (:original_sha256, :plan, :plain_sha256, :pixels_sha256, :thumbnail_sha256, :search_input)
ON CONFLICT (original_sha256, plan) DO UPDATE SET plan = plan
RETURNING id, original_sha256, plain_sha256, pixels_sha256, thumbnail_sha256,
  json_extract(plan, '$.density') AS density, search_input"""
_FIND = """
SELECT id, original_sha256, plain_sha256, pixels_sha256, thumbnail_sha256,
  json_extract(plan, '$.density') AS density, search_input FROM framed
WHERE original_sha256 = :original_sha256 AND plan = :plan"""
_GET = """
SELECT id, original_sha256, plain_sha256, pixels_sha256, thumbnail_sha256,
  json_extract(plan, '$.density') AS density, search_input FROM framed
WHERE id = :id"""
_PLAN = "SELECT plan FROM framed WHERE id = :id"
_TRANSPARENT = """
SELECT id FROM framed WHERE id IN (SELECT value FROM json_each(:ids))
  AND json_extract(search_input, '$.is_transparent')"""
_SET_PIXELS = """
UPDATE framed SET plain_sha256 = :plain_sha256, pixels_sha256 = :pixels_sha256 WHERE id = :id"""
_SET_SEARCH_INPUT = "UPDATE framed SET search_input = :search_input WHERE id = :id"


def add(
    connection: sqlite3.Connection,
    *,
    original_sha256: str,
    plan: Plan,
    plain_sha256: str,
    pixels_sha256: str,
    thumbnail_sha256: str,
    search_input: SearchInput,
) -> FramedRow:
    """Stores what was framed; a row of the same plan stays as it is."""
    row = connection.execute(
        _ADD,
        {
            "original_sha256": original_sha256,
            "plan": _key(plan),
            "plain_sha256": plain_sha256,
            "pixels_sha256": pixels_sha256,
            "thumbnail_sha256": thumbnail_sha256,
            "search_input": _SEARCH_INPUTS.dump_json(search_input).decode(),
        },
    ).fetchone()
    return _framed(row)


def find(connection: sqlite3.Connection, original_sha256: str, plan: Plan) -> FramedRow | None:
    """The framed pixels of an original and a plan, if they were made."""
    row = connection.execute(
        _FIND, {"original_sha256": original_sha256, "plan": _key(plan)}
    ).fetchone()
    return _framed(row) if row else None


def get(connection: sqlite3.Connection, framed_id: int) -> FramedRow:
    """One row. Raises NotFoundError."""
    row = connection.execute(_GET, {"id": framed_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There are no framed pixels {framed_id}.")
    return _framed(row)


def plan_of(connection: sqlite3.Connection, framed_id: int) -> Plan:
    """The plan by which one was framed. Raises NotFoundError."""
    row = connection.execute(_PLAN, {"id": framed_id}).fetchone()
    if row is None:
        raise NotFoundError(f"There are no framed pixels {framed_id}.")
    return _PLANS.validate_json(row["plan"])


def transparent_of(connection: sqlite3.Connection, framed_ids: Iterable[int]) -> set[int]:
    """Which of these rows are of a picture with transparency."""
    rows = connection.execute(_TRANSPARENT, {"ids": json.dumps(list(framed_ids))})
    return {row["id"] for row in rows}


def set_pixels(
    connection: sqlite3.Connection, framed_id: int, plain_sha256: str, pixels_sha256: str
) -> None:
    """Sets the pixels of a row that were made again."""
    row = {"id": framed_id, "plain_sha256": plain_sha256, "pixels_sha256": pixels_sha256}
    connection.execute(_SET_PIXELS, row)


def set_search_input(
    connection: sqlite3.Connection, framed_id: int, search_input: SearchInput
) -> None:
    """Replaces what a search needs to know of framed pixels."""
    row = {"id": framed_id, "search_input": _SEARCH_INPUTS.dump_json(search_input).decode()}
    connection.execute(_SET_SEARCH_INPUT, row)


def _key(plan: Plan) -> str:
    """The same text for equal plans: fields in their order."""
    return _PLANS.dump_json(plan).decode()


def _framed(row: sqlite3.Row) -> FramedRow:
    search_input = _SEARCH_INPUTS.validate_json(row["search_input"])
    return as_a(FramedRow, row, search_input=search_input)
