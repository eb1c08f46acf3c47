"""`lean-parcel damage`: what is wrong with a picture, where, and how strongly."""

import json
from dataclasses import asdict
from pathlib import Path

import click
from rich.console import Console
from rich.table import Table

from lean_parcel.cli.shared.comparing import compared
from lean_parcel.core.damage.found import Damage
from lean_parcel.core.damage.spots import TroubleSpot
from lean_parcel.work.tasks.damage import damage_task


@click.command("damage")
@click.argument("reference", type=click.Path(path_type=Path))
@click.argument("candidate", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="A JSON object.")
def command(reference: Path, candidate: Path, as_json: bool) -> None:
    """The damage of CANDIDATE beside REFERENCE: kinds, places and strengths, 0 to 100.

    Places are in pixels of REFERENCE. A candidate of the same shape with fewer pixels is enlarged
    first, as a browser would.
    """
    found, spots = compared(damage_task, reference, candidate)
    if as_json:
        click.echo(json.dumps(_document(found, spots)))
    else:
        _show(found, spots)


def _document(found: Damage, spots: list[TroubleSpot]) -> dict[str, object]:
    return {
        "likeness": round(found.likeness, 3),
        "kinds": {kind: round(strength, 2) for kind, strength in found.strengths.items()},
        "spots": [
            {
                "kind": spot.kind,
                "strength": round(spot.strength, 2),
                "level": spot.level,
                **asdict(spot.box),
            }
            for spot in spots
        ],
        "verdict": found.verdict,
    }


def _show(found: Damage, spots: list[TroubleSpot]) -> None:
    console = Console(highlight=False)
    console.print(f"Likeness {found.likeness:.2f}. {found.verdict}")
    kinds = Table("kind", "strength", title="Over the whole picture", title_justify="left")
    for kind, strength in sorted(found.strengths.items(), key=lambda one: -one[1]):
        kinds.add_row(kind, f"{strength:.0f}")
    console.print(kinds)
    if not spots:
        return
    table = Table("kind", "level", "strength", "left", "top", "width", "height")
    table.title, table.title_justify = "Trouble spots, in pixels", "left"
    for spot in spots:
        box = spot.box
        sides = (box.left_px, box.top_px, box.width_px, box.height_px)
        table.add_row(spot.kind, spot.level, f"{spot.strength:.0f}", *map(str, sides))
    console.print(table)
