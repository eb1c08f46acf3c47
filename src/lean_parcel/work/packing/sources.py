"""The photos of files and folders, in a stable order."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from lean_parcel.core.errors import PhotoError, UnreadablePhoto
from lean_parcel.core.formats import FORMAT_OF_EXTENSION
from lean_parcel.core.original.photo import identify
from lean_parcel.core.original.source import Limits

#: Enough of a file to tell its format.
_HEAD_BYTES = 512


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceFile:
    """A photo to pack, and the folder that it has below the one that was named."""

    path: Path
    folder: Path


@dataclass(frozen=True, slots=True, kw_only=True)
class Sources:
    """Photos, and how many files in the folders are hidden or no pictures."""

    photos: tuple[SourceFile, ...]
    passed_over: int


def find_sources(named: Iterable[Path], made_before: frozenset[Path] = frozenset()) -> Sources:
    """Named files as they are, and of named folders all pictures to their end, each file once;
    what was `made_before`, by resolved path, is no source."""
    photos: dict[Path, SourceFile] = {}
    passed_over = 0
    for path in named:
        if not path.is_dir():
            photos.setdefault(path.resolve(), SourceFile(path=path, folder=Path()))
            continue
        for file in _walked(path):
            resolved = file.resolve()
            if resolved in made_before:
                continue
            if _is_hidden(file.relative_to(path)) or not looks_like_a_picture(file):
                passed_over += 1
                continue
            photos.setdefault(resolved, SourceFile(path=file, folder=file.parent.relative_to(path)))
    return Sources(photos=tuple(photos.values()), passed_over=passed_over)


def _walked(folder: Path) -> Iterator[Path]:
    """All files below a folder, sorted by their parts; links to folders are not followed."""
    files = (path for path in folder.rglob("*") if path.is_file())
    return iter(sorted(files, key=lambda path: path.parts))


def _is_hidden(path: Path) -> bool:
    return any(part.startswith(".") for part in path.parts)


def looks_like_a_picture(path: Path) -> bool:
    """Whether a file is one by its name or its content: one that is broken or misnamed is to be
    told."""
    if path.suffix.lower() in FORMAT_OF_EXTENSION:
        return True
    try:
        with path.open("rb") as file:
            identify(file.read(_HEAD_BYTES), path.name)
    except (OSError, PhotoError):
        return False
    return True


def read_photo(path: Path, limits: Limits) -> bytes:
    """A file's bytes, or enough of them to tell that there are too many.

    Raises UnreadablePhoto where there is no file to read.
    """
    try:
        with path.open("rb") as file:
            return file.read(limits.max_size_bytes + 1)
    except OSError as error:
        raise UnreadablePhoto(f"“{path}” cannot be read: {error.strerror}.") from error
