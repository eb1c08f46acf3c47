"""Repointing the texts of a site: files on disk, read and written so that nothing but references
changes."""

import codecs
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import TimeoutError as FutureTimeoutError
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from time import monotonic

from lean_parcel.core.errors import TaskTimedOut, UsageError
from lean_parcel.core.packing.references.edits import Hunk, Repointed, repointed, with_hunks
from lean_parcel.core.packing.references.finding import OldPhoto
from lean_parcel.core.packing.references.zones import language_of
from lean_parcel.work.delivery.writing import write_whole
from lean_parcel.work.queue.work_queue import Priority, WorkQueue

#: More than any page of a site.
MAX_TEXT_BYTES = 20_000_000
#: What a text is read as that is no UTF-8: each byte is a letter, and stays what it is.
GUESSED = "latin-1"
_MARKS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)
#: How long texts may be read together, waiting for others and for a worker included.
_LONGEST_S = 60.0
#: Lines around a change in a diff.
_CONTEXT = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class TextFile:
    """A text as it was read: the bytes before it, and its encoding, to write it the same way."""

    path: Path
    text: str
    mark: bytes
    encoding: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RepointedFile:
    """A file, what can be replaced in it, the indices of what is, and its text afterwards."""

    file: TextFile
    found: Repointed
    taken: frozenset[int]
    after: str

    @property
    def hunks(self) -> list[Hunk]:
        """What is replaced."""
        return [hunk for index, hunk in enumerate(self.found.hunks) if index in self.taken]

    @property
    def mentions(self) -> list[Hunk]:
        """Names that may be references, and are left alone."""
        return [hunk for index, hunk in enumerate(self.found.hunks) if index not in self.taken]


@dataclass(frozen=True, slots=True, kw_only=True)
class Leftovers:
    """Old photos that no text that was read names: `never`, or `no_more`, since all their
    references were replaced; and those that are still `mentioned`, as no reference, or as one that
    is not understood."""

    never: tuple[OldPhoto, ...]
    no_more: tuple[OldPhoto, ...]
    mentioned: tuple[OldPhoto, ...]


def repoint_text(
    name: str, text: str, photos: Sequence[OldPhoto], prefix: str, as_pictures: bool
) -> Repointed:
    """What can be replaced in a text of a name. A task for a worker, since it is a stranger's."""
    language = language_of(name, text)
    return repointed(text, language, photos, prefix, as_pictures=as_pictures)


class References:
    """Reads texts in workers: one at a time, so that they never take all of them."""

    def __init__(self, queue: WorkQueue) -> None:
        self._queue = queue
        self._turn = Lock()

    def find(
        self,
        texts: Sequence[tuple[str, str]],
        photos: Sequence[OldPhoto],
        prefix: str,
        *,
        as_pictures: bool,
    ) -> list[Repointed]:
        """What can be replaced in texts, by name and content. Raises UsageError `text_unreadable`
        for what is no text, and TaskTimedOut where it takes too long."""
        for name, text in texts:
            _check_is_text(name or "This", text)
        deadline = monotonic() + _LONGEST_S
        if not self._turn.acquire(timeout=_LONGEST_S):
            raise TaskTimedOut("Other texts take too long to read.")
        try:
            return [
                self._found(deadline, (name, text, photos, prefix, as_pictures))
                for name, text in texts
            ]
        finally:
            self._turn.release()

    def _found(
        self, deadline: float, args: tuple[str, str, Sequence[OldPhoto], str, bool]
    ) -> Repointed:
        future = self._queue.submit(Priority.ANSWER, repoint_text, *args)
        try:
            return future.result(max(0, deadline - monotonic()))
        except FutureTimeoutError as error:
            if future.done():
                raise
            self._queue.withdraw(future)
            raise TaskTimedOut("These texts take too long to read.") from error


def repoint_file(
    path: Path,
    photos: Sequence[OldPhoto],
    prefix: str,
    *,
    as_pictures: bool,
    takes_literal: bool = False,
) -> RepointedFile:
    """A file with all its references replaced, and names that may be none where these are taken.
    Raises UsageError `text_unreadable`."""
    file = read_text(path)
    found = repoint_text(path.name, file.text, photos, prefix, as_pictures)
    taken = frozenset(
        index for index, hunk in enumerate(found.hunks) if takes_literal or not hunk.is_literal
    )
    after = with_hunks(file.text, found.hunks, taken)
    return RepointedFile(file=file, found=found, taken=taken, after=after)


