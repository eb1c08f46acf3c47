"""The room that the workspace takes."""

from lean_parcel.store.room import Room
from lean_parcel.web.responses.told import Told


class RoomResponse(Told):
    """The bytes of the workspace's file, those that could be given back at once, and those of
    photos that were removed and undo can still bring back."""

    file_bytes: int
    free_bytes: int
    removed_bytes: int

    @classmethod
    def of(cls, room: Room) -> "RoomResponse":
        """From what was measured."""
        return cls.of_all(room)
