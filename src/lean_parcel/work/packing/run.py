"""A run over many photos: a workspace of its own weighs them as that of the page does, and what is
taken is written under safe names.

The first page of the workspace has the photos of this run, the second those of earlier ones. What
was done to a photo under the same options is not done again. Originals are let go as soon as their
photo is done.
"""

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath
from typing import TypeVar

from lean_parcel.core.decisions.acts import Act
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.original.source import Source
from lean_parcel.core.packing.names import DEFAULT_PATTERN, as_text, name_key, numbered
from lean_parcel.core.page import choices, page_acts
from lean_parcel.core.page.layout import NamedTreatment
from lean_parcel.core.size import MAX_BYTES
from lean_parcel.store.encodes import Encode
from lean_parcel.work.delivery.packing_list import ListedPhoto
from lean_parcel.work.delivery.planning import PlannedPhoto
from lean_parcel.work.delivery.sending import Sent
from lean_parcel.work.delivery.writing import write_whole
from lean_parcel.work.packing.earlier import Earlier
from lean_parcel.work.packing.sources import SourceFile, read_photo
from lean_parcel.work.packing.weighing import Weighing
from lean_parcel.work.pages.balancing import BalanceWish
from lean_parcel.work.workspace import Workspace

_T = TypeVar("_T")
_NOW, _EARLIER = 1, 2
#: Where photos that share a budget are searched, in multiples of what each gets on average.
_AROUND = (0.5, 2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class PackOptions:
    """How a run goes: `jobs` photos at a time, into `folder`, under names by a pattern; within a
    budget for all of them where there is one."""

    treatment: Treatment
    folder: Path
    jobs: int
    names: str = DEFAULT_PATTERN
    keeps_tree: bool = False
    replaces: bool = False
    budget_bytes: int | None = None

    @property
    def name(self) -> str:
        """What the treatment is called in the workspace: the same is searched of a photo only under
        the same budget."""
        if self.budget_bytes is None:
            return "Packed"
        return f"Packed within {self.budget_bytes} B"


@dataclass(frozen=True, slots=True, kw_only=True)
class Packed:
    """What came of a photo: its original, its best file and whether that does what was asked for,
    how it is listed with all files if they were written, or the error of one that could not be
    done; `was_kept` is a file in the way."""

    photo: Path
    source: Source | None = None
    best: Encode | None = None
    meets_aim: bool = False
    file: Path | None = None
    listed: ListedPhoto | None = None
    error: LeanParcelError | None = None
    was_kept: Path | None = None

    @property
    def fetched_bytes(self) -> int:
        """What a browser of today fetches of it; of one that was not written, its best."""
        if self.listed:
            return self.listed.fetched.fetched_bytes
        return self.best.measured.size_bytes if self.best else 0


class PackRun:
    """Packs photos. Originals are never written to."""

    def __init__(
        self,
        workspace: Workspace,
        sources: Sequence[SourceFile],
        options: PackOptions,
        earlier: Earlier,
    ) -> None:
        self._workspace = workspace
        self._sources = sources
        self._options = options
        self._earlier = earlier
        self._in_use = {_key(source.path) for source in sources}
        self._weighing = Weighing(workspace)
        self._together_before = self._page_begun()
        self._treatment = self._kept_treatment()

    def packed(self) -> Iterator[Packed]:
        """Packs every photo, in order."""
        budget_bytes = self._options.budget_bytes
        work = self._weighed if budget_bytes is None else self._balanced(budget_bytes)
        for source, done in _ahead(work, self._sources, self._options.jobs):
            try:
                yield self._finished(source, done.result())
            except LeanParcelError as error:
                yield Packed(photo=source.path, error=error)
        self._put_together()

    def _page_begun(self) -> set[int]:
        """Empties the page of this run, and returns the photos of the last one."""
        do = self._workspace.page_editing.do
        layout = self._workspace.page_viewing.layout()
        if len(layout.pages) < _EARLIER:
            layout = do(page_acts.add_page("Earlier"))
        ids = [spot.photo_id for spot in layout.page(_NOW).spots]
        if ids:
            do(page_acts.move_photos(ids, _EARLIER))
        density = self._options.treatment.aim.place.density
        do(page_acts.change_settings(_NOW, {"density": density}))
        for page_id in (_NOW, _EARLIER):
            do(page_acts.set_delivery(page_id, {"name_pattern": self._options.names}))
        return set(ids)

    def _kept_treatment(self) -> NamedTreatment:
        name, treatment = self._options.name, self._options.treatment
        for each in self._workspace.page_viewing.layout().treatments:
            if (each.name, each.treatment) == (name, treatment):
                return each
        act = choices.keep_treatment(name, treatment)
        return self._workspace.page_editing.do(act).treatments[0]

    def _put_together(self) -> None:
        """Puts the photos of this run on its page."""
        ids = self._weighing.photo_ids
        self._workspace.page_editing.do(page_acts.move_photos(sorted(ids), _NOW))

    def _weighed(self, source: SourceFile) -> int:
        """A photo that was searched, with the best that meets its aim taken, and its variants."""
        data = read_photo(source.path, self._workspace.context.limits)
        photo_id = self._weighing.photo_of(_name_of(source), data, self._treatment)
        self._weighing.weigh(photo_id, data, self._treatment)
        self._workspace.selections.take([photo_id])
        self._weighing.wait(photo_id)
        return photo_id

    def _balanced(self, budget_bytes: int) -> Callable[[SourceFile], int]:
        """Searches all photos and shares the budget out; returns what gives the id of each."""
        ids: dict[Path, int] = {}
        errors: dict[Path, LeanParcelError] = {}
        mean_bytes = budget_bytes / max(1, len(self._sources))
        is_done = self._are_done_together()

        def measured(source: SourceFile) -> int:
            return self._measured(source, mean_bytes, is_done=is_done)

        for source, done in _ahead(measured, self._sources, self._options.jobs):
            try:
                ids[source.path] = done.result()
            except LeanParcelError as error:
                errors[source.path] = error
        self._put_together()
        if ids and not is_done:
            self._share_out(list(ids.values()), budget_bytes)

        def balanced(source: SourceFile) -> int:
            if source.path in errors:
                raise errors[source.path]
            self._weighing.wait(ids[source.path])
            return ids[source.path]

        return balanced

    def _measured(self, source: SourceFile, mean_bytes: float, *, is_done: bool) -> int:
        """A photo that was searched around what each gets on average, so that all formats are known
        there; or was balanced before."""
        data = read_photo(source.path, self._workspace.context.limits)
        first, *others = self._around(mean_bytes)
        photo_id = self._weighing.photo_of(_name_of(source), data, first)
        if not is_done:
            for treatment in (first, *others):
                self._weighing.weigh(photo_id, data, treatment)
        return photo_id

    def _around(self, mean_bytes: float) -> list[NamedTreatment]:
        aim = self._options.treatment.aim
        most_bytes = MAX_BYTES if aim.limit_bytes is None else aim.limit_bytes
        limits = {min(most_bytes, max(1, round(factor * mean_bytes))) for factor in _AROUND}
        return [
            NamedTreatment(
                id=-limit_bytes,  # none of those to choose from
                name="",
                treatment=replace(
                    self._options.treatment, aim=replace(aim, limit_bytes=limit_bytes)
                ),
            )
            for limit_bytes in sorted(limits)
        ]

    def _are_done_together(self) -> bool:
        """Whether exactly these photos were balanced under the options of this run."""
        limits, known = self._workspace.context.limits, set()
        for source in self._sources:
            try:
                known.add(self._weighing.find(_name_of(source), read_photo(source.path, limits)))
            except LeanParcelError:
                continue
        if known != self._together_before:
            return False
        rows = self._workspace.page_viewing.rows(self._together_before)
        return all(
            row.pick is not None and row.state.treatment_id == self._treatment.id
            for row in rows.values()
        )

    def _share_out(self, photo_ids: list[int], budget_bytes: int) -> None:
        """Gives each photo what it gets of the budget, so that the worst looks best; that is the
        limit of its variants too."""
        most_bytes = self._options.treatment.aim.limit_bytes
        do, balancing = self._workspace.page_editing.do, self._workspace.balancing
        do(page_acts.set_shares(photo_ids, {"most_bytes": most_bytes}))
        wish = BalanceWish(spend_bytes=budget_bytes)
        balancing.measure(_NOW, wish)
        self._weighing.wait_until(lambda: not balancing.view(_NOW, wish).is_measuring)
        got = {each.spot.photo_id: each.after for each in balancing.view(_NOW, wish).photos}
        do(page_acts.together("Shared out"), {i: self._given(each) for i, each in got.items()})
        for photo_id in got:
            self._weighing.end(photo_id)

    def _given(self, encode: Encode) -> Act:
        """Takes an encode, which is then all that a photo may weigh."""

        def act(state: State, _: Source) -> State:
            aim = replace(state.aim, limit_bytes=encode.measured.size_bytes)
            return replace(
                state, aim=aim, picked_encode_id=encode.id, treatment_id=self._treatment.id
            )

        return act

    def _finished(self, source: SourceFile, photo_id: int) -> Packed:
        """Writes the files of a photo, and lets go of the rest; where nothing meets the aim, or a
        file is in the way, none is written."""
        workspace, aim = self._workspace, self._options.treatment.aim
        row = workspace.page_viewing.rows([photo_id])[photo_id]
        best = row.pick or workspace.viewing.photo(photo_id).encodes.candidates[0]
        packed = Packed(
            photo=source.path,
            source=row.photo.source,
            best=best,
            meets_aim=aim.is_met_by(best.measured.size_bytes, best.measured.likeness),
        )
        planned = self._planned(photo_id)
        if row.pick:
            packed = self._written(packed, planned)
        handed = [file.encode.id for file in planned.files if file.encode]
        self._weighing.let_go(photo_id, handed or [best.id])
        return packed

    def _planned(self, photo_id: int) -> PlannedPhoto:
        """The files of a photo, which are examined, under their names."""
        for file in self._workspace.planning.photo(photo_id).files:
            if file.encode and file.encode.worst is None:
                self._workspace.examining.encode(photo_id, file.encode.id)
        return self._named(self._workspace.planning.photo(photo_id))

    def _written(self, packed: Packed, planned: PlannedPhoto) -> Packed:
        listed, sent = self._workspace.sending.of_photo(planned)
        if kept := next((each for each in sent if self._is_in_the_way(each)), None):
            return replace(packed, was_kept=self._options.folder / kept.path)
        for each in sent:
            path = self._options.folder / each.path
            path.parent.mkdir(parents=True, exist_ok=True)
            if not _is_there(path, each.data):
                write_whole(path, each.data)
        pick = next(each for each in listed.files if each.is_pick)
        return replace(packed, file=self._options.folder / pick.path, listed=listed)

    def _is_in_the_way(self, file: Sent) -> bool:
        path = self._options.folder / file.path
        return path.exists() and not self._options.replaces and not _is_there(path, file.data)

    def _named(self, planned: PlannedPhoto) -> PlannedPhoto:
        """The same with the paths of files, below the folder: under names that no other of this
        run, no original, and no file of another photo has that an earlier run has written."""
        files = []
        for file in planned.files:
            wanted = PurePosixPath(file.path)
            first = self._options.folder / (wanted if self._options.keeps_tree else wanted.name)
            path = numbered(first, lambda each: self._is_of_another(each, planned))
            self._in_use.add(_key(path))
            in_folder = path.relative_to(self._options.folder).as_posix()
            files.append(replace(file, path=in_folder))
        return replace(planned, files=tuple(files))

    def _is_of_another(self, path: Path, planned: PlannedPhoto) -> bool:
        return _key(path) in self._in_use or self._earlier.is_of_another(path, planned.photo)


def _name_of(source: SourceFile) -> str:
    return as_text((source.folder / source.path.name).as_posix())


def _key(path: Path) -> str:
    return name_key(path.resolve())


def _is_there(path: Path, data: bytes) -> bool:
    return path.is_file() and path.read_bytes() == data


@contextmanager
def ending_soon(threads: ThreadPoolExecutor) -> Iterator[ThreadPoolExecutor]:
    """Threads that are not waited for where something goes wrong: the workers that they wait for
    are ended by who started them."""
    try:
        yield threads
    except BaseException:
        threads.shutdown(wait=False, cancel_futures=True)
        raise
    threads.shutdown()


def _ahead(
    work: Callable[[SourceFile], _T], sources: Sequence[SourceFile], jobs: int
) -> Iterator[tuple[SourceFile, Future[_T]]]:
    """Sources in order, each with its work, which is under way for some that follow."""
    waiting: deque[tuple[SourceFile, Future[_T]]] = deque()
    with ending_soon(ThreadPoolExecutor(jobs)) as threads:
        for source in sources:
            waiting.append((source, threads.submit(work, source)))
            if len(waiting) >= 2 * jobs:
                yield waiting.popleft()
        yield from waiting
