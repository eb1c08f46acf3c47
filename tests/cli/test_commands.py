import subprocess
import sys

import click
import pytest

from lean_parcel.cli import COMMANDS, main


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
