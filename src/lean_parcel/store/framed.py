"""The framed table: an original with a plan carried out, once for each plan."""

import sqlite3
from dataclasses import dataclass

from pydantic import TypeAdapter

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.plan import Plan
from lean_parcel.core.trial import Subject

_PLANS: TypeAdapter[Plan] = TypeAdapter(Plan)
_SUBJECTS: TypeAdapter[Subject] = TypeAdapter(Subject)


@dataclass(frozen=True, slots=True, kw_only=True)
class FramedRow:
    """A row of the framed table: pixels before (`plain`) and after sharpening, as blobs."""

    id: int
    original_sha256: str
    plain_sha256: str
    pixels_sha256: str
    thumbnail_sha256: str | None
    subject: Subject


_ADD = """
INSERT INTO framed (original_sha256, plan, plain_sha256, pixels_sha256, thumbnail_sha256, subject)
VALUES (:original_sha256, :plan, :plain_sha256, :pixels_sha256, :thumbnail_sha256, :subject)
ON CONFLICT (original_sha256, plan) DO UPDATE SET plan = plan
RETURNING id, original_sha256, plain_sha256, pixels_sha256, thumbnail_sha256, subject"""
_FIND = """
SELECT id, original_sha256, plain_sha256, pixels_sha256, thumbnail_sha256, subject FROM framed
WHERE original_sha256 = :original_sha256 AND plan = :plan"""
_GET = """
SELECT id, original_sha256, plain_sha256, pixels_sha256, thumbnail_sha256, subject FROM framed
WHERE id = :id"""
_SET_SUBJECT = "UPDATE framed SET subject = :subject WHERE id = :id"


def add(
    connection: sqlite3.Connection,
    *,
    original_sha256: str,
    plan: Plan,
    plain_sha256: str,
    pixels_sha256: str,
    thumbnail_sha256: str,
    subject: Subject,
) -> FramedRow:
    """Keeps what was framed; what is there already stays."""
    row = connection.execute(
        _ADD,
        {
            "original_sha256": original_sha256,
            "plan": _key(plan),
            "plain_sha256": plain_sha256,
            "pixels_sha256": pixels_sha256,
            "thumbnail_sha256": thumbnail_sha256,
            "subject": _SUBJECTS.dump_json(subject).decode(),
        },
    ).fetchone()
    return _framed(row)


def find(connection: sqlite3.Connection, original_sha256: str, plan: Plan) -> FramedRow | None:
    """An original with a plan carried out, if it was."""
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


def set_subject(connection: sqlite3.Connection, framed_id: int, subject: Subject) -> None:
    """Keeps what is known of framed pixels by now."""
    row = {"id": framed_id, "subject": _SUBJECTS.dump_json(subject).decode()}
    connection.execute(_SET_SUBJECT, row)


def _key(plan: Plan) -> str:
    """The same text for equal plans: fields in their order."""
    return _PLANS.dump_json(plan).decode()


def _framed(row: sqlite3.Row) -> FramedRow:
    return FramedRow(
        id=row["id"],
        original_sha256=row["original_sha256"],
        plain_sha256=row["plain_sha256"],
        pixels_sha256=row["pixels_sha256"],
        thumbnail_sha256=row["thumbnail_sha256"],
        subject=_SUBJECTS.validate_json(row["subject"]),
    )
