"""On a disk of its own, to be run as a program: fills it, and gives room back."""

import subprocess
import sys
from pathlib import Path

from lean_parcel.core.errors import StorageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import AIM, settled


def main(folder: Path) -> None:
    """Prints what storing a photo came to: on a full disk, and after room was given back."""
    subprocess.run(["mount", "-t", "tmpfs", "-o", "size=16m", "tmpfs", str(folder)], check=True)
    workspace = Workspace(folder / "w.sqlite3", InlineExecutor(), Limits())
    workspace.resume()  # as a server does: it keeps a reserve
    photos = [add(workspace, seed) for seed in range(5)]
    settled(workspace, photos[0])
    for photo_id in photos[1:]:
        settled(workspace, photo_id)
        workspace.page_editing.do(page_acts.remove_photos((photo_id,)))
    fill(folder / "ballast")
    print(stored(workspace, range(20, 80)))
    workspace.room_keeping.reclaim(forgets_removed=True)
    print(stored(workspace, range(80, 82)))
    workspace.close()


def add(workspace: Workspace, seed: int) -> int:
    return workspace.adding.add_photo("a.png", file(photo(500, 400, seed)), aim=AIM)


def fill(path: Path) -> None:
    with path.open("wb", buffering=0) as ballast:
        try:
            while True:
                ballast.write(bytes(4_096))
        except OSError:
            return


def stored(workspace: Workspace, seeds: range) -> str:
    """Stores photos until there is no room in the log either."""
    for seed in seeds:
        try:
            add(workspace, seed)
        except StorageError as error:
            return error.code
    return "stored"


if __name__ == "__main__":
    main(Path(sys.argv[1]))
