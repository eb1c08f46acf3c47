"""`lean-parcel likeness`: how much one picture looks like another."""

import json
import sys
from pathlib import Path

import click

from lean_parcel.cli.parameters import UNREADABLE_STATUS, read_photo
from lean_parcel.core.errors import LeanParcelError, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.tasks.likeness import likeness_task


@click.command()
@click.argument("reference", type=click.Path(path_type=Path))
@click.argument("candidate", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="A JSON object.")
def likeness(reference: Path, candidate: Path, as_json: bool) -> None:
    """SSIMULACRA 2 of CANDIDATE against REFERENCE: 100 is identical, 90 no visible change.

    A candidate of the same shape with fewer pixels is enlarged first, as a browser would.
    """
    limits = Limits()
    pool = WorkerPool(PoolSettings(workers=1))
    try:
        future = pool.submit(
            likeness_task,
            read_photo(reference, limits),
            reference.name,
            read_photo(candidate, limits),
            candidate.name,
            limits,
        )
        value = round(float(future.result()), 3)
    except UsageError as error:
        raise click.UsageError(error.message) from error
    except LeanParcelError as error:
        click.echo(error.message, err=True)
        sys.exit(UNREADABLE_STATUS)
    finally:
        pool.shutdown(cancel_futures=True)
    click.echo(json.dumps({"likeness": value}) if as_json else f"{value:.2f}")
