"""`lean-parcel check`: whether the workspace is whole."""

import json
import sys
from pathlib import Path

import click

from lean_parcel.cli.shared.parameters import own_workspace, told, workspace_option
from lean_parcel.work.upkeep import ADVICE, check

_NOT_WHOLE_STATUS = 1


@click.command("check")
@workspace_option
@click.option("--json", "as_json", is_flag=True, help="One JSON object.")
def command(path: Path | None, as_json: bool) -> None:
    """Look whether a workspace is whole, and say what to do where it is not.

    SQLite's own checks, the hash of all bytes, and whether all is there that is named; also while a
    server has it open. Exit status: 0 it is whole, 1 it is not.
    """
    path = path or own_workspace()
    with told():
        found = check(path)
    if as_json:
        each = [
            {"problem": f.problem, "about": f.about, "advice": ADVICE[f.problem]} for f in found
        ]
        click.echo(json.dumps({"is_whole": not found, "findings": each}))
    elif not found:
        click.echo(f"{path} is whole.")
    for finding in () if as_json else found:
        click.echo(f"{finding.about}: {ADVICE[finding.problem]}")
    sys.exit(_NOT_WHOLE_STATUS if found else 0)
