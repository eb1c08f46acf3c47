"""A run over many photos: each is searched, written under a safe name, and recorded; where they
share a budget, all are searched first, and then balanced."""

import hashlib
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any, TypeVar

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import settings_values
from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.packing.names import (
    DEFAULT_PATTERN,
    FileFacts,
    file_name,
    name_key,
    numbered,
    safe_folder,
)
from lean_parcel.work.delivery.packing_list import ListedPhoto
from lean_parcel.work.delivery.writing import write_whole
from lean_parcel.work.packing.balance import Measuring, balanced
from lean_parcel.work.packing.listing import listed_photo
from lean_parcel.work.packing.photo import (
    MadeOfPhoto,
    Option,
    Original,
    Treating,
    credit_of,
    encoded,
    fitted,
    read,
    worst_damage,
)
from lean_parcel.work.packing.record import Done, Record
from lean_parcel.work.packing.sources import SourceFile
from lean_parcel.work.packing.variants import MadeFile, with_variants
from lean_parcel.work.searches.one_file import FileFit

_T = TypeVar("_T")


@dataclass(frozen=True, slots=True, kw_only=True)
class PackOptions:
    """How a run goes: `jobs` photos at a time, into `folder`, under names by a pattern; one file a
    photo, or `with_variants`, as the aim has them."""

    treating: Treating
    folder: Path
    jobs: int
    names: str = DEFAULT_PATTERN
    with_variants: bool = False
    keeps_tree: bool = False
    replaces: bool = False
    budget_bytes: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Packed:
    """What came of a photo: what is said of its best file, how it is listed with all its files, if
    any were written or are there from before, and the error of one that could not be read;
    `was_kept` is a file in the way."""

    photo: Path
    file: Path | None = None
    values: dict[str, Any] | None = None
    listed: ListedPhoto | None = None
    error: LeanParcelError | None = None
    was_kept: Path | None = None


