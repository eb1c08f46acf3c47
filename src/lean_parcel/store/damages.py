"""The damage table: what was found in encodes."""

import json
import sqlite3
import zlib

import numpy as np

from lean_parcel.core.damage.found import Damage, Worst
from lean_parcel.core.damage.kinds import KINDS

_ADD = """
INSERT INTO damage (encode_id, strengths, verdict, worst_kind, worst_strength, flip,
  map_rows, map_columns, maps)
SELECT :encode_id, :strengths, :verdict, :worst_kind, :worst_strength, :flip, :map_rows,
  :map_columns, :maps
WHERE EXISTS (SELECT 1 FROM encode WHERE id = :encode_id)
ON CONFLICT DO NOTHING"""
_FIND = """
SELECT encode.likeness, strengths, verdict, map_rows, map_columns, maps
FROM damage JOIN encode ON encode.id = encode_id WHERE encode_id = :encode_id"""
_EXAMINED = """
SELECT encode_id FROM damage WHERE encode_id IN (SELECT value FROM json_each(:ids))"""


def add(
    connection: sqlite3.Connection, encode_id: int, damage: Damage, worst: Worst, flip: float
) -> None:
    """Stores what was found in an encode; what was found before stays, and of an encode that is
    gone nothing is stored."""
    planes = np.stack([*(damage.maps[kind] for kind in KINDS), damage.unlike])
    connection.execute(
        _ADD,
        {
            "encode_id": encode_id,
            "strengths": json.dumps(damage.strengths),
            "verdict": damage.verdict,
            "worst_kind": worst.kind,
            "worst_strength": worst.strength,
            "flip": flip,
            "map_rows": planes.shape[1],
            "map_columns": planes.shape[2],
            "maps": zlib.compress(planes.tobytes()),
        },
    )


def find(connection: sqlite3.Connection, encode_id: int) -> Damage | None:
    """What was found in an encode, if somebody has looked."""
    row = connection.execute(_FIND, {"encode_id": encode_id}).fetchone()
    if row is None:
        return None
    planes = np.frombuffer(zlib.decompress(row["maps"]), np.uint8)
    planes = planes.reshape(len(KINDS) + 1, row["map_rows"], row["map_columns"])
    return Damage(
        likeness=row["likeness"],
        strengths=json.loads(row["strengths"]),
        verdict=row["verdict"],
        maps=dict(zip(KINDS, planes[:-1], strict=True)),
        unlike=planes[-1],
    )


def examined(connection: sqlite3.Connection, encode_ids: list[int]) -> set[int]:
    """Those encodes in which somebody has looked."""
    rows = connection.execute(_EXAMINED, {"ids": json.dumps(encode_ids)})
    return {row["encode_id"] for row in rows}
