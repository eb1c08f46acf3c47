"""The workspace at work: what can be done with photos, each act stored when it returns."""

import sqlite3
from collections.abc import Callable, Iterator
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from lean_parcel.core.aim import FIRST_AIM, Aim
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.fit import Candidate, best_first
from lean_parcel.core.names import safe_name
from lean_parcel.core.photo import Limits
from lean_parcel.store import blobs, database, encodes, framings, photos, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framings import Framing
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import Search
from lean_parcel.work.changes import Changes
from lean_parcel.work.lanes import Lanes
from lean_parcel.work.search_desk import SearchDesk
from lean_parcel.work.tasks import Framed, frame_task


@dataclass(frozen=True, slots=True, kw_only=True)
class Weighing:
    """A photo with all that its screen shows: the latest search, every encode made of its framing,
    and the search's candidates, best first. `framing` is None until it is made."""

    photo: Photo
    search: Search
    framing: Framing | None
    encodes: tuple[Encode, ...]
    candidates: tuple[Encode, ...]


class Workspace:
    """One workspace file and the searches that run on it, `slots` tasks at a time."""

    def __init__(self, path: Path, executor: Executor, limits: Limits, *, slots: int = 2) -> None:
        database.migrate(path)
        self._path = path
        self._executor = executor
        self._limits = limits
        self.changes = Changes()
        self._lanes = Lanes(executor, slots)
        self._desk = SearchDesk(path, self._lanes, limits, self.changes)

    def add_photo(self, name: str, data: bytes, aim: Aim | None = None) -> int:
        """Opens, frames and stores an original, starts its search, and returns its id.

        Without an aim it takes the one that was set last. Raises a PhotoError or TaskError, and
        then nothing is stored.
        """
        with self._connection() as connection:
            aim = aim or photos.latest_aim(connection) or FIRST_AIM
        framed: Framed = self._executor.submit(
            frame_task, data, name, aim.place, self._limits
        ).result()
        with self._connection() as connection, database.transaction(connection):
            original_sha256 = blobs.put(connection, data)
            photo_id = photos.add(
                connection,
                name=name,
                original_sha256=original_sha256,
                thumbnail_sha256=blobs.put(connection, framed.thumbnail_webp),
                source=framed.source,
                aim=aim,
            )
            framings.add(
                connection,
                original_sha256=original_sha256,
                device_width_px=aim.place.device_width_px,
                pixels_sha256=blobs.put(connection, framed.pixels_png),
                subject=framed.subject,
            )
            search_id = searches.start(connection, photo_id, aim.limit_bytes, aim.formats)
        self._desk.start(photo_id, search_id)
        return photo_id

    def list_photos(self) -> list[tuple[Photo, Encode | None]]:
        """All photos with their picks, in the order in which they came."""
        with self._connection() as connection:
            return [
                (photo, encodes.get(connection, photo.picked_encode_id))
                if photo.picked_encode_id
                else (photo, None)
                for photo in photos.list_all(connection)
            ]

    def change_aim(self, photo_id: int, change: Callable[[Aim], Aim]) -> None:
        """Changes a photo's aim and starts a search for it, in the place of an older one."""
        with self._connection() as connection, database.transaction(connection):
            aim = change(photos.get(connection, photo_id).aim)
            photos.set_aim(connection, photo_id, aim)
            search_id = searches.start(connection, photo_id, aim.limit_bytes, aim.formats)
        self._desk.start(photo_id, search_id)

    def stop_search(self, photo_id: int) -> None:
        """Ends a photo's search where it stands; what it found stays."""
        with self._connection() as connection, database.transaction(connection):
            photos.get(connection, photo_id)
            search = searches.of_photo(connection, photo_id)
            if search.state == "running":
                searches.end(connection, search.id, "stopped")
        self._desk.stop(photo_id)

    def set_pick(self, photo_id: int, encode_id: int | None) -> None:
        """Takes an encode of the photo as its pick, or takes the pick back with None."""
        with self._connection() as connection, database.transaction(connection):
            photo = photos.get(connection, photo_id)
            if encode_id is not None:
                encode = encodes.get(connection, encode_id)
                framing = framings.get(connection, encode.framing_id)
                if framing.original_sha256 != photo.original_sha256:
                    raise NotFoundError(f"There is no candidate {encode_id} for this photo.")
            photos.set_pick(connection, photo_id, encode_id)
        self.changes.announce(photo_id)

    def weighing(self, photo_id: int) -> Weighing:
        """What the photo's screen shows; who looks at a photo wants its search to go first.

        Raises NotFoundError.
        """
        self._lanes.prefer(photo_id)
        with self._connection() as connection, database.snapshot(connection):
            photo = photos.get(connection, photo_id)
            search = searches.of_photo(connection, photo_id)
            framing = framings.get(connection, search.framing_id) if search.framing_id else None
            made = encodes.of_framing(connection, framing.id) if framing else []
        return Weighing(
            photo=photo,
            search=search,
            framing=framing,
            encodes=tuple(made),
            candidates=_ranked(search, framing, made),
        )

    def original(self, photo_id: int) -> tuple[Photo, bytes]:
        """A photo and the bytes that came in."""
        with self._connection() as connection:
            photo = photos.get(connection, photo_id)
            return photo, blobs.get(connection, photo.original_sha256)

    def thumbnail(self, photo_id: int) -> bytes:
        """A small WebP of a photo."""
        with self._connection() as connection:
            return blobs.get(connection, photos.get(connection, photo_id).thumbnail_sha256)

    def framed_pixels(self, framing_id: int) -> bytes:
        """A framing as a lossless PNG."""
        with self._connection() as connection:
            return blobs.get(connection, framings.get(connection, framing_id).pixels_sha256)

    def encoded_file(self, encode_id: int) -> tuple[Encode, bytes]:
        """An encode and its file."""
        with self._connection() as connection:
            encode = encodes.get(connection, encode_id)
            return encode, blobs.get(connection, encode.file_sha256)

    def file_name(self, photo_id: int, encode: Encode) -> str:
        """The safe name under which an encode of a photo is saved."""
        with self._connection() as connection:
            return safe_name(photos.get(connection, photo_id).name, encode.trial)

    def resume_searches(self) -> None:
        """Goes on with what was running when the workspace was last in use."""
        self._desk.resume()

    def close(self) -> None:
        """Ends the searches; those that ran go on when the workspace is opened again."""
        self.changes.close()
        self._desk.close()

    @contextmanager
    def _connection(self) -> Iterator[sqlite3.Connection]:
        connection = database.connect(self._path)
        try:
            yield connection
        finally:
            connection.close()


def _ranked(search: Search, framing: Framing | None, made: list[Encode]) -> tuple[Encode, ...]:
    if framing is None:
        return ()
    by_id = {encode.id: encode for encode in made}
    candidates = [
        Candidate(
            trial=by_id[found.encode_id].trial,
            measured=by_id[found.encode_id].measured,
            within_limit=found.within_limit,
        )
        for found in search.found
    ]
    by_trial = {encode.trial: encode for encode in made}
    return tuple(by_trial[c.trial] for c in best_first(candidates, framing.subject))
