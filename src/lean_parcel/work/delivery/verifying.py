"""Verifying a delivery against its packing list: are the files there, with the bytes that were
sent, within their limits and the budget?"""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from lean_parcel.core.errors import UsageError
from lean_parcel.core.size import format_size
from lean_parcel.work.delivery.packing_list import (
    LIST_NAME,
    ListedFile,
    PackingList,
    read_packing_list,
)

#: What can be wrong: a file is missing, has other bytes, or is over its limit; what is
#: fetched is over the budget.
DiscrepancyKind = Literal["missing", "changed", "over_limit", "over_budget"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Discrepancy:
    """Something that is wrong with a file, or with the whole. One that is `excused` was taken with
    a reason."""

    path: str
    problem: DiscrepancyKind
    sentence: str
    is_excused: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Verified:
    """A list, and what is wrong with its delivery."""

    listed: PackingList
    findings: tuple[Discrepancy, ...]

    @property
    def is_right(self) -> bool:
        """Whether nothing is wrong, but for what has a reason."""
        return all(finding.is_excused for finding in self.findings)


def verify(folder: Path) -> Verified:
    """Verifies the delivery in a folder. Raises UsageError where there is no list that can be
    read."""
    path = folder / LIST_NAME
    try:
        text = path.read_bytes()
    except OSError as error:
        raise UsageError(f"{path} cannot be read: {error.strerror}.", "no_packing_list") from error
    listed = read_packing_list(text)
    return Verified(listed=listed, findings=tuple(_findings(folder, listed)))


def _findings(folder: Path, listed: PackingList) -> Iterator[Discrepancy]:
    for photo in listed.photos:
        for file in photo.files:
            yield from _of_file(folder, file, photo.reason if file.is_pick else "")
        for file in photo.earlier_files:
            yield from _of_file(folder, file, "")
    over_bytes = -(listed.totals.left_bytes or 0)
    if over_bytes > 0:
        sentence = f"What a browser fetches is {format_size(over_bytes)} over the budget."
        yield Discrepancy(path="", problem="over_budget", sentence=sentence)


def _of_file(folder: Path, file: ListedFile, reason: str) -> Iterator[Discrepancy]:
    path = folder / file.path
    if not path.is_file() or not path.resolve().is_relative_to(folder.resolve()):
        yield Discrepancy(path=file.path, problem="missing", sentence="It is not there.")
        return
    with path.open("rb") as opened:
        sha256 = hashlib.file_digest(opened, "sha256").hexdigest()
    size_bytes = path.stat().st_size
    if (size_bytes, sha256) != (file.size_bytes, file.sha256):
        sentence = f"It has {size_bytes:,} bytes, not the {file.size_bytes:,} that were sent."
        if size_bytes == file.size_bytes:
            sentence = "Its bytes are not those that were sent."
        yield Discrepancy(path=file.path, problem="changed", sentence=sentence)
    if file.limit_bytes is not None and size_bytes > file.limit_bytes:
        why = f", since {reason}" if reason else ""
        yield Discrepancy(
            path=file.path,
            problem="over_limit",
            sentence=f"It is {size_bytes - file.limit_bytes:,} bytes over its limit{why}.",
            is_excused=bool(reason),
        )
