"""Storing what is found in originals."""

from sqlite3 import Connection

from lean_parcel.store import blobs, inspections
from lean_parcel.store.inspections import Inspection, MetadataChoice
from lean_parcel.work.tasks.inspection import Inspected


def store_inspection(connection: Connection, photo_id: int, made: Inspected) -> Inspection:
    """Stores what a worker found, within a transaction."""
    inspection = Inspection(
        findings=made.findings,
        credit=made.credit,
        preview_sha256=blobs.put(connection, made.preview_webp),
        choices=tuple(
            MetadataChoice(policy=policy, segments=segments, costs=made.costs[policy])
            for policy, segments in made.segments.items()
        ),
    )
    inspections.add(connection, photo_id, inspection)
    return inspection
