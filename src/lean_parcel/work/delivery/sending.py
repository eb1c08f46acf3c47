"""Sending a delivery: one file after the other, as an archive that is made while it is sent, or
into the one folder that the server may write to. The packing list is of the bytes that went out."""

import hashlib
import io
import zipfile
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

from lean_parcel.core.errors import NotFoundError, StorageError, UsageError
from lean_parcel.core.packing.names import as_text, numbered, safe_folder
from lean_parcel.store.encodes import Encode
from lean_parcel.work.delivery.packing_list import (
    HTML_NAME,
    LIST_NAME,
    ListedFile,
    ListedPhoto,
    OldFile,
    PackingList,
    is_list_html,
    listed_file,
    packing_list_html,
    packing_list_json,
    read_packing_list,
)
from lean_parcel.work.delivery.planning import PlannedDelivery, PlannedPhoto, Planning
from lean_parcel.work.delivery.writing import PART_GLOB, write_whole
from lean_parcel.work.photos.files import Files
from lean_parcel.work.photos.planned_files import PlannedFile

#: What is being written to a folder, until its list is there: first for which delivery.
_NOTES = ".packing-list.notes"
_OF = "of"
#: A date for all entries, so that the same delivery gives the same bytes.
_ZIP_DATE = (1980, 1, 1, 0, 0, 0)
_ZIP_MODE = 0o644 << 16


@dataclass(frozen=True, slots=True)
class Sent:
    """A file as it is handed over."""

    path: str
    data: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class Written:
    """What was written: the folder, how many files, and their bytes."""

    folder: Path
    files: int
    size_bytes: int


class Sending:
    """Hands a page over. Where there is an `out` folder, a delivery can be written below it."""

    def __init__(self, planning: Planning, files: Files, out: Path | None) -> None:
        self._planning = planning
        self._files = files
        self.out = out
        self._turn = Lock()

    def zipped(self, page_id: int) -> Iterator[bytes]:
        """The delivery of a page as a zip, in pieces, with the files of one photo in memory.
        Raises UsageError `not_ready` or `nothing_taken` before the first."""
        delivery = self._planning.complete(page_id)
        return _zip(self._sent(delivery))

    def listed(self, page_id: int) -> PackingList:
        """The packing list of a page. Raises as `zipped` does."""
        delivery = self._planning.complete(page_id)
        return _list(
            delivery, [self.of_photo(photo)[0] for photo in delivery.photos if photo.files]
        )

    def written(self, page_id: int) -> Written:
        """Writes the delivery of a page below the `out` folder, into one of its own: where another
        page has delivered to that of this name, the next with a number. Raises as `zipped` does,
        UsageError `file_in_the_way` before anything is written over what is not of an earlier
        delivery of this page, and StorageError where the folder cannot be written."""
        if self.out is None:
            raise UsageError("Start the server with --out FOLDER to write there.", "no_out_folder")
        delivery = self._planning.complete(page_id)
        first = self.out / (safe_folder(delivery.page.name.replace("/", " ")) or "page")
        folder = first
        try:
            with self._turn:
                folder = numbered(first, lambda each: _is_of_another(each, delivery))
                return self._write(delivery, folder)
        except OSError as error:
            message = f"{folder} cannot be written: {error.strerror}."
            raise StorageError(message, "folder_not_written", str(error)) from error

    def _write(self, delivery: PlannedDelivery, folder: Path) -> Written:
        before = _delivered_before(folder)
        _check_way(folder, _NOTES, {(_NOTES, _sha256(folder / _NOTES) or "")})
        for path in [*(file.path for file in delivery.files), LIST_NAME, HTML_NAME]:
            _check_way(folder, path, before)
        sent_paths, size_bytes = set(), 0
        folder.mkdir(parents=True, exist_ok=True)
        if not (folder / _NOTES).exists():
            _note(folder, _OF, delivery.id)
        for sent in self._sent(delivery):
            target = folder / sent.path
            target.parent.mkdir(parents=True, exist_ok=True)
            _note(folder, hashlib.sha256(sent.data).hexdigest(), sent.path)
            write_whole(target, sent.data)
            sent_paths.add(sent.path)
            size_bytes += len(sent.data)
        for left in folder.rglob(PART_GLOB):
            left.unlink(missing_ok=True)  # by a server that was killed
        _note_left(folder, {each for each in before if each[0] not in sent_paths}, delivery.id)
        return Written(folder=folder, files=len(sent_paths), size_bytes=size_bytes)

    def _sent(self, delivery: PlannedDelivery) -> Iterator[Sent]:
        """The files, and then their list."""
        listed = []
        for photo in delivery.photos:
            if not photo.files:
                continue
            of_photo, sent = self.of_photo(photo)
            listed.append(of_photo)
            yield from sent
        whole = _list(delivery, listed)
        yield Sent(HTML_NAME, packing_list_html(whole).encode())
        yield Sent(LIST_NAME, packing_list_json(whole).encode())

    def of_photo(self, photo: PlannedPhoto) -> tuple[ListedPhoto, list[Sent]]:
        """A photo as it is listed, and its files that are ready. Raises NotFoundError where none
        is."""
        listed, sent = [], []
        for file in photo.files:
            if file.encode is None:
                continue
            _, data = self._files.delivered(photo.photo.id, file.encode.id)
            listed.append(_listed_file(file, file.encode, data))
            sent.append(Sent(file.path, data))
        return _listed_photo(photo, listed), sent


