"""What is done to a workspace as a whole, beside its server: backups, and looking whether it is
whole."""

import sqlite3
from contextlib import closing, nullcontext
from pathlib import Path

from lean_parcel.core.errors import UsageError
from lean_parcel.store.file import copies, database
from lean_parcel.store.file.faults import in_words
from lean_parcel.store.file.health import Defect, DefectKind, findings
from lean_parcel.store.file.lock import hold

#: What to do about each kind of problem.
ADVICE: dict[DefectKind, str] = {
    "damaged_file": "The file is damaged. Copy it, then restore the last backup.",
    "lost_reference": "Something is missing that is named. Restore the last backup.",
    "changed_bytes": "The disk gives back other bytes than were stored. Look at the disk, and"
    " restore the last backup.",
    "lost_original": "The original of this photo is not there. Add it again, or restore the last"
    " backup.",
    "lost_file": "What was taken for this photo is not there. Weigh it again.",
}


def back_up(path: Path, to: Path) -> None:
    """Backs a workspace up to a file, also while a server has it open; an earlier backup of it is
    replaced once all is written, and nothing else is. Raises UsageError and StorageError."""
    if to.exists() and to.samefile(path):
        raise UsageError("A backup goes to a file of its own.", "same_file")
    copies.back_up(path, to)


def restore(path: Path, backup: Path) -> Path | None:
    """Makes a workspace what a backup is, and keeps what it was in a file beside it, which is
    returned. The backup is looked at first. Raises UsageError where that is not whole, or a server
    has the workspace open, and StorageError."""
    if check(backup):
        raise UsageError(f"{backup} is not whole: see `lean-parcel check`.", "damaged_backup")
    path = path.resolve()
    with hold(path) if path.exists() else nullcontext():
        return copies.restore(path, backup)


def check(path: Path) -> list[Defect]:
    """All that is not right in a workspace. Raises UsageError for what is none, and StorageError
    for what cannot be read."""
    try:
        database.check_is_workspace(path)
    except UsageError as error:
        if error.code != "damaged_workspace":
            raise
        return [Defect(problem="damaged_file", about=error.detail or str(error))]
    found: list[Defect] = []
    with in_words(), closing(database.connect(path, is_read_only=True)) as connection:
        try:
            with database.snapshot(connection):
                found.extend(findings(connection))
        except sqlite3.OperationalError:
            raise
        except sqlite3.DatabaseError as error:
            found.append(Defect(problem="damaged_file", about=str(error)))
    return found
