"""What earlier runs have written into a folder, as their packing list says."""

import hashlib
from collections.abc import Iterator, Sequence
from pathlib import Path

from lean_parcel.core.errors import UsageError
from lean_parcel.store.photos import Photo
from lean_parcel.work.delivery.packing_list import (
    LIST_NAME,
    ListedFile,
    ListedPhoto,
    OldFile,
    read_packing_list,
)


class Earlier:
    """The files of a folder by its packing list; none where there is no list. A file that is not
    there as it was written does not count."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        try:
            self._photos = read_packing_list((folder / LIST_NAME).read_bytes()).photos
        except (OSError, UsageError):
            self._photos = []
        self._written = {file.path: photo for photo in self._photos for file in _files(photo)}

    def made(self) -> frozenset[Path]:
        """Every file that was written, by its resolved path."""
        return frozenset((self._folder / path).resolve() for path in self._written)

    def is_of_another(self, path: Path, photo: Photo) -> bool:
        """Whether a file of the folder was written for another photo than this one."""
        listed = self._written.get(path.relative_to(self._folder).as_posix())
        return listed is not None and path.exists() and not _is_same(listed.old, photo)

    def beside(self, now: Sequence[ListedPhoto]) -> Iterator[ListedPhoto]:
        """What was written of other photos than these; what was written of these before is noted
        with them as earlier files."""
        paths = {file.path for photo in now for file in photo.files}
        by_old = {(photo.old.folder, photo.old.name): photo for photo in now}
        for photo in self._photos:
            kept = [each for each in _files(photo) if each.path not in paths and self._has(each)]
            again = by_old.get((photo.old.folder, photo.old.name))
            if again:
                again.earlier_files += kept
            elif files := [each for each in kept if each in photo.files]:
                earlier = [each for each in kept if each not in files]
                yield photo.model_copy(update={"files": files, "earlier_files": earlier})

    def _has(self, file: ListedFile) -> bool:
        try:
            data = (self._folder / file.path).read_bytes()
        except OSError:
            return False
        return hashlib.sha256(data).hexdigest() == file.sha256


def _files(photo: ListedPhoto) -> list[ListedFile]:
    return [*photo.files, *photo.earlier_files]


def _is_same(old: OldFile, photo: Photo) -> bool:
    """Whether a file is of a photo: by its name, or its bytes where it was moved since."""
    has_name = (old.folder, old.name) == (photo.folder, photo.name)
    return has_name or old.sha256 == photo.original_sha256
