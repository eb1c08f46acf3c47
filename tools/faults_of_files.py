"""What happens to files while a server works, for `make faults`: a workspace that is replaced,
bytes that the disk changes, backups that are restored, packing that is cut off."""

import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import httpx

from lean_parcel.work import upkeep
from lean_parcel.work.delivery.verifying import verify
from tools.served import Served

_LAUNCH = [sys.executable, "-c", "from lean_parcel.cli import main; main()"]
#: How long clients act on a workspace that is replaced afterwards.
_MEANWHILE_S = 1.5
_PICKED = """
SELECT DISTINCT blob.sha256, blob.data FROM blob JOIN encode ON encode.file_sha256 = blob.sha256
JOIN entry ON entry.picked_encode_id = encode.id WHERE length(blob.data) > 0"""


def replace_workspace(served: Served, workspace: Path, begin: Callable[[], None]) -> None:
    """Puts a copy in the place of a workspace that is open, and lets clients begin to act; then the
    server is started again. What they did meanwhile must not have been acknowledged."""
    copy = workspace.with_name("copy.sqlite3")
    copy.unlink(missing_ok=True)
    upkeep.back_up(workspace, copy)
    copy.replace(workspace)
    begin()
    time.sleep(_MEANWHILE_S)
    served.end(signal.SIGKILL)
    for log in ("-wal", "-shm"):  # those of the file that is gone
        workspace.with_name(workspace.name + log).unlink(missing_ok=True)
    served.start()


def damage_bytes(workspace: Path, ask: Callable[[], httpx.Response]) -> list[str]:
    """Changes a byte of each file that is taken, as a failing disk does, asks for a delivery, and
    puts the bytes back. What is wrong with the answer is returned."""
    with _changed_bytes(workspace) as has_changed:
        if not has_changed:
            return []
        answer = ask()
        code = answer.json().get("code") if not answer.is_success else None
    if answer.is_success:
        return ["damaged bytes were delivered"]
    return [] if code in ("bytes_changed", "not_ready", "nothing_taken") else [f"damaged: {code}"]


@contextmanager
def _changed_bytes(workspace: Path) -> Iterator[bool]:
    change = "UPDATE blob SET data = ? WHERE sha256 = ?"
    with closing(sqlite3.connect(workspace, timeout=30)) as connection:
        rows = connection.execute(_PICKED).fetchall()
        with connection:
            connection.executemany(change, [(_changed(data), sha256) for sha256, data in rows])
        try:
            yield bool(rows)
        finally:
            with connection:
                connection.executemany(change, [(data, sha256) for sha256, data in rows])


def _changed(data: bytes) -> bytes:
    middle = len(data) // 2
    return data[:middle] + bytes([data[middle] ^ 1]) + data[middle + 1 :]


def restore_and_return(served: Served, workspace: Path, act: Callable[[], None]) -> list[str]:
    """Backs a workspace up, lets clients act, restores the backup, and then what that has kept,
    which has all acts. What was not kept is returned."""
    backup = workspace.with_name("backup.sqlite3")
    upkeep.back_up(workspace, backup)
    act()
    served.end(signal.SIGTERM)
    kept = upkeep.restore(workspace, backup)
    again = upkeep.restore(workspace, kept) if kept else None
    served.start()
    if not kept or not again or kept == again:
        return ["a restore kept nothing of its own"]
    kept.unlink()
    again.unlink()
    return []


def pack_and_cut_off(chance: random.Random, picture: Callable[[], bytes]) -> list[str]:
    """Packs a folder that photos of one name join, killed on the way, and then to its end. What
    does not agree with the list is returned."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        photos, out = folder / "photos", folder / "out"
        options = ["--out", str(out), "--width", "120", "--limit", "9kB", "--formats", "jpeg"]
        command = [*_LAUNCH, "pack", str(photos), *options, "--replace"]
        for number in range(3):
            joined = photos / f"{chance.choice('abcdefgh')}{number}" / "Cup.png"
            joined.parent.mkdir(parents=True)
            joined.write_bytes(picture())
            with subprocess.Popen(command, stdout=subprocess.DEVNULL) as run:
                time.sleep(chance.uniform(0.5, 4))
                run.kill()
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        verified = verify(out)
        wrong = [f"packed: {each.path}: {each.sentence}" for each in verified.findings]
        named = [file.path for photo in verified.listed.photos for file in photo.files]
        if len(set(named)) != 3:
            wrong.append(f"packed: 3 photos have the files {sorted(named)}")
        shutil.rmtree(out)
    return wrong
