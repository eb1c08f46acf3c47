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
        self._lines = self._read()

    def made_before(self) -> frozenset[Path]:
        """Every file that a run has written here, by resolved path; and its lists."""
        lines = [line["listed"] for line in self._lines if "listed" in line]
        names = [file["path"] for listed in lines for file in listed["files"]]
        return frozenset((self._folder / name).resolve() for name in names)

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
            "source_sha256": source_sha256,
            **values,
        }
        self._lines.append(line)
        with self._path.open("a", encoding="utf-8") as file:
            file.write(json.dumps(line) + "\n")

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


def _is_there(folder: Path, file: ListedFile) -> bool:
    try:
        return hashlib.sha256((folder / file.path).read_bytes()).hexdigest() == file.sha256
    except OSError:
        return False
