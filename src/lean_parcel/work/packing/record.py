"""What a run has come to, line by line, in a hidden file of the folder that it packs into: a run
that was cut off goes on where it stopped."""

import hashlib
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lean_parcel.work.delivery.packing_list import ListedFile, ListedPhoto

FILE_NAME = ".lean-parcel-pack.jsonl"


@dataclass(frozen=True, slots=True, kw_only=True)
class Done:
    """A photo that was packed: what is said of its best file, and how it is listed with all files
    that were written."""

    values: dict[str, Any]
    listed: ListedPhoto


class Record:
    """The record of one folder. What was recorded by a run of other options, of another state of a
    photo, or of a file that is not there as it was written, does not count."""

    def __init__(self, folder: Path, options: dict[str, Any]) -> None:
        self._path = folder / FILE_NAME
        self._folder = folder
        self._options = hashlib.sha256(json.dumps(options, sort_keys=True).encode()).hexdigest()
        self._lines: list[dict[str, Any]] = []
        #: The last line that names each file.
        self._written: dict[str, dict[str, Any]] = {}
        for line in self._read():
            self._know(line)

    def made_before(self) -> frozenset[Path]:
        """Every file that a run has written here, by resolved path; and its lists."""
        lines = [line["listed"] for line in self._lines if "listed" in line]
        names = [file["path"] for listed in lines for file in listed["files"]]
        return frozenset((self._folder / name).resolve() for name in names)

    def photos(self) -> set[Path]:
        """The originals of all runs, by resolved path."""
        return {_path_of(line) for line in self._lines}

    def listed_before(self) -> dict[Path, list[ListedPhoto]]:
        """What runs have written here, by the resolved path of its photo, the latest first; of the
        files, those that are there as they were written."""
        found: dict[Path, list[ListedPhoto]] = {}
        for line in reversed(self._lines):
            if "listed" in line:
                listed = ListedPhoto.model_validate(line["listed"])
                listed.files = [each for each in listed.files if _is_there(self._folder, each)]
                found.setdefault(_path_of(line), []).append(listed)
        return found

    def is_of_another(self, file: Path, photo: Path, source_sha256: str) -> bool:
        """Whether a file in the folder was written for another photo than this one. A photo that
        was moved since is still the same."""
        line = self._written.get(file.relative_to(self._folder).as_posix())
        if line is None or not file.exists():
            return False
        before = _path_of(line)
        was_moved = line["source_sha256"] == source_sha256 and not before.exists()
        return before != photo.resolve() and not was_moved

    def done(self, photo: Path, source_sha256: str) -> Done | None:
        """What was packed of a photo."""
        for line in reversed(self._lines):
            if "listed" not in line or _key(line) != (self._options, str(photo), source_sha256):
                continue
            listed = ListedPhoto.model_validate(line["listed"])
            is_there = all(_is_there(self._folder, file) for file in listed.files)
            return Done(values=line["values"], listed=listed) if is_there else None
        return None

    def add(self, photo: Path, source_sha256: str, done: Done) -> None:
        """Records a photo, once its files are there."""
        listed = done.listed.model_dump(mode="json")
        self._append(photo, source_sha256, {"values": done.values, "listed": listed})

    def measured(self, photo: Path, source_sha256: str) -> list[dict[str, Any]]:
        """The encodes that were measured of a photo."""
        key = (self._options, str(photo), source_sha256)
        return [
            option
            for line in self._lines
            if "measured" in line and _key(line) == key
            for option in line["measured"]
        ]

    def add_measured(self, photo: Path, source_sha256: str, options: list[dict[str, Any]]) -> None:
        """Records encodes of a photo, as plain values."""
        self._append(photo, source_sha256, {"measured": options})

    def _append(self, photo: Path, source_sha256: str, values: dict[str, Any]) -> None:
        line = {
            "options": self._options,
            "photo": str(photo),
            "path": str(photo.resolve()),
            "source_sha256": source_sha256,
            **values,
        }
        self._know(line)
        with self._path.open("a", encoding="utf-8") as file:
            file.write(json.dumps(line) + "\n")

    def _know(self, line: dict[str, Any]) -> None:
        self._lines.append(line)
        for file in line.get("listed", {}).get("files", []):
            self._written[file["path"]] = line

    def _read(self) -> list[dict[str, Any]]:
        """The lines that are whole; a run may have been killed while it wrote one."""
        lines = []
        if self._path.exists():
            written = self._path.read_text(encoding="utf-8", errors="replace")
            if written and not written.endswith("\n"):
                self._path.write_text(written + "\n", encoding="utf-8")
            for text in written.splitlines():
                try:
                    lines.append(json.loads(text))
                except ValueError:
                    continue
        return lines


def _key(line: dict[str, Any]) -> tuple[str, str, str]:
    return line["options"], line["photo"], line["source_sha256"]


def _path_of(line: dict[str, Any]) -> Path:
    """Where the photo of a line is, or was; lines of earlier versions have what was typed only."""
    return Path(line.get("path") or line["photo"]).resolve()


def _is_there(folder: Path, file: ListedFile) -> bool:
    try:
        return hashlib.sha256((folder / file.path).read_bytes()).hexdigest() == file.sha256
    except OSError:
        return False