class PackRun:
    """Packs photos. Originals are never written to."""

    def __init__(
        self,
        executor: Executor,
        sources: Sequence[SourceFile],
        options: PackOptions,
        record: Record,
    ) -> None:
        self._executor = executor
        self._sources = sources
        self._options = options
        self._record = record
        originals = {source.path for source in sources} | record.photos()
        self._originals = {_key(path) for path in originals}
        self._taken: set[str] = set()

    def packed(self) -> Iterator[Packed]:
        """Packs every photo, in order."""
        if self._options.budget_bytes is None:
            yield from self._in_order(self._searched, self._sources)
        else:
            yield from self._balanced(self._options.budget_bytes)

    def _in_order(
        self, work: Callable[[SourceFile], Callable[[], Packed]], sources: Sequence[SourceFile]
    ) -> Iterator[Packed]:
        """What comes of sources, in order, while the work on the next ones goes on. Work gives what
        is done at its turn: names are given, and files written, in order."""
        for source, finish in _ahead(work, sources, self._options.jobs):
            try:
                yield finish.result()()
            except LeanParcelError as error:
                yield Packed(photo=source.path, error=error)

    def _searched(self, source: SourceFile) -> Callable[[], Packed]:
        """Searches a photo, unless that was done before."""
        original = read(source, self._options.treating.limits)
        before = self._record.done(source.path, original.sha256)
        if before:
            return lambda: self._as_before(source, before)
        treating = self._options.treating
        fit = fitted(self._executor, original, treating, self._options.jobs)
        offer = fit.offers[0]
        option = Option(trial=offer.candidate.trial, measured=offer.candidate.measured)
        if not offer.candidate.meets_aim:
            return lambda: self._finished(original, option, [], "")
        pick = self._pick(option, offer.data, fit)
        files = self._files(original, pick, treating.aim, fit, fit)
        credit = credit_of(self._executor, original, treating.limits)
        return lambda: self._finished(original, option, files, credit)

    def _balanced(self, budget_bytes: int) -> Iterator[Packed]:
        """Searches all photos, shares out the budget, and packs what each photo gets."""
        measuring = Measuring(
            self._executor,
            self._options.treating,
            self._options.jobs,
            self._record,
            mean_bytes=budget_bytes / max(1, len(self._sources)),
        )
        errors: dict[Path, LeanParcelError] = {}
        for source, found in _ahead(measuring.measure, self._sources, self._options.jobs):
            try:
                found.result()
            except LeanParcelError as error:
                errors[source.path] = error
        chosen = balanced(measuring, budget_bytes)

        def made(source: SourceFile) -> Callable[[], Packed]:
            if source.path in errors:
                raise errors[source.path]
            original = read(source, self._options.treating.limits)
            trial = chosen[source.path]
            before = self._record.done(source.path, original.sha256)
            if before and before.values["settings"] == _settings(trial):
                return lambda: self._as_before(source, before)
            treating = self._options.treating
            of = encoded(self._executor, original, treating, trial)
            aim = replace(treating.aim, limit_bytes=of.option.measured.size_bytes, likeness=None)
            files = self._files(original, self._pick(of.option, of.data, of), aim, of, None)
            credit = credit_of(self._executor, original, treating.limits)
            return lambda: self._finished(original, of.option, files, credit)

        yield from self._in_order(made, self._sources)

    def _pick(self, option: Option, data: bytes, of: FileFit | MadeOfPhoto) -> MadeFile:
        treating = self._options.treating
        return MadeFile(
            option=option,
            data=data,
            worst=worst_damage(
                self._executor, of.encoder_input, option.trial, data, treating.limits
            ),
            aim=treating.aim,
            plan=plan_framing(of.source, treating.framing, treating.aim.place),
            is_pick=True,
        )

    def _files(
        self,
        original: Original,
        pick: MadeFile,
        aim: Aim,
        of: FileFit | MadeOfPhoto,
        fit: FileFit | None,
    ) -> list[MadeFile]:
        """The files of a photo: the pick, and where they are asked for, its variants under an
        aim."""
        if not self._options.with_variants:
            return [pick]
        return with_variants(
            self._executor,
            original,
            of.source,
            self._options.treating,
            pick,
            aim,
            fit,
            is_transparent=of.is_transparent,
            slots=self._options.jobs,
        )

    def _as_before(self, source: SourceFile, before: Done) -> Packed:
        paths = [self._options.folder / file.path for file in before.listed.files]
        self._taken |= {_key(path) for path in paths}
        return self._packed(source.path, before)

    def _packed(self, photo: Path, done: Done) -> Packed:
        picks = [file.path for file in done.listed.files if file.is_pick]
        file = self._options.folder / picks[0] if picks else None
        return Packed(photo=photo, file=file, values=done.values, listed=done.listed)

    def _finished(
        self, original: Original, option: Option, files: list[MadeFile], credit: str
    ) -> Packed:
        """Writes and records a photo; without files there is nothing that meets the aim."""
        photo = original.source.path
        values = self._values(original, option)
        paths = [self._path(original, file) for file in files]
        for path, file in zip(paths, files, strict=True):
            if self._is_in_the_way(path, file.data):
                return Packed(photo=photo, values=values, was_kept=path)
        for path, file in zip(paths, files, strict=True):
            path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(path, file.data)
        in_folder = [path.relative_to(self._options.folder).as_posix() for path in paths]
        listed = listed_photo(original, self._options.treating, files, in_folder, credit)
        done = Done(values=values, listed=listed)
        self._record.add(photo, original.sha256, done)
        return self._packed(photo, done)

    def _is_in_the_way(self, path: Path, data: bytes) -> bool:
        return path.exists() and not self._options.replaces and path.read_bytes() != data

    def _path(self, original: Original, file: MadeFile) -> Path:
        """Where a file goes: under a name that no other of this run, no original, and no file of
        another photo has that an earlier run has written."""
        folder, source = self._options.folder, original.source
        if self._options.keeps_tree:
            folder = folder / safe_folder(str(source.folder))
        facts = FileFacts(
            photo_name=source.path.name,
            format=file.option.trial.settings.format,
            width_px=file.option.trial.width_px,
            density=file.aim.place.density,
            sha256=hashlib.sha256(file.data).hexdigest(),
        )
        first = folder / file_name(facts, self._options.names)
        in_use = self._taken | self._originals

        def is_taken(path: Path) -> bool:
            is_in_use = _key(path) in in_use
            return is_in_use or self._record.is_of_another(path, source.path, original.sha256)

        path = numbered(first, is_taken)
        self._taken.add(_key(path))
        return path

    def _values(self, original: Original, option: Option) -> dict[str, Any]:
        trial, measured = option.trial, option.measured
        aim = self._options.treating.aim
        return {
            "format": trial.settings.format,
            "source_bytes": len(original.data),
            "size_bytes": measured.size_bytes,
            "width_px": trial.width_px,
            "height_px": trial.height_px,
            "likeness": round(measured.likeness, 3),
            "within_limit": aim.is_met_by(measured.size_bytes, measured.likeness),
            "settings": _settings(trial),
        }


def _key(path: Path) -> str:
    return name_key(path.resolve())


def record_options(options: PackOptions) -> dict[str, Any]:
    """What a run's files depend on, as JSON has it."""
    return {
        "framing": asdict(options.treating.framing),
        "aim": asdict(options.treating.aim),
        "names": options.names,
        "with_variants": options.with_variants,
        "keeps_tree": options.keeps_tree,
        "budget_bytes": options.budget_bytes,
    }


def _settings(trial: Trial) -> dict[str, Any]:
    return {
        **settings_values(trial.settings),
        "width_px": trial.width_px,
        "height_px": trial.height_px,
    }


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
