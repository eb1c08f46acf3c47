"""The place table: places with names, for choosing."""

import sqlite3
from dataclasses import dataclass

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.framing.place import Place


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedPlace:
    """A row of the place table."""

    id: int
    name: str
    place: Place


_ALL = "SELECT id, name, css_width_px, css_height_px, fit, density FROM place ORDER BY id"
_ADD = """
INSERT INTO place (name, css_width_px, css_height_px, fit, density)
VALUES (:name, :css_width_px, :css_height_px, :fit, :density) RETURNING id"""
_SET = """
UPDATE place SET name = :name, css_width_px = :css_width_px, css_height_px = :css_height_px,
  fit = :fit, density = :density
WHERE id = :id RETURNING id"""
_REMOVE = "DELETE FROM place WHERE id = :id RETURNING id"


def list_all(connection: sqlite3.Connection) -> list[NamedPlace]:
    """All places, the oldest first."""
    return [
        NamedPlace(
            id=row["id"],
            name=row["name"],
            place=Place(
                css_width_px=row["css_width_px"],
                css_height_px=row["css_height_px"],
                fit=row["fit"],
                density=row["density"],
            ),
        )
        for row in connection.execute(_ALL)
    ]


def add(connection: sqlite3.Connection, name: str, place: Place) -> int:
    """Stores a place, and returns its id."""
    return int(connection.execute(_ADD, _values(name, place)).fetchone()["id"])


def replace(connection: sqlite3.Connection, place_id: int, name: str, place: Place) -> None:
    """Changes a place. Raises NotFoundError."""
    if connection.execute(_SET, {"id": place_id, **_values(name, place)}).fetchone() is None:
        raise NotFoundError(f"There is no place {place_id}.")


def remove(connection: sqlite3.Connection, place_id: int) -> None:
    """Removes a place; photos that stand there keep its numbers. Raises NotFoundError."""
    if connection.execute(_REMOVE, {"id": place_id}).fetchone() is None:
        raise NotFoundError(f"There is no place {place_id}.")


def _values(name: str, place: Place) -> dict[str, object]:
    return {
        "name": name,
        "css_width_px": place.css_width_px,
        "css_height_px": place.css_height_px,
        "fit": place.fit,
        "density": place.density,
    }
