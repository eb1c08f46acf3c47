"""A run over many photos: each is searched, written under a safe name, and recorded; where they
share a budget, all are searched first, and then balanced."""

import hashlib
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, TypeVar

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.settings import settings_values
from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.packing.names import safe_name
from lean_parcel.work.packing.balance import Measuring, balanced
from lean_parcel.work.packing.files import write_whole
from lean_parcel.work.packing.photo import (
    Option,
    Original,
    Treating,
    encoded,
    fitted,
    read,
)
from lean_parcel.work.packing.record import Done, Record
from lean_parcel.work.packing.sources import SourceFile

_T = TypeVar("_T")


@dataclass(frozen=True, slots=True, kw_only=True)
class PackOptions:
    """How a run goes: `jobs` photos at a time, into `folder`."""

    treating: Treating
    folder: Path
    jobs: int
    suffix: str = ""
    keeps_tree: bool = False
    replaces: bool = False
    budget_bytes: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Packed:
    """What came of a photo: its file, if one was written or is there from before, what is said of
    it, and the error of one that could not be read; `was_kept` is a file in the way."""

    photo: Path
    file: Path | None = None
    values: dict[str, Any] | None = None
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
        self._originals = {source.path.resolve() for source in sources}
        self._taken: set[Path] = set()

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
        fit = fitted(self._executor, original, self._options.treating, self._options.jobs)
        offer = fit.offers[0]
        option = Option(trial=offer.candidate.trial, measured=offer.candidate.measured)
        data = offer.data if offer.candidate.meets_aim else None
        return lambda: self._finished(original, option, data)

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
            data, option = encoded(self._executor, original, self._options.treating, trial)
            return lambda: self._finished(original, option, data)

        yield from self._in_order(made, self._sources)

    def _as_before(self, source: SourceFile, before: Done) -> Packed:
        if before.file:
            self._taken.add(before.file.resolve())
        return Packed(photo=source.path, file=before.file, values=before.values)

    def _finished(self, original: Original, option: Option, data: bytes | None) -> Packed:
        """Writes and records a photo; without data there is nothing that meets the aim."""
        photo = original.source.path
        values = self._values(original, option)
        done = Done(file=None, file_sha256=None, values=values)
        if data is not None:
            path = self._path(original.source, option.trial)
            if self._is_in_the_way(path, data):
                return Packed(photo=photo, values=values, was_kept=path)
            path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(path, data)
            sha256 = hashlib.sha256(data).hexdigest()
            done = Done(file=path, file_sha256=sha256, values=values)
        self._record.add(photo, original.sha256, done)
        return Packed(photo=photo, file=done.file, values=values)

    def _is_in_the_way(self, path: Path, data: bytes) -> bool:
        return path.exists() and not self._options.replaces and path.read_bytes() != data

    def _path(self, source: SourceFile, trial: Trial) -> Path:
        """Where a file goes: under a name that no other photo of this run, and no original, has."""
        folder = self._options.folder
        if self._options.keeps_tree:
            folder = folder / source.folder
        first = folder / safe_name(source.path.name, trial, self._options.suffix)
        path, number = first, 2
        while path.resolve() in self._taken or path.resolve() in self._originals:
            path = first.with_stem(f"{first.stem}-{number}")
            number += 1
        self._taken.add(path.resolve())
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


def record_options(options: PackOptions) -> dict[str, Any]:
    """What a run's files depend on, as JSON has it."""
    return {
        "framing": asdict(options.treating.framing),
        "aim": asdict(options.treating.aim),
        "suffix": options.suffix,
        "keeps_tree": options.keeps_tree,
        "budget_bytes": options.budget_bytes,
    }


def _settings(trial: Trial) -> dict[str, Any]:
    return {
        **settings_values(trial.settings),
        "width_px": trial.width_px,
        "height_px": trial.height_px,
    }


def _ahead(
    work: Callable[[SourceFile], _T], sources: Sequence[SourceFile], jobs: int
) -> Iterator[tuple[SourceFile, Future[_T]]]:
    """Sources in order, each with its work, which is under way for some that follow."""
    waiting: deque[tuple[SourceFile, Future[_T]]] = deque()
    with ThreadPoolExecutor(jobs) as threads:
        for source in sources:
            waiting.append((source, threads.submit(work, source)))
            if len(waiting) >= 2 * jobs:
                yield waiting.popleft()
        yield from waiting