def _list(delivery: PlannedDelivery, listed: list[ListedPhoto]) -> PackingList:
    page = delivery.page
    return PackingList(
        delivery_id=delivery.id,
        page=as_text(page.name),
        path_prefix=page.path_prefix,
        budget_bytes=page.budget_bytes,
        photos=listed,
        left_out=[
            *(as_text(photo.spot.name) for photo in delivery.photos if not photo.files),
            *(as_text(f"{file.path}: {file.error}") for file in delivery.files if file.error),
        ],
    )


def _listed_photo(photo: PlannedPhoto, files: list[ListedFile]) -> ListedPhoto:
    handed = photo.handed
    if handed is None:
        raise NotFoundError(f"Nothing of “{photo.spot.name}” can be handed over.")
    source = photo.photo
    return ListedPhoto(
        name=as_text(photo.spot.name),
        old=OldFile(
            name=as_text(source.name),
            folder=as_text(source.folder),
            size_bytes=source.source.size_bytes,
            sha256=source.original_sha256,
        ),
        framing=photo.state.framing,
        size=photo.state.aim.place.size,
        css_width_px=handed.css_width_px,
        css_height_px=handed.css_height_px,
        density=handed.density,
        alt_text=handed.alt_text,
        credit=handed.credit,
        loading=handed.loading,
        fetch_priority=handed.fetch_priority,
        sizes=handed.sizes,
        reason=as_text(photo.state.reason),
        files=files,
    )


def _listed_file(file: PlannedFile, encode: Encode, data: bytes) -> ListedFile:
    return listed_file(
        file.path,
        data,
        trial=encode.trial,
        likeness=encode.measured.likeness,
        aim=file.aim,
        plan=file.plan,
        worst=encode.worst,
        is_pick=file.is_pick,
    )


class _Pipe(io.RawIOBase):
    """Collects what is written until it is taken."""

    def __init__(self) -> None:
        super().__init__()
        self._pieces: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: object) -> int:
        piece = bytes(data)  # type: ignore[call-overload]  # any buffer
        self._pieces.append(piece)
        return len(piece)

    def take(self) -> bytes:
        pieces, self._pieces = self._pieces, []
        return b"".join(pieces)


def _zip(sent: Iterator[Sent]) -> Iterator[bytes]:
    """A zip of files as they come. They are deflated, though it gains nothing: of files that are
    merely stored, some programs cannot tell the end in an archive that was streamed."""
    pipe = _Pipe()
    with zipfile.ZipFile(pipe, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for each in sent:
            entry = zipfile.ZipInfo(each.path, _ZIP_DATE)
            entry.external_attr = _ZIP_MODE
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, each.data)
            yield pipe.take()
    yield pipe.take()


def _note(folder: Path, sha256: str, path: str) -> None:
    """Notes a file before it is written: the list comes last, and may never come."""
    with (folder / _NOTES).open("a", encoding="utf-8") as notes:
        notes.write(f"{sha256} {path}\n")


def _note_left(folder: Path, before: set[tuple[str, str]], delivery_id: str) -> None:
    """Ends a delivery: only files of earlier ones that still lie there, and are on no list any
    more, stay noted, so that a later one may write them again."""
    left = sorted(each for each in before if _sha256(folder / each[0]) == each[1])
    lines = [f"{sha256} {path}\n" for path, sha256 in left]
    if left:
        write_whole(folder / _NOTES, "".join([f"{_OF} {delivery_id}\n", *lines]).encode())
    else:
        (folder / _NOTES).unlink(missing_ok=True)


def _notes(folder: Path) -> set[tuple[str, str]]:
    """What is noted: paths with their hashes, and the delivery with `_OF`."""
    try:
        lines = (folder / _NOTES).read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError):
        return set()
    parted = (line.partition(" ") for line in lines)
    return {(path, sha256) for sha256, _, path in parted}


def _list_in(folder: Path) -> PackingList | None:
    with suppress(OSError, UsageError):
        return read_packing_list((folder / LIST_NAME).read_bytes())
    return None


def _is_of_another(folder: Path, delivery: PlannedDelivery) -> bool:
    """Whether a folder has the delivery of another page, whole or cut off. Lists of earlier
    versions tell it by the name of their page only."""
    noted = {path for path, what in _notes(folder) if what == _OF}
    if noted and delivery.id not in noted:
        return True
    listed = _list_in(folder)
    if listed is None:
        return False
    if listed.delivery_id is None:
        return listed.page != as_text(delivery.page.name)
    return listed.delivery_id != delivery.id


def _delivered_before(folder: Path) -> set[tuple[str, str]]:
    """The paths and hashes of the files of an earlier delivery, and of one that was cut off."""
    found = _notes(folder)
    if listed := _list_in(folder):
        found |= {(file.path, file.sha256) for file in listed.files}
        found.add((LIST_NAME, _sha256(folder / LIST_NAME) or ""))
        with suppress(OSError):
            if is_list_html(folder / HTML_NAME):
                found.add((HTML_NAME, _sha256(folder / HTML_NAME) or ""))
    return found


def _check_way(folder: Path, path: str, before: set[tuple[str, str]]) -> None:
    """Raises UsageError for a link on the way to a file, and for a file in its place that is not
    of an earlier delivery, as that wrote it."""
    target = folder / path
    way = [folder, *(folder / parent for parent in Path(path).parents), target]
    if any(step.is_symlink() for step in way):
        raise UsageError(f"{target} is a link, and is not followed.", "file_in_the_way")
    if target.exists() and (path, _sha256(target)) not in before:
        raise UsageError(
            f"{target} is there already, and not of an earlier delivery.", "file_in_the_way"
        )


def _sha256(path: Path) -> str | None:
    if not path.is_file():
        return None
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
