"""The workspace at work: what can be done with photos, each act stored when it returns."""

import sqlite3
from collections.abc import Callable, Iterator
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

from lean_parcel.core.aim import FIRST_AIM, Aim
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.findings import Finding, find_in_place
from lean_parcel.core.fit import best_first
from lean_parcel.core.framing import FIRST_FRAMING, Framing, Sharpen, Size, carried_over
from lean_parcel.core.journal import Difference, State, act_words, differences
from lean_parcel.core.layout import with_photo
from lean_parcel.core.metadata import Credit
from lean_parcel.core.names import safe_name
from lean_parcel.core.orientation import Box, shown_size_px
from lean_parcel.core.outcome import Enough, enough_for_next_level, explain
from lean_parcel.core.photo import Limits
from lean_parcel.core.plan import Plan, plan_framing
from lean_parcel.core.reach import lightest_first
from lean_parcel.core.size import format_size
from lean_parcel.core.trial import Candidate
from lean_parcel.store import blobs, cache, database, encodes, framed, journal, photos, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.inspections import Inspection
from lean_parcel.store.journal import Entry
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import Search
from lean_parcel.work.acts import Act
from lean_parcel.work.changes import Changes
from lean_parcel.work.inspecting import Inspector, keep
from lean_parcel.work.lanes import Lanes
from lean_parcel.work.pages import Pages
from lean_parcel.work.search_desk import SearchDesk, add_framed
from lean_parcel.work.tasks import FramedFiles, frame_task, margins_task, sharpened_png
from lean_parcel.work.tuning import Tuner


@dataclass(frozen=True, slots=True, kw_only=True)
class Weighing:
    """A photo with all that its screens show: the state and plan, the latest search, every encode
    made of its framed pixels, the search's candidates, best first, what came of it in words, and
    what would be enough for more. `framed` is None until the pixels are made."""

    photo: Photo
    name: str
    page_id: int
    state: State
    plan: Plan
    can_undo: bool
    can_redo: bool
    search: Search
    framed: FramedRow | None
    encodes: tuple[Encode, ...]
    candidates: tuple[Encode, ...]
    outcome: str
    enough: Enough | None

    @property
    def turned_size_px(self) -> tuple[int, int]:
        """Width and height of the upright original after turns."""
        source = self.photo.source
        return shown_size_px(source.width_px, source.height_px, self.plan.orientation)


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """What differs between two entries of a journal, and the framed pixels of each, where they were
    ever made."""

    differences: tuple[Difference, ...]
    framed_ids: tuple[int | None, ...]


