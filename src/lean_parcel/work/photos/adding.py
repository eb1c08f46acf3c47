"""Adding photos."""

from collections.abc import Iterable
from dataclasses import replace

from lean_parcel.core.decisions.aim import FIRST_AIM, Aim
from lean_parcel.core.decisions.state import State
from lean_parcel.core.framing.framing import FIRST_FRAMING, Framing, carried_over
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.picture_kind import formats_for
from lean_parcel.core.page import page_acts
from lean_parcel.core.page.layout import NamedTreatment
from lean_parcel.core.page.names import folder_of_file, name_of_file
from lean_parcel.store import blobs, journal, photos
from lean_parcel.store.file import database
from lean_parcel.work.context import Context
from lean_parcel.work.photos.inspections import Inspections
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.results.framed import store_framed
from lean_parcel.work.results.inspections import store_inspection
from lean_parcel.work.searches.runs import SearchRuns
from lean_parcel.work.searches.starting import start_search
from lean_parcel.work.tasks.framing import FramedFiles, frame_task


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
        treatment: NamedTreatment | None = None,
        credit: Credit | None = None,
        page_id: int | None = None,
    ) -> int:
        """Opens, frames, inspects and stores an original, starts its search, and returns its id.

        The file's name may have its folders before it. The photo is called `name`, or like its
        file, and goes to the end of a page, or of the first one.
        Without an aim it takes the aim that was decided last, in the formats that suit the picture,
        and the framing likewise; or both of a treatment. A credit is used where the file has none.
        Raises a PhotoError or TaskError, and then nothing is stored.
        """
        folder, file_name = folder_of_file(file_name), name_of_file(file_name)
        with self._context.connection() as connection:
            last = journal.latest_state(connection)
            layout = journal.layout_of(connection)
            page = layout.pages[0] if page_id is None else layout.page(page_id)
        follows_page = aim is None and page.default is not None
        by_picture = aim is None
        aim = aim or (last.aim if last else FIRST_AIM)
        if follows_page and page.default:
            default = page.default
            aim = replace(aim, limit_bytes=default.limit_bytes, likeness=default.likeness)
        framing = carried_over(last.framing) if last else FIRST_FRAMING
        if treatment:
            framing, aim, follows_page = treatment.treatment.framing, treatment.treatment.aim, False
        inspecting = self._inspections.begin(data, file_name, credit or Credit())
        files = self._frame(data, file_name, framing, aim)
        inspected = self._context.queue.awaited(inspecting)
        treatment_id = treatment.id if treatment else None
        source = replace(files.source, is_photograph=inspected.is_photograph)
        if treatment:
            aim = treatment.treatment.aim_for(source)
        elif by_picture:
            aim = replace(aim, formats=formats_for(source))
        state = State(
            framing=framing, aim=aim, follows_page=follows_page, treatment_id=treatment_id
        )
        with self._context.connection() as connection, database.transaction(connection):
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
            act = page_acts.add_photo(page.id, photo_id, name or file_name)
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

    def _frame(self, data: bytes, file_name: str, framing: Framing, aim: Aim) -> FramedFiles:
        args = (data, file_name, framing, aim.place, self._context.limits)
        return self._context.queue.run(Priority.ADDING, frame_task, *args)
