"""What the commands share that compare one file with another."""

import sys
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import click

from lean_parcel.cli.shared.parameters import UNREADABLE_STATUS
from lean_parcel.core.errors import LeanParcelError, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.work.packing.sources import read_photo
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool

Result = TypeVar("Result")


def compared(
    task: Callable[[bytes, str, bytes, str, Limits], Result], reference: Path, candidate: Path
) -> Result:
    """What a task says of two files, opened in a worker process; ends the command where one cannot
    be read, or where they cannot be compared."""
    limits = Limits()
    pool = WorkerPool(PoolSettings(workers=1))
    try:
        original, other = read_photo(reference, limits), read_photo(candidate, limits)
        names = reference.name, candidate.name
        future = pool.submit(task, original, names[0], other, names[1], limits)
        result: Result = future.result()
        return result
    except UsageError as error:
        raise click.UsageError(error.message) from error
    except LeanParcelError as error:
        click.echo(error.message, err=True)
        sys.exit(UNREADABLE_STATUS)
    finally:
        pool.shutdown(cancel_futures=True)
