"""The inspection and metadata_choice tables: what was found in an original, and what of its
metadata each policy lets through."""

import json
import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from pydantic import TypeAdapter

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.embed import NO_SIZES, SegmentSizes
from lean_parcel.core.metadata.policy import MetadataPolicy
from lean_parcel.core.metadata.values import Credit, Segments
from lean_parcel.core.original.findings import Finding
from lean_parcel.store.rows import as_a

_FINDINGS: TypeAdapter[tuple[Finding, ...]] = TypeAdapter(tuple[Finding, ...])
_CREDITS: TypeAdapter[Credit] = TypeAdapter(Credit)
_COSTS: TypeAdapter[dict[Format, int]] = TypeAdapter(dict[Format, int])


@dataclass(frozen=True, slots=True, kw_only=True)
class MetadataChoice:
    """What a policy lets through, and the bytes that it adds to a file of each format."""

    policy: MetadataPolicy
    segments: Segments
    costs: dict[Format, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspection:
    """What was found in an original; the preview is a reduced copy of it, as a blob."""

    findings: tuple[Finding, ...]
    credit: Credit
    preview_sha256: str
    choices: tuple[MetadataChoice, ...]


_ADD = """
INSERT INTO inspection (photo_id, findings, credit, preview_sha256)
VALUES (:photo_id, :findings, :credit, :preview_sha256) ON CONFLICT DO NOTHING"""
_ADD_CHOICE = """
INSERT INTO metadata_choice (photo_id, policy, exif, xmp, costs)
VALUES (:photo_id, :policy, :exif, :xmp, :costs) ON CONFLICT DO NOTHING"""
_FIND = "SELECT findings, credit, preview_sha256 FROM inspection WHERE photo_id = :photo_id"
_SEGMENTS = """
SELECT exif, xmp FROM metadata_choice WHERE photo_id = :photo_id AND policy = :policy"""
_SIZES = """
SELECT length(exif) AS exif_bytes, length(xmp) AS xmp_bytes FROM metadata_choice
WHERE photo_id = :photo_id AND policy = :policy"""
_SIZES_OF_ALL = """
SELECT photo_id, length(exif) AS exif_bytes, length(xmp) AS xmp_bytes
FROM json_each(:policies) JOIN metadata_choice
  ON photo_id = CAST(json_each.key AS INTEGER) AND policy = json_each.value"""
_CREDITS_OF_ALL = """
SELECT photo_id, credit FROM inspection WHERE photo_id IN (SELECT value FROM json_each(:ids))"""
_CHOICES = """
SELECT policy, exif, xmp, costs FROM metadata_choice WHERE photo_id = :photo_id ORDER BY rowid"""


def add(connection: sqlite3.Connection, photo_id: int, inspection: Inspection) -> None:
    """Stores what was found in a photo."""
    connection.execute(
        _ADD,
        {
            "photo_id": photo_id,
            "findings": _FINDINGS.dump_json(inspection.findings).decode(),
            "credit": _CREDITS.dump_json(inspection.credit).decode(),
            "preview_sha256": inspection.preview_sha256,
        },
    )
    for choice in inspection.choices:
        connection.execute(
            _ADD_CHOICE,
            {
                "photo_id": photo_id,
                "policy": choice.policy,
                "exif": choice.segments.exif,
                "xmp": choice.segments.xmp,
                "costs": _COSTS.dump_json(choice.costs).decode(),
            },
        )


def segments_of(connection: sqlite3.Connection, photo_id: int, policy: MetadataPolicy) -> Segments:
    """What a policy lets through of a photo's metadata. Raises NotFoundError for a photo that was
    not inspected yet."""
    row = connection.execute(_SEGMENTS, {"photo_id": photo_id, "policy": policy}).fetchone()
    if row is None:
        raise NotFoundError(f"Photo {photo_id} was not inspected yet.")
    return as_a(Segments, row)


def segment_sizes(
    connection: sqlite3.Connection, photo_id: int, policy: MetadataPolicy
) -> SegmentSizes:
    """The bytes of what a policy lets through; none for a photo that was not inspected yet."""
    row = connection.execute(_SIZES, {"photo_id": photo_id, "policy": policy}).fetchone()
    if row is None:
        return NO_SIZES
    return as_a(SegmentSizes, row)


def sizes_of_all(
    connection: sqlite3.Connection, policies: Mapping[int, MetadataPolicy]
) -> dict[int, SegmentSizes]:
    """The same for many photos, by their ids."""
    rows = connection.execute(_SIZES_OF_ALL, {"policies": json.dumps(policies)})
    found = {row["photo_id"]: as_a(SegmentSizes, row) for row in rows}
    return {photo_id: found.get(photo_id, NO_SIZES) for photo_id in policies}


def credits_of(connection: sqlite3.Connection, photo_ids: Iterable[int]) -> dict[int, Credit]:
    """Who is to be named with photos, by their ids; without those that were not inspected yet."""
    rows = connection.execute(_CREDITS_OF_ALL, {"ids": json.dumps(list(photo_ids))})
    return {row["photo_id"]: _CREDITS.validate_json(row["credit"]) for row in rows}


def find(connection: sqlite3.Connection, photo_id: int) -> Inspection | None:
    """What was found in a photo; None for one that was not inspected yet."""
    key = {"photo_id": photo_id}
    row = connection.execute(_FIND, key).fetchone()
    if row is None:
        return None
    return as_a(
        Inspection,
        row,
        findings=_FINDINGS.validate_json(row["findings"]),
        credit=_CREDITS.validate_json(row["credit"]),
        choices=tuple(_choice(each) for each in connection.execute(_CHOICES, key)),
    )


def _choice(row: sqlite3.Row) -> MetadataChoice:
    costs = _COSTS.validate_json(row["costs"])
    return as_a(MetadataChoice, row, segments=as_a(Segments, row), costs=costs)
