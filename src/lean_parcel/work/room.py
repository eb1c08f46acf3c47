"""How much a workspace takes on its disk, and giving some of it back."""

from collections.abc import Collection
from pathlib import Path

from lean_parcel.store import room
from lean_parcel.store.file import database
from lean_parcel.store.file.reserve import ensure_reserve, reserve_given
from lean_parcel.store.room import Room
from lean_parcel.work.context import Context


class RoomKeeping:
    """See the module. While work goes on the workspace keeps to its size by itself."""

    def __init__(self, context: Context, path: Path) -> None:
        self._context = context
        self._path = path

    def keep_reserve(self) -> None:
        """Keeps what is given to a full disk first."""
        ensure_reserve(self._path)

    def room(self) -> Room:
        """What the workspace takes, and what could be given back. Raises StorageError."""
        with self._context.connection() as connection:
            return room.room_of(connection)

    def let_go(self, photo_id: int, handed_ids: Collection[int]) -> None:
        """Lets go of all of a photo but the encodes that are handed over: `bring_back` has to come
        before anything is made of it again. Raises StorageError."""
        with self._context.connection() as connection, database.transaction(connection):
            room.let_go(connection, photo_id, handed_ids)

    def reclaim(self, *, forgets_removed: bool) -> None:
        """Gives back all that can be made again, and photos whose removal is long ago, or every
        photo that is on no page: undo does not bring those back. Raises StorageError."""
        with self._context.connection() as connection, reserve_given(self._path):
            room.ready_to_reclaim(connection)
            with database.transaction(connection):
                room.reclaim(connection, forgets_removed=forgets_removed)
            room.shrink(connection)
        self._context.changes.announce_pages()
