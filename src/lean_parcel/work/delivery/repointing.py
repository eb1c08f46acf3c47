"""Repointing the texts of a site: files on disk, read and written so that nothing but references
changes."""

import codecs
import difflib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from lean_parcel.core.errors import UsageError
from lean_parcel.core.packing.references.edits import Repointed, repointed, with_hunks
from lean_parcel.core.packing.references.finding import OldPhoto
from lean_parcel.core.packing.references.zones import language_of
from lean_parcel.work.packing.files import write_whole

#: More than any page of a site.
MAX_TEXT_BYTES = 20_000_000
_MARKS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class TextFile:
    """A text as it was read: the bytes before it, and its encoding, to write it the same way."""

    path: Path
    text: str
    mark: bytes
    encoding: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RepointedFile:
    """A file, what can be replaced in it, and its text afterwards."""

    file: TextFile
    found: Repointed
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Leftovers:
    """Old photos that no text names: `never`, or `no_more`, since all their references were
    replaced."""

    never: tuple[OldPhoto, ...]
    no_more: tuple[OldPhoto, ...]


def repoint_text(
    name: str, text: str, photos: Sequence[OldPhoto], prefix: str, as_pictures: bool
) -> Repointed:
    """What can be replaced in a text of a name. A task for a worker, since it is a stranger's."""
    language = language_of(name, text)
    return repointed(text, language, photos, prefix, as_pictures=as_pictures)


def repoint_file(
    path: Path, photos: Sequence[OldPhoto], prefix: str, *, as_pictures: bool
) -> RepointedFile:
    """A file with all its references replaced. Raises UsageError `text_unreadable`."""
    file = read_text(path)
    found = repoint_text(path.name, file.text, photos, prefix, as_pictures)
    after = with_hunks(file.text, found.hunks, range(len(found.hunks)))
    return RepointedFile(file=file, found=found, after=after)


def read_text(path: Path) -> TextFile:
    """A text in UTF-8, or UTF-16 with a byte order mark, or else byte by byte. Raises UsageError
    `text_unreadable`."""
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
        mark, encoding, text = b"", "latin-1", data.decode("latin-1")
    return TextFile(path=path, text=text, mark=mark, encoding=encoding)


def write_text(file: TextFile, text: str) -> None:
    """Writes a text in the place of the one that was read: whole or not at all, with the same mode;
    a link stays one. Raises OSError."""
    path = file.path.resolve()
    write_whole(path, file.mark + text.encode(file.encoding), mode=path.stat().st_mode)


def diff_of(each: RepointedFile) -> str:
    """A unified diff; empty where nothing is replaced."""
    before, after = (_lines(text) for text in (each.file.text, each.after))
    name = str(each.file.path)
    lines = difflib.unified_diff(before, after, name, name)
    ended = (
        line if line.endswith("\n") else f"{line}\n\\ No newline at end of file\n" for line in lines
    )
    return "".join(ended)


def leftovers(photos: Sequence[OldPhoto], found: Iterable[Repointed]) -> Leftovers:
    """Which old photos nothing names, once everything that was found is replaced."""
    every = list(found)
    named = {index for each in every for hunk in each.hunks for index in hunk.photos}
    unclear = {name for each in every for name in each.unclear}
    clear = [(i, photo) for i, photo in enumerate(photos) if photo.name not in unclear]
    return Leftovers(
        never=tuple(photo for i, photo in clear if i not in named),
        no_more=tuple(photo for i, photo in clear if i in named),
    )


def _lines(text: str) -> list[str]:
    """Lines with their ends, as a diff has them: only a line feed ends one."""
    lines = text.split("\n")
    return [f"{line}\n" for line in lines[:-1]] + ([lines[-1]] if lines[-1] else [])
