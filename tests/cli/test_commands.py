import json
import signal
import subprocess
import sys
import time
from pathlib import Path

import click
import psutil
import pytest
from click.testing import CliRunner

from lean_parcel.cli import COMMANDS, main
from lean_parcel.core.original.source import Limits
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor


@pytest.mark.parametrize("name", COMMANDS)
def test_a_command_is_told_in_its_own_words(name: str) -> None:
    command = main.get_command(click.Context(main), name)
    assert command
    assert command.help
    assert command.help.split("\n\n")[0] == COMMANDS[name]


def test_the_list_of_commands_loads_none_of_them() -> None:
    program = (
        "import sys; from lean_parcel.cli import main; main(['--help'], standalone_mode=False);"
        "print(sorted({'flask', 'numba', 'numpy', 'pydantic'} & set(sys.modules)))"
    )
    told = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True)
    assert told.stdout.splitlines()[-1] == "[]", told.stderr


def test_a_command_that_is_unknown_is_refused() -> None:
    assert main.get_command(click.Context(main), "shrink") is None


def test_a_workspace_is_backed_up_checked_and_restored(tmp_path: Path) -> None:
    path, backup = tmp_path / "w.sqlite3", tmp_path / "backup"
    Workspace(path, InlineExecutor(), Limits()).close()
    runner = CliRunner()
    named = ["--workspace", str(path)]
    made = runner.invoke(main, ["backup", str(backup), *named])
    assert (made.exit_code, "is backed up to" in made.output) == (0, True)
    whole = runner.invoke(main, ["check", "--json", "--workspace", str(backup)])
    assert (whole.exit_code, json.loads(whole.output)) == (0, {"is_whole": True, "findings": []})
    restored = runner.invoke(main, ["restore", str(backup), *named])
    assert (restored.exit_code, f"{path}.before-restore" in restored.output) == (0, True)
    with path.open("r+b") as written:
        written.seek(100)
        written.write(b"\xff" * 5_000)
    damaged = runner.invoke(main, ["check", *named])
    assert (damaged.exit_code, "restore the last backup" in damaged.output) == (1, True)


def test_a_cluster_without_dask_is_told_to_install_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(sys.modules, "lean_parcel.work.queue.cluster", None)
    monkeypatch.setattr("lean_parcel.cli.serve.begin_log", lambda _: None)  # of this process
    options = ["--cluster", "tcp://127.0.0.1:9", "--workspace", str(tmp_path / "w.sqlite3")]
    told = CliRunner().invoke(main, ["serve", "--port", "0", *options])
    assert told.exit_code == 1
    assert "A cluster needs Dask" in told.output


def test_ctrl_c_ends_a_run_soon_and_without_a_traceback(tmp_path: Path) -> None:
    for seed in range(6):
        (tmp_path / f"{seed}.png").write_bytes(file(photo(900, 700, seed)))
    # Whatever started the tests may ignore the signal, and that is inherited.
    heard = "from signal import *; signal(SIGINT, default_int_handler)"
    program = f"{heard}; from lean_parcel.cli import main; main()"
    options = ["--out", str(tmp_path / "out"), "--width", "900", "--limit", "90kB"]
    with subprocess.Popen(
        [sys.executable, "-c", program, "pack", str(tmp_path), *options],
        stderr=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        text=True,
    ) as run:
        while len(psutil.Process(run.pid).children()) < 2:
            assert run.poll() is None
            time.sleep(0.05)
        run.send_signal(signal.SIGINT)
        told = run.communicate(timeout=30)[1]
    assert run.returncode == 1
    assert told.strip() == "Aborted!"


def test_a_command_starts_and_ends_workers_of_its_own(tmp_path: Path) -> None:
    reference = tmp_path / "reference.png"
    reference.write_bytes(file(photo()))
    program = "from lean_parcel.cli import main; main()"
    asked = [sys.executable, "-c", program, "likeness", str(reference), str(reference)]
    told = subprocess.run(asked, capture_output=True, text=True, timeout=120)
    assert (told.returncode, told.stdout.split()[0]) == (0, "100.00"), told.stderr
