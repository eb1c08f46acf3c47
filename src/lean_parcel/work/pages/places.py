"""The list of places to choose from."""

from lean_parcel.core.framing.place import Place
from lean_parcel.store import places
from lean_parcel.store.places import NamedPlace
from lean_parcel.work.context import Context


class Places:
    """Places under names. A photo keeps the numbers of its place, not the row."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def all(self) -> list[NamedPlace]:
        """Every place, the oldest first."""
        with self._context.connection() as connection:
            return places.list_all(connection)

    def add(self, name: str, place: Place) -> int:
        """Adds a place; returns its id."""
        with self._context.connection() as connection:
            return places.add(connection, name, place)

    def change(self, place_id: int, name: str, place: Place) -> None:
        """Gives a place another name and other numbers. Raises NotFoundError."""
        with self._context.connection() as connection:
            places.replace(connection, place_id, name, place)

    def remove(self, place_id: int) -> None:
        """Removes a place. Raises NotFoundError."""
        with self._context.connection() as connection:
            places.remove(connection, place_id)
