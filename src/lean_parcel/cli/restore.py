"""`lean-parcel restore`: the workspace as it was."""

from pathlib import Path

import click

from lean_parcel.cli.shared.parameters import own_workspace, told, workspace_option
from lean_parcel.work.upkeep import restore


@click.command("restore")
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False, exists=True))
@workspace_option
def command(file: Path, path: Path | None) -> None:
    """Make the workspace what the backup in FILE is.

    The backup is checked first, and no server may have the workspace open. What the workspace was
    is kept beside it, under its name with `.before-restore` and a number from the second on.
    """
    path = path or own_workspace()
    with told():
        path.parent.mkdir(parents=True, exist_ok=True)
        before = restore(path, file)
    kept = f" What it was is kept as {before}." if before else ""
    click.echo(f"{path} is what {file} is.{kept}")
