"""Weighing photos one by one, for whoever waits for each: the command line."""

import hashlib
from collections import Counter
from collections.abc import Callable, Collection
from dataclasses import replace
from threading import Lock

from lean_parcel.core.decisions import acts
from lean_parcel.core.decisions.acts import Act
from lean_parcel.core.decisions.page_settings import PageSettings
from lean_parcel.core.decisions.state import State
from lean_parcel.core.errors import LeanParcelError, SearchFailed
from lean_parcel.core.original.source import Source
from lean_parcel.core.page.layout import NamedTreatment
from lean_parcel.core.page.names import folder_of_file, name_of_file
from lean_parcel.store import journal, photos, searches
from lean_parcel.store.file import database
from lean_parcel.work.workspace import Workspace

#: Every change is announced; this is for one that came in between.
_LOOK_AGAIN_S = 1.0


class Weighing:
    """Adds photos to a workspace, or finds them there, waits for their searches, and lets go of
    them. Each photo is weighed for one file, even where two files have the same bytes and name."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._lock = Lock()
        self.photo_ids: list[int] = []
        #: How many photos of each original are worked on, by its hash; and those that are done.
        self._worked_on: Counter[str] = Counter()
        self._done: dict[str, list[tuple[int, Collection[int]]]] = {}
        self._stop_what_was_cut_off()

    def photo_of(self, name: str, data: bytes, treatment: NamedTreatment) -> int:
        """The photo of a file, which has its folders before its name: the one that is here, or a
        new one under a treatment. Raises as `add_photo` does."""
        original_sha256 = hashlib.sha256(data).hexdigest()
        with self._lock:
            self._worked_on[original_sha256] += 1
            photo_id = self.find(name, data)
            if photo_id is not None:
                self.photo_ids.append(photo_id)
                return photo_id
        try:
            photo_id = self._workspace.adding.add_photo(
                name, data, treatment=treatment.treatment, treatment_id=treatment.id
            )
        except LeanParcelError:
            with self._lock:
                self._worked_on[original_sha256] -= 1
            raise
        with self._lock:
            self.photo_ids.append(photo_id)
        return photo_id

    def find(self, name: str, data: bytes) -> int | None:
        """The photo of a file on a page, unless it was given to another file."""
        own = folder_of_file(name), name_of_file(name)
        with self._workspace.context.connection() as connection:
            on_pages = set(journal.layout_of(connection).photo_ids())
            of_file = photos.of_original(connection, hashlib.sha256(data).hexdigest())
            free = on_pages.intersection(of_file).difference(self.photo_ids)
            there = photos.get_all(connection, sorted(free)).values()
        return next((each.id for each in there if (each.folder, each.name) == own), None)

    def weigh(self, photo_id: int, data: bytes, treatment: NamedTreatment) -> None:
        """Searches a photo, of which this is the original, under a treatment, as far as that was
        not done before. Raises SearchFailed where nothing could be made."""
        with self._workspace.context.connection() as connection:
            state = journal.state_of(connection, photo_id)
            states = {ref.state for ref in searches.all_of(connection, photo_id)}
        if state.treatment_id != treatment.id or states != {"done"}:
            self._workspace.adding.bring_back([data])
            self._workspace.deciding.do(photo_id, _treat_anew(treatment))
        self.wait(photo_id)
        with self._workspace.context.connection() as connection:
            search = searches.of_photo(connection, photo_id)
        if search.state == "failed":
            self.let_go(photo_id, ())
            raise SearchFailed(search.error_message or "Nothing could be made of this photo.")

    def wait(self, photo_id: int) -> None:
        """Waits until no search of a photo runs, of its variants neither."""

        def is_over() -> bool:
            with self._workspace.context.connection() as connection:
                refs = searches.all_of(connection, photo_id)
            return all(ref.state != "running" for ref in refs)

        self.wait_until(is_over)

    def wait_until(self, is_so: Callable[[], bool]) -> None:
        """Waits until something is so, and looks again whenever something changes."""
        changes = self._workspace.changes
        while True:
            seen = changes.since(0).version
            if is_so() or changes.is_closed:
                return
            changes.wait(seen, _LOOK_AGAIN_S)

    def let_go(self, photo_id: int, handed_ids: Collection[int]) -> None:
        """Lets go of all of a photo but the encodes that are handed over, as soon as no other photo
        of the same original is worked on, which shares its bytes."""
        with self._lock:
            with self._workspace.context.connection() as connection:
                original_sha256 = photos.get(connection, photo_id).original_sha256
            self._done.setdefault(original_sha256, []).append((photo_id, handed_ids))
            self._worked_on[original_sha256] -= 1
            if not self._worked_on[original_sha256]:
                for done in self._done.pop(original_sha256):
                    self._workspace.room_keeping.let_go(*done)

    def end(self, photo_id: int) -> None:
        """Ends a photo's own search, which nobody needs, as done."""
        with self._workspace.context.connection() as connection, database.transaction(connection):
            ref = searches.all_of(connection, photo_id)[0]
            if ref.state == "running":
                searches.end(connection, ref.id, "done")
        self._workspace.runs.stop(ref)

    def _stop_what_was_cut_off(self) -> None:
        """Searches that ran when the workspace was last in use begin again with their photo."""
        with self._workspace.context.connection() as connection, database.transaction(connection):
            for ref in searches.running(connection):
                searches.end(connection, ref.id, "stopped")


def _treat_anew(treatment: NamedTreatment) -> Act:
    """Does a treatment; what was taken under another one is put back."""
    treat = acts.treat(treatment.treatment, treatment.id, PageSettings())

    def act(state: State, source: Source) -> State:
        after = treat(state, source)
        if state.treatment_id == treatment.id:
            return after
        return replace(after, picked_encode_id=None, variant_picks=())

    return act
