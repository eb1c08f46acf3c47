"""Sharing out a budget over the photos of a run."""

import logging
import threading
from concurrent.futures import Executor, ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from lean_parcel.core.balance.allocation import Share, allocated
from lean_parcel.core.balance.doubts import Doubt, Outlook, trial_for
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.errors import LeanParcelError
from lean_parcel.work.packing.photo import (
    Option,
    Treating,
    encoded,
    fitted,
    options_of,
    read,
)
from lean_parcel.work.packing.record import Record
from lean_parcel.work.packing.sources import SourceFile

_log = logging.getLogger(__name__)
#: Encodes of one photo at most that are made to be sure.
_MOST_OF_A_PHOTO = 4
#: Where photos are searched, in multiples of the mean.
_AROUND = (0.5, 2.0)


@dataclass(slots=True)
class Sharing:
    """A photo and the encodes that it can get."""

    source: SourceFile
    options: list[Option]
    asked: int = 0


class Measuring:
    """What was measured of the photos of a run, by their paths; all of it is recorded. Each gets
    `mean_bytes` on average."""

    def __init__(
        self,
        executor: Executor,
        treating: Treating,
        jobs: int,
        record: Record,
        mean_bytes: float,
    ) -> None:
        self._mean_bytes = mean_bytes
        self._executor = executor
        self._treating = treating
        self._jobs = jobs
        self._record = record
        self._lock = threading.Lock()
        self.photos: dict[Path, Sharing] = {}

    @property
    def jobs(self) -> int:
        """How many photos are worked on at a time."""
        return self._jobs

    @property
    def aim_bytes(self) -> int | None:
        """The most that one photo may weigh; None where the aim is a likeness."""
        aim = self._treating.aim
        return aim.limit_bytes if aim.likeness is None else None

    def measure(self, source: SourceFile) -> None:
        """Searches a photo, unless that was done before. Raises as `fit_file` does."""
        original = read(source, self._treating.limits)
        options = [Option.of(each) for each in self._record.measured(source.path, original.sha256)]
        if not options:
            found: dict[Trial, Option] = {}
            for treating in self._around_mean_share():
                fit = fitted(self._executor, original, treating, self._jobs)
                found.update({option.trial: option for option in options_of(fit)})
            options = list(found.values())
            self._keep(source, original.sha256, options)
        with self._lock:
            self.photos[source.path] = Sharing(source, options)

    def _around_mean_share(self) -> list[Treating]:
        """Searches around what a photo gets on average, so that all formats are known there."""
        treating = self._treating
        if treating.aim.likeness is not None:
            return [treating]
        limits = {
            min(treating.aim.limit_bytes, max(1, round(factor * self._mean_bytes)))
            for factor in _AROUND
        }
        return [
            replace(treating, aim=replace(treating.aim, limit_bytes=limit_bytes))
            for limit_bytes in sorted(limits)
        ]

    def add(self, sharing: Sharing, trial: Trial) -> None:
        """Makes one more encode of a photo."""
        original = read(sharing.source, self._treating.limits)
        option = encoded(self._executor, original, self._treating, trial).option
        self._keep(sharing.source, original.sha256, [option])
        sharing.options.append(option)

    def _keep(self, source: SourceFile, sha256: str, options: list[Option]) -> None:
        with self._lock:
            self._record.add_measured(source.path, sha256, [each.values() for each in options])


def balanced(measuring: Measuring, budget_bytes: int) -> dict[Path, Trial]:
    """What each photo gets of a budget, so that the worst looks best: once the encodes that decide
    were made."""
    sharings = list(measuring.photos.values())

    def trial_of(doubt: Doubt) -> Trial | None:
        options = sharings[doubt.photo].options
        trials = [option.trial for option in options]
        return trial_for(doubt, trials, [option.measured for option in options], trials)

    while True:
        shares = [_share(each, measuring.aim_bytes) for each in sharings]
        wanted = {
            photo: trial
            for photo, trial in Outlook(shares, budget_bytes, "worst", trial_of).missing()
            if sharings[photo].asked < _MOST_OF_A_PHOTO
        }
        if not wanted:
            break
        with ThreadPoolExecutor(measuring.jobs) as threads:
            for photo, trial in wanted.items():
                sharings[photo].asked += 1
                threads.submit(_add, measuring, sharings[photo], trial)
    found = allocated(shares, budget_bytes, "worst")
    return {
        sharing.source.path: sharing.options[index].trial
        for sharing, index in zip(sharings, found.chosen, strict=True)
    }


def _add(measuring: Measuring, sharing: Sharing, trial: Trial) -> None:
    """Makes one more encode; a photo of which it cannot be made has what it has."""
    try:
        measuring.add(sharing, trial)
    except LeanParcelError as error:
        _log.warning("%s: %s", sharing.source.path, error.message)


def _share(sharing: Sharing, most_bytes: int | None) -> Share:
    options = tuple(option.measured for option in sharing.options)
    return Share(options=options, most_bytes=most_bytes)
