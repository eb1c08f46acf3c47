"""The room that the workspace takes."""

from pydantic import BaseModel

from lean_parcel.store.room import Room


class RoomResponse(BaseModel):
    """The bytes of the workspace's file, those that could be given back at once, and those of
    photos that were removed and undo can still bring back."""

    file_bytes: int
    free_bytes: int
    removed_bytes: int

    @classmethod
    def of(cls, room: Room) -> "RoomResponse":
        """From what was measured."""
        return cls(
            file_bytes=room.file_bytes,
            free_bytes=room.free_bytes,
            removed_bytes=room.removed_bytes,
        )
