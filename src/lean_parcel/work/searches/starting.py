"""Starting a search in the store; `runs` carries it out."""

from sqlite3 import Connection

from lean_parcel.core.decisions.state import State
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.store import framed, photos, searches
from lean_parcel.store.photos import Photo


def start_search(connection: Connection, photo: Photo, state: State) -> int:
    """Puts a new search in the place of a photo's older one, within a transaction, and returns its
    id. Where the framed pixels are there they are linked at once, so that they are shown while the
    search waits for its turn."""
    search_id = searches.start(connection, photo.id, state.aim.limit_bytes, state.aim.formats)
    plan = plan_framing(photo.source, state.framing, state.aim.place)
    row = framed.find(connection, photo.original_sha256, plan)
    if row:
        searches.set_framed(connection, search_id, row.id)
        if row.thumbnail_sha256:
            photos.set_thumbnail(connection, photo.id, row.thumbnail_sha256)
    return search_id