def read_text(path: Path) -> TextFile:
    """A text in UTF-8, or UTF-16 with a byte order mark, or else in an encoding that has ASCII's
    letters, byte by byte. Raises UsageError `text_unreadable`, also for what may be UTF-16 without
    its mark."""
    try:
        if path.stat().st_size > MAX_TEXT_BYTES:
            raise UsageError(f"{path} has more than 20 MB.", "text_unreadable")
        data = path.read_bytes()
    except OSError as error:
        message = f"{path} cannot be read: {error.strerror}."
        raise UsageError(message, "text_unreadable") from error
    mark, encoding = next((each for each in _MARKS if data.startswith(each[0])), (b"", "utf-8"))
    body = data[len(mark) :]
    try:
        text = body.decode(encoding)
    except UnicodeDecodeError:
        mark, encoding, text = b"", GUESSED, data.decode(GUESSED)
    _check_is_text(str(path), text)
    return TextFile(path=path, text=text, mark=mark, encoding=encoding)


def _check_is_text(name: str, text: str) -> None:
    if "\0" in text:
        message = f"{name} is no text in UTF-8, or in UTF-16 with its mark."
        raise UsageError(message, "text_unreadable")


def write_text(file: TextFile, text: str) -> None:
    """Writes a text in the place of the one that was read: whole or not at all, with the same mode;
    a link stays one. Raises OSError."""
    path = file.path.resolve()
    write_whole(path, file.mark + text.encode(file.encoding), mode=path.stat().st_mode)


def diff_of(each: RepointedFile) -> str:
    """A unified diff; empty where nothing is replaced."""
    name = str(each.file.path)
    groups = "".join(_groups(each.file.text, each.hunks))
    return f"--- {name}\n+++ {name}\n{groups}" if groups else ""


def _groups(text: str, hunks: Sequence[Hunk]) -> Iterator[str]:
    """Hunks with the lines around them; those that are near stand together."""
    lines = _lines(text)
    grown, at = 0, 0
    while at < len(hunks):
        group = [hunks[at]]
        while at + len(group) < len(hunks) and _is_near(group[-1], hunks[at + len(group)]):
            group.append(hunks[at + len(group)])
        at += len(group)
        begin = max(0, group[0].line - 1 - _CONTEXT)
        end = min(len(lines), _end_of(group[-1]) + _CONTEXT)
        body, line = [], begin
        for hunk in group:
            body += [(" ", each) for each in lines[line : hunk.line - 1]]
            body += [("-", each) for each in _lines(hunk.before)]
            body += [("+", each) for each in _lines(hunk.after)]
            line = _end_of(hunk)
        body += [(" ", each) for each in lines[line:end]]
        more = sum(sign == "+" for sign, _ in body) - sum(sign == "-" for sign, _ in body)
        count = end - begin
        yield f"@@ -{_span(begin, count)} +{_span(begin + grown, count + more)} @@\n"
        yield "".join(_diff_line(sign, each) for sign, each in body)
        grown += more


def _end_of(hunk: Hunk) -> int:
    """How many lines there are up to the end of a hunk."""
    return hunk.line - 1 + len(_lines(hunk.before))


def _is_near(one: Hunk, following: Hunk) -> bool:
    return following.line - 1 - _end_of(one) <= 2 * _CONTEXT


def _span(begin: int, count: int) -> str:
    return f"{begin + 1}" if count == 1 else f"{begin + 1},{count}"


def _diff_line(sign: str, line: str) -> str:
    ending = "" if line.endswith("\n") else "\n\\ No newline at end of file\n"
    return f"{sign}{line}{ending}"


def leftovers(photos: Sequence[OldPhoto], files: Iterable[RepointedFile]) -> Leftovers:
    """Which old photos nothing names, once everything that was found is replaced. Of a name with
    other letters than ASCII's nothing is said where a file's encoding was guessed."""
    files = list(files)
    every = [each.found for each in files]
    is_guessed = any(each.file.encoding == GUESSED for each in files)
    named = {index for each in files for hunk in each.hunks for index in hunk.photos}
    mentioned = {index for each in files for hunk in each.mentions for index in hunk.photos}
    mentioned |= {index for each in every for index in each.mentioned}
    unclear = {name for each in every for name in each.unclear}
    clear = [
        (i, photo)
        for i, photo in enumerate(photos)
        if photo.name not in unclear
        and i not in mentioned
        and (photo.name.isascii() or not is_guessed)
    ]
    return Leftovers(
        never=tuple(photo for i, photo in clear if i not in named),
        no_more=tuple(photo for i, photo in clear if i in named),
        mentioned=tuple(photo for i, photo in enumerate(photos) if i in mentioned),
    )


def _lines(text: str) -> list[str]:
    """Lines with their ends, as a diff has them: only a line feed ends one."""
    lines = text.split("\n")
    return [f"{line}\n" for line in lines[:-1]] + ([lines[-1]] if lines[-1] else [])
