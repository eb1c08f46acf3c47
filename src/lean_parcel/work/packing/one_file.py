"""The candidates of one file, searched in a workspace that lasts as long as the command does."""

from collections.abc import Callable, Iterator
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.core.page import choices
from lean_parcel.store import searches
from lean_parcel.store.encodes import Encode
from lean_parcel.work.packing.weighing import Weighing
from lean_parcel.work.photos.viewing import PhotoView
from lean_parcel.work.queue.pool import PoolSettings
from lean_parcel.work.workspace import Workspace


def _idle(_: int) -> None:
    """Nobody watches."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A candidate and its file; `encodes` and `encode_ms` are those of its format's search."""

    encode: Encode
    data: bytes
    meets_aim: bool
    encodes: int
    encode_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FileFit:
    """What was found for one file: offers, best first, every encode that was made, and what went
    wrong in a format, by its name."""

    source: Source
    offers: tuple[Offer, ...]
    made: tuple[Encode, ...]
    failures: dict[str, str]

    @property
    def pick(self) -> int | None:
        """The index of the best offer that meets the aim."""
        return 0 if self.offers and self.offers[0].meets_aim else None


class Fitting:
    """Searches files one after the other, all under one treatment."""

    def __init__(self, workspace: Workspace, treatment: Treatment) -> None:
        self._workspace = workspace
        self._weighing = Weighing(workspace)
        act = choices.keep_treatment("fit", treatment)
        self._treatment = workspace.page_editing.do(act).treatments[0]

    def fit(self, name: str, data: bytes, on_progress: Callable[[int], object] = _idle) -> FileFit:
        """What is found for a file; progress is how many formats have ended. Raises as `add_photo`
        and `weigh` do."""
        photo_id = self._weighing.photo_of(name, data, self._treatment)

        def is_over() -> bool:
            with self._workspace.context.connection() as connection:
                search = searches.of_photo(connection, photo_id)
            on_progress(sum(each.state != "running" for each in search.formats))
            return search.state != "running"

        self._weighing.wait_until(is_over)
        self._weighing.weigh(photo_id, data, self._treatment)
        view = self._workspace.viewing.photo(photo_id)
        offers = tuple(self._offer(view, encode) for encode in view.encodes.candidates)
        self._weighing.let_go(photo_id, ())
        failed = (each for each in view.search.formats if each.error_message)
        return FileFit(
            source=view.photo.source,
            offers=offers,
            made=view.encodes.made,
            failures={each.format: each.error_message or "" for each in failed},
        )

    def _offer(self, view: PhotoView, encode: Encode) -> Offer:
        measured, name = encode.measured, encode.trial.settings.format
        own = [
            each.encode_ms
            for each in view.encodes.made
            if each.trial.settings.format == name and not each.trial.is_pass_through
        ]
        is_original = encode.trial.is_pass_through
        _, data = self._workspace.files.delivered(view.photo.id, encode.id)
        return Offer(
            encode=encode,
            data=data,
            meets_aim=view.state.aim.is_met_by(measured.size_bytes, measured.likeness),
            encodes=0 if is_original else len(own),
            encode_ms=0.0 if is_original else sum(own),
        )


@contextmanager
def fitting(
    executor: Executor, treatment: Treatment, limits: Limits, slots: int = PoolSettings().workers
) -> Iterator[Fitting]:
    """A workspace for a while, and searching in it; at most `slots` tasks go on at a time."""
    with TemporaryDirectory() as folder:
        workspace = Workspace(
            Path(folder, "fit.sqlite3"), executor, limits, slots=slots, is_looked_at=False
        )
        try:
            yield Fitting(workspace, treatment)
        finally:
            workspace.close()
