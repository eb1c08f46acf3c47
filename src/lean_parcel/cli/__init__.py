"""The command line: one module a command, imported when it is asked for."""

import io
import sys
from importlib import import_module

import click

#: What each command does, by its name, which is also its module's.
COMMANDS = {
    "backup": "Back the workspace up to FILE, also while a server has it open.",
    "check": "Look whether a workspace is whole, and say what to do where it is not.",
    "damage": "The damage of CANDIDATE beside REFERENCE: kinds, places and strengths, 0 to 100.",
    "fit": "Find the lightest file that shows no visible change for each photo and format.",
    "likeness": "SSIMULACRA 2 of CANDIDATE against REFERENCE: 90 is no visible change.",
    "pack": "Pack the best file of each photo in SOURCES, with its variants and a packing list.",
    "repoint": "Point FILES of a site to the files of PACKING_LIST.",
    "restore": "Make the workspace what the backup in FILE is.",
    "serve": "Serve Lean Parcel to the browsers of this machine.",
    "verify": "Verify the delivery in FOLDER against its packing list.",
}


class _Commands(click.Group):
    """Imports a command's module only to run it, or to tell all about it."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in COMMANDS:
            return None
        command: click.Command = import_module(f"{__name__}.{cmd_name}").command
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))


@click.group(cls=_Commands)
@click.version_option(package_name="lean-parcel")
def main() -> None:
    """Spend bytes, see damage: photos for the web, fitted to a byte limit."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # names need not be UTF-8
            stream.reconfigure(errors="backslashreplace")