class Workspace:
    """One workspace file and the searches that run on it, `slots` tasks at a time; the files of
    encodes may take `room_bytes`."""

    def __init__(
        self,
        path: Path,
        executor: Executor,
        limits: Limits,
        *,
        slots: int = 2,
        room_bytes: int = 2_000_000_000,
    ) -> None:
        database.migrate(path)
        self._path = path
        self._executor = executor
        self._limits = limits
        self.changes = Changes()
        self._lanes = Lanes(executor, slots)
        self._inspector = Inspector(executor, limits)
        self.desk = SearchDesk(path, self._lanes, self._inspector, limits, self.changes, room_bytes)
        self.tuner = Tuner(self.connection, self._lanes, self._inspector, self.changes, room_bytes)
        self.pages = Pages(self.connection, self.desk, self.changes)

    def add_photo(
        self,
        file_name: str,
        data: bytes,
        *,
        name: str | None = None,
        aim: Aim | None = None,
        credit: Credit | None = None,
        page_id: int | None = None,
    ) -> int:
        """Opens, frames, inspects and stores an original, starts its search, and returns its id.

        It goes by `name`, or its file's, to the end of a page, or of the first one. Without an aim
        it takes the one that was decided last, and the framing likewise. A credit is used where the
        file has none. Raises a PhotoError or TaskError, and then nothing is stored.
        """
        with self.connection() as connection:
            last = journal.latest_state(connection)
            layout = journal.layout_of(connection)
            page_id = layout.pages[0].id if page_id is None else layout.page(page_id).id
        aim = aim or (last.aim if last else FIRST_AIM)
        framing = carried_over(last.framing) if last else FIRST_FRAMING
        inspecting = self._inspector.begin(data, file_name, credit or Credit())
        framed_files, framing = self._framed(data, file_name, framing, aim)
        inspected = inspecting.result()
        state = State(framing=framing, aim=aim)
        with self.connection() as connection, database.transaction(connection):
            original_sha256 = blobs.put(connection, data)
            photo_id = photos.add(
                connection,
                name=file_name,
                original_sha256=original_sha256,
                thumbnail_sha256=blobs.put(connection, framed_files.thumbnail_webp),
                source=framed_files.source,
            )
            journal.append_state(connection, photo_id, "Added", state)
            add_framed(connection, original_sha256, framed_files)
            keep(connection, photo_id, inspected)
            layout = with_photo(journal.layout_of(connection), page_id, photo_id, name or file_name)
            journal.append_layout(connection, f"Added {name or file_name}", layout)
            search_id = searches.start(connection, photo_id, aim.limit_bytes, aim.formats)
        self.desk.start(photo_id, search_id)
        return photo_id

    def _framed(
        self, data: bytes, file_name: str, framing: Framing, aim: Aim
    ) -> tuple[FramedFiles, Framing]:
        """A new photo framed; by its place where a remembered size would enlarge it."""

        def frame(by: Framing) -> FramedFiles:
            made: FramedFiles = self._executor.submit(
                frame_task, data, file_name, by, aim.place, self._limits
            ).result()
            return made

        try:
            return frame(framing), framing
        except UsageError as error:
            if error.code != "would_enlarge":
                raise
            by_place = replace(framing, size=Size())
            return frame(by_place), by_place

    def change(self, photo_id: int, act: Act, words: str | None = None) -> None:
        """Changes what is decided about a photo: one entry in its journal, in these words or in
        what changed, and a new search where its files change. A pick that no longer shows the photo
        as it is framed is put back.

        Where nothing changes nothing is stored, but a search that was stopped goes on. Raises
        NotFoundError, or a UsageError of the act or of a framing that cannot be, and then nothing
        is stored.
        """
        with self.connection() as connection, database.transaction(connection):
            photo = photos.get(connection, photo_id)
            before = journal.state_of(connection, photo_id)
            after = act(before, photo)
            if _plan(photo, before) != _plan(photo, after):
                after = replace(after, picked_encode_id=None)
            if after != before:
                words = words or act_words(before, after)
                journal.append_state(connection, photo_id, words, after)
            search_id = self._restarted(connection, photo, before, after)
        self._go_on(photo_id, search_id)

    def undo(self, photo_id: int) -> None:
        """Takes the last step on a photo back. Raises UsageError `nothing_to_undo`."""
        self._move(photo_id, lambda connection: journal.undo(connection, photo_id))

    def redo(self, photo_id: int) -> None:
        """Takes a step that was taken back again. Raises UsageError `nothing_to_redo`."""
        self._move(photo_id, lambda connection: journal.redo(connection, photo_id))

    def go_back_to(self, photo_id: int, entry_id: int) -> None:
        """Makes any entry of a photo's journal the current one. Raises NotFoundError."""
        self._move(photo_id, lambda connection: journal.visit(connection, photo_id, entry_id))

    def _move(self, photo_id: int, move: Callable[[sqlite3.Connection], Entry]) -> None:
        with self.connection() as connection, database.transaction(connection):
            photo = photos.get(connection, photo_id)
            before = journal.state_of(connection, photo_id)
            after = journal.read_state(move(connection))
            search_id = self._restarted(connection, photo, before, after)
        self._go_on(photo_id, search_id)

    def _restarted(
        self, connection: sqlite3.Connection, photo: Photo, before: State, after: State
    ) -> int | None:
        """A new search where the photo's files change, or where one was stopped and nothing did."""
        is_same = (
            _plan(photo, before) == _plan(photo, after)
            and before.framing.metadata == after.framing.metadata
            and before.framing.background == after.framing.background
            and replace(before.aim, place=after.aim.place) == after.aim
        )
        if is_same and (before != after or searches.of_photo(connection, photo.id).is_at_rest):
            return None
        return searches.start(connection, photo.id, after.aim.limit_bytes, after.aim.formats)

    def _go_on(self, photo_id: int, search_id: int | None) -> None:
        if search_id is None:
            self.changes.announce(photo_id)
        else:
            self.desk.start(photo_id, search_id)

    def stop_search(self, photo_id: int) -> None:
        """Ends a photo's search where it stands; what it found stays."""
        with self.connection() as connection, database.transaction(connection):
            photos.get(connection, photo_id)
            search = searches.of_photo(connection, photo_id)
            if search.state == "running":
                searches.end(connection, search.id, "stopped")
        self.desk.stop(photo_id)

    def set_pick(self, photo_id: int, encode_id: int | None) -> None:
        """Takes an encode of the photo, as it is framed, as its pick, or takes the pick back with
        None. Raises NotFoundError for an encode of something else."""
        words = "Put the pick back"
        if encode_id is not None:
            with self.connection() as connection:
                photo = photos.get(connection, photo_id)
                plan = _plan(photo, journal.state_of(connection, photo_id))
                row = framed.find(connection, photo.original_sha256, plan)
                encode = encodes.get(connection, encode_id)
            if row is None or row.id != encode.framed_id:
                raise NotFoundError(f"There is no candidate {encode_id} for this photo.")
            trial = encode.trial
            name = "the original" if trial.is_kept else trial.settings.format.upper()
            words = f"Took {name}, {format_size(encode.measured.size_bytes)}"
        self.change(photo_id, lambda state, _: replace(state, picked_encode_id=encode_id), words)

    def weighing(self, photo_id: int) -> Weighing:
        """What a photo's screens show; who looks at a photo wants its search to go first.

        Raises NotFoundError.
        """
        self._lanes.prefer(photo_id)
        with self.connection() as connection, database.snapshot(connection):
            photo = photos.get(connection, photo_id)
            layout = journal.layout_of(connection)
            entry = journal.current(connection, photo_id)
            state = journal.read_state(entry)
            search = searches.of_photo(connection, photo_id)
            row = framed.get(connection, search.framed_id) if search.framed_id else None
            made: list[Encode] = []
            if row:
                blocks = self._inspector.blocks(connection, photo, state.framing)
                made = encodes.of_framed(connection, row.id, blocks)
            ranked = _ranked(search, state.aim, row, made)
            by_trial = {encode.trial: encode for encode in made}
            return Weighing(
                photo=photo,
                name=layout.spot(photo_id).name,
                page_id=layout.page_of(photo_id).id,
                state=state,
                plan=_plan(photo, state),
                can_undo=entry.parent_id is not None,
                can_redo=journal.following(connection, entry) is not None,
                search=search,
                framed=row,
                encodes=tuple(made),
                candidates=tuple(by_trial[c.trial] for c in ranked),
                outcome=explain(ranked, row.subject, photo.source.size_bytes) if row else "",
                enough=_enough(ranked, made) if state.aim.likeness is None else None,
            )

    def findings(self, photo_id: int) -> tuple[tuple[Finding, ...], Inspection]:
        """What came in, first how it goes with the photo's place. Raises NotFoundError."""
        with self.connection() as connection:
            photo = photos.get(connection, photo_id)
            inspection = self._inspector.of_photo(connection, photo)
            plan = _plan(photo, journal.state_of(connection, photo_id))
        in_place = find_in_place(photo.source, plan)
        return (inspection.findings[0], in_place, *inspection.findings[1:]), inspection

    def margins(self, photo_id: int) -> Box | None:
        """What lies inside the photo's empty margins, in the turned picture; None without any."""
        with self.connection() as connection:
            photo = photos.get(connection, photo_id)
            state = journal.state_of(connection, photo_id)
            data = blobs.get(connection, photo.original_sha256)
        box: Box | None = self._lanes.submit(
            photo_id, margins_task, data, photo.name, state.framing.orientation, self._limits
        ).result()
        return box

    def journal(self, photo_id: int) -> tuple[list[Entry], Entry]:
        """A photo's journal, oldest first, and its current entry. Raises NotFoundError."""
        with self.connection() as connection, database.snapshot(connection):
            current = journal.current(connection, photo_id)
            return journal.entries(connection, photo_id), current

    def compare(self, photo_id: int, first_id: int, second_id: int) -> Comparison:
        """What differs between two entries of a photo's journal. Raises NotFoundError."""
        with self.connection() as connection, database.snapshot(connection):
            photo = photos.get(connection, photo_id)
            states = [
                journal.read_state(journal.get(connection, photo_id, entry_id))
                for entry_id in (first_id, second_id)
            ]
            rows = [
                framed.find(connection, photo.original_sha256, _plan(photo, state))
                for state in states
            ]
        return Comparison(
            differences=differences(*states),
            framed_ids=tuple(row.id if row else None for row in rows),
        )

    def sharpened(self, framed_id: int, sharpen: Sharpen, box: Box) -> bytes:
        """A part of framed pixels, sharpened anew, as a PNG: to judge a setting by before it is
        taken. Raises NotFoundError."""
        return sharpened_png(self.framed_pixels(framed_id, is_plain=True), sharpen, box)

    def original(self, photo_id: int) -> tuple[Photo, bytes]:
        """A photo and the bytes that came in."""
        with self.connection() as connection:
            photo = photos.get(connection, photo_id)
            return photo, blobs.get(connection, photo.original_sha256)

    def thumbnail(self, photo_id: int) -> bytes:
        """A small WebP of a photo, as it is framed."""
        with self.connection() as connection:
            return blobs.get(connection, photos.get(connection, photo_id).thumbnail_sha256)

    def preview(self, photo_id: int) -> bytes:
        """A WebP of the whole original, upright, for framing it."""
        with self.connection() as connection:
            photo = photos.get(connection, photo_id)
            inspection = self._inspector.of_photo(connection, photo)
            return blobs.get(connection, inspection.preview_sha256)

    def framed_pixels(self, framed_id: int, *, is_plain: bool = False) -> bytes:
        """Framed pixels as a lossless PNG; `is_plain` before sharpening."""
        with self.connection() as connection:
            row = framed.get(connection, framed_id)
            return blobs.get(connection, row.plain_sha256 if is_plain else row.pixels_sha256)

    def encoded_file(self, encode_id: int) -> tuple[Encode, bytes]:
        """An encode and its file."""
        with self.connection() as connection:
            encode = encodes.get(connection, encode_id)
            cache.touch(connection, encode)
            return encode, blobs.get(connection, encode.file_sha256)

    def file_name(self, photo_id: int, encode: Encode) -> str:
        """The safe name under which an encode of a photo is saved."""
        with self.connection() as connection:
            return safe_name(journal.layout_of(connection).spot(photo_id).name, encode.trial)

    def resume_searches(self) -> None:
        """Goes on with what was running when the workspace was last in use."""
        self.desk.resume()

    def close(self) -> None:
        """Ends the searches; those that ran go on when the workspace is opened again."""
        self.changes.close()
        self.desk.close()

    @contextmanager
    def connection(self) -> Iterator[sqlite3.Connection]:
        """A connection for one act."""
        connection = database.connect(self._path)
        try:
            yield connection
        finally:
            connection.close()


def _plan(photo: Photo, state: State) -> Plan:
    source = photo.source
    return plan_framing(source.width_px, source.height_px, state.framing, state.aim.place)


def _ranked(search: Search, aim: Aim, row: FramedRow | None, made: list[Encode]) -> list[Candidate]:
    """What the search found, in the order in which to offer it."""
    if row is None:
        return []
    by_id = {encode.id: encode for encode in made}
    candidates = [
        Candidate(
            trial=by_id[found.encode_id].trial,
            measured=by_id[found.encode_id].measured,
            within_limit=found.within_limit,
        )
        for found in search.found
        if found.encode_id in by_id
    ]
    order = best_first if aim.likeness is None else lightest_first
    return order(candidates, row.subject)


def _enough(ranked: list[Candidate], made: list[Encode]) -> Enough | None:
    """What would be enough for the next level of likeness, once something fits."""
    if not ranked or not ranked[0].within_limit:
        return None
    return enough_for_next_level([encode.measured for encode in made], ranked[0].measured)
