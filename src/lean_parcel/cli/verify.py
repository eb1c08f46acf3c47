"""`lean-parcel verify`: a delivery against its packing list."""

import json
import sys
from pathlib import Path

import click

from lean_parcel.core.errors import UsageError
from lean_parcel.core.packing.names import as_text
from lean_parcel.work.delivery.verifying import Verified, verify

_NOT_RIGHT_STATUS = 1


@click.command("verify")
@click.argument("folder", type=click.Path(path_type=Path, exists=True, file_okay=False))
@click.option("--json", "as_json", is_flag=True, help="One JSON object.")
def command(folder: Path, as_json: bool) -> None:
    """Verify the delivery in FOLDER against its packing list.

    Hashes, sizes, limits and the budget are compared. Exit status: 0 all is right, 1 something is
    not, 2 there is no packing list. A file that was taken over its limit with a reason is told, and
    is right.
    """
    try:
        verified = verify(folder)
    except UsageError as error:
        raise click.UsageError(error.message) from error
    click.echo(_json(verified) if as_json else _lines(verified))
    sys.exit(0 if verified.is_right else _NOT_RIGHT_STATUS)


def _json(verified: Verified) -> str:
    return json.dumps(
        {
            "page": verified.listed.page,
            "files": len(verified.listed.files),
            "fetched_bytes": verified.listed.totals.fetched_bytes,
            "old_browser_bytes": verified.listed.totals.old_browser_bytes,
            "budget_bytes": verified.listed.budget_bytes,
            "is_right": verified.is_right,
            "findings": [
                {
                    "path": finding.path or None,
                    "problem": finding.problem,
                    "sentence": finding.sentence,
                    "is_excused": finding.is_excused,
                }
                for finding in verified.findings
            ],
        }
    )


def _lines(verified: Verified) -> str:
    told = [
        as_text(f"{finding.path}: {finding.sentence}" if finding.path else finding.sentence)
        for finding in verified.findings
    ]
    count = len(verified.listed.files)
    files = "1 file" if count == 1 else f"{count} files"
    last = f"{files} as listed." if verified.is_right else f"{files} listed; not all is right."
    return "\n".join([*told, last])
