import json
import subprocess
import sys
from pathlib import Path

import click
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


def test_a_command_starts_and_ends_workers_of_its_own(tmp_path: Path) -> None:
    reference = tmp_path / "reference.png"
    reference.write_bytes(file(photo()))
    program = "from lean_parcel.cli import main; main()"
    asked = [sys.executable, "-c", program, "likeness", str(reference), str(reference)]
    told = subprocess.run(asked, capture_output=True, text=True, timeout=120)
    assert (told.returncode, told.stdout.split()[0]) == (0, "100.00"), told.stderr
