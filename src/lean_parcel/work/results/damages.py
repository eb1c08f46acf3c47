"""Examining what is stored, and storing what is found in it."""

from sqlite3 import Connection

from lean_parcel.core.damage.spots import worst_of
from lean_parcel.core.decisions.state import State
from lean_parcel.store import blobs, damages, framed
from lean_parcel.store.encodes import Encode
from lean_parcel.work.context import Context
from lean_parcel.work.tasks.damage import Examined
from lean_parcel.work.tasks.encoder_input import EncoderInput


def examine_args(
    connection: Connection, context: Context, encode: Encode, state: State
) -> tuple[object, ...]:
    """What `examine_task` takes for an encode of a photo in a state."""
    row = framed.get(connection, encode.framed_id)
    encoder_input = EncoderInput(
        pixels_png=blobs.get(connection, row.pixels_sha256),
        gamut=state.framing.gamut,
        density=row.density,
    )
    file = blobs.get(connection, encode.file_sha256)
    return encoder_input, file, encode.trial.settings, context.limits


def store_examined(connection: Connection, encode_id: int, examined: Examined) -> None:
    """Stores what was found in an encode, within a transaction."""
    damage = examined.damage
    damages.add(connection, encode_id, damage, worst_of(damage), examined.flip)
