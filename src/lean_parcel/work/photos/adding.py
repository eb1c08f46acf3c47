"""Adding photos."""

from collections.abc import Iterable
from dataclasses import replace

from lean_parcel.core.decisions.aim import FIRST_AIM, Aim
from lean_parcel.core.decisions.page_settings import PageSettings, as_the_page, following
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.framing.framing import FIRST_FRAMING
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.page import page_acts
from lean_parcel.core.page.names import folder_of_file, name_of_file
from lean_parcel.store import blobs, journal, photos
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.photos.missing import Inspections
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.framed import store_framed
from lean_parcel.work.results.inspections import store_inspection
from lean_parcel.work.searches.runs import SearchRuns
from lean_parcel.work.searches.starting import start_search
from lean_parcel.work.tasks.framing import frame_task


class Adding:
    """Brings originals into the workspace."""

    def __init__(self, context: Context, inspections: Inspections, runs: SearchRuns) -> None:
        self._context = context
        self._inspections = inspections
        self._runs = runs

    def add_photo(
        self,
        file_name: str,
        data: bytes,
        *,
        name: str | None = None,
        aim: Aim | None = None,
        treatment: Treatment | None = None,
        treatment_id: int | None = None,
        credit: Credit | None = None,
        page_id: int | None = None,
        order: int = 0,
    ) -> int:
        """Opens, frames, inspects and stores an original, starts its search, and returns its id.

        The file's name may have its folders before it. The photo is called `name`, or like its
        file, and goes to the end of a page, or of the first one; of photos that come together, each
        goes after those of lower `order`. It has the settings of its page, or an aim of its own, or
        framing and aim of a treatment, which may be among those to choose from. A credit is used
        where the file has none. Raises a PhotoError or TaskError, and then nothing is stored.
        """
        folder, file_name = folder_of_file(file_name), name_of_file(file_name)
        with self._context.connection() as connection:
            layout = journal.layout_of(connection)
        page = layout.pages[0] if page_id is None else layout.page(page_id)
        state = _first_state(page.settings, aim, treatment)
        inspecting = self._inspections.begin(data, file_name, credit or Credit())
        args = (data, file_name, state.framing, state.aim.place, self._context.limits)
        files = self._context.queue.run(Priority.ADDING, frame_task, *args)
        inspected = self._context.queue.awaited(inspecting)
        source = replace(files.source, is_photograph=inspected.is_photograph)
        with self._context.connection() as connection, database.transaction(connection):
            page = journal.layout_of(connection).page(page.id)  # as it is by now
            if treatment:
                state = replace(state, aim=treatment.aim_for(source), treatment_id=treatment_id)
                state = as_the_page(state, page.settings, source)
            elif aim is None:
                state = following(state, page.settings, source)
            original_sha256 = blobs.put(connection, data)
            photo_id = photos.add(
                connection,
                name=file_name,
                folder=folder,
                original_sha256=original_sha256,
                thumbnail_sha256=blobs.put(connection, files.thumbnail_webp),
                source=source,
            )
            journal.append_state(connection, photo_id, "Added", state)
            store_framed(connection, original_sha256, files)
            store_inspection(connection, photo_id, inspected)
            act = page_acts.add_photo(page.id, photo_id, name or file_name, order)
            journal.append_layout(connection, act.words, act.done(journal.layout_of(connection)))
            ref = start_search(connection, photos.get(connection, photo_id), state)
            self._context.room.added(connection, files.size_bytes)
        self._runs.start(ref)
        self._context.changes.announce_pages()
        return photo_id

    def bring_back(self, files: Iterable[bytes]) -> None:
        """Brings back the bytes of files that are named here, and were let go."""
        with self._context.connection() as connection, database.transaction(connection):
            for data in files:
                blobs.restore(connection, data)


def _first_state(settings: PageSettings, aim: Aim | None, treatment: Treatment | None) -> State:
    """What a photo begins with; formats that suit the picture come when it was inspected."""
    if treatment:
        return State(framing=treatment.framing, aim=treatment.aim)
    framing = replace(FIRST_FRAMING, metadata=settings.metadata)
    place = Place(size=settings.size, density=settings.density)
    return State(framing=framing, aim=aim or replace(FIRST_AIM, place=place))
