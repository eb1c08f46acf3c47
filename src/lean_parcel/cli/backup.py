"""`lean-parcel backup`: the workspace as one file."""

from pathlib import Path

import click

from lean_parcel.cli.shared.parameters import own_workspace, told, workspace_option
from lean_parcel.core.size import format_size
from lean_parcel.work.upkeep import back_up


@click.command("backup")
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False))
@workspace_option
def command(file: Path, path: Path | None) -> None:
    """Back the workspace up to FILE, also while a server has it open.

    The backup is the workspace as it was at one moment. A FILE that is an earlier backup of this
    workspace is replaced once all of the new one is written; any other is left as it is.
    """
    path = path or own_workspace()
    with told():
        back_up(path, file)
        click.echo(f"{path} is backed up to {file}, {format_size(file.stat().st_size)}.")
