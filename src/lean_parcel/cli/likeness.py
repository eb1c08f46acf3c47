"""`lean-parcel likeness`: how much one picture looks like another."""

import json
from pathlib import Path

import click

from lean_parcel.cli.shared.comparing import compared
from lean_parcel.work.tasks.damage import likeness_task


@click.command("likeness")
@click.argument("reference", type=click.Path(path_type=Path))
@click.argument("candidate", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="A JSON object.")
def command(reference: Path, candidate: Path, as_json: bool) -> None:
    """SSIMULACRA 2 of CANDIDATE against REFERENCE: 90 is no visible change.

    A candidate of the same shape with fewer pixels is enlarged first, as a browser would.
    """
    value = round(compared(likeness_task, reference, candidate), 3)
    click.echo(json.dumps({"likeness": value}) if as_json else f"{value:.2f}")
