"""`lean-parcel fit`: the best file for what is aimed for, for each photo and format."""

import json
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import click
from rich.box import SIMPLE_HEAD
from rich.console import Console
from rich.markup import escape
from rich.progress import BarColumn, MofNCompleteColumn, Progress, SpinnerColumn, TextColumn
from rich.table import Table

from lean_parcel.cli.shared.output import OutputFolder
from lean_parcel.cli.shared.parameters import (
    LIMIT_NOT_MET_STATUS,
    UNREADABLE_STATUS,
    FormatsType,
    LooksType,
    SizeType,
    likeness_of,
    size_of,
    size_option,
    width_option,
)
from lean_parcel.core.candidates.trial import Measured
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.journal import aim_words
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.encoding.settings import setting_words, settings_values
from lean_parcel.core.errors import LeanParcelError, UsageError
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.levels import NO_CHANGE, likeness_number
from lean_parcel.core.original.source import Limits
from lean_parcel.core.packing.names import as_text
from lean_parcel.core.size import format_size
from lean_parcel.work.packing.one_file import FileFit, Fitting, Offer, fitting
from lean_parcel.work.packing.sources import read_photo
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool

_LIMITS = Limits()


@click.command("fit")
@click.argument("photos", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--limit", type=SizeType(), help="At most these bytes, like 80kB.")
@click.option(
    "--likeness",
    default=NO_CHANGE,
    type=LooksType(),
    help="No more bytes than it takes to look so, like 90, or best. By default no visible change.",
)
@size_option
@width_option
@click.option("--density", default=1.0, show_default=True, help="Device pixels a CSS pixel.")
@click.option("--pixel-by-pixel", is_flag=True, help="Do not judge as it is seen at --density.")
@click.option(
    "--formats", type=FormatsType(), help="Like jpeg,webp; by default those that suit the picture."
)
@click.option("--background", default="#ffffff", help="Fills transparency in JPEG.")
@click.option(
    "--out", type=click.Path(path_type=Path, file_okay=False), help="Write the pick here."
)
@click.option("--all", "write_all", is_flag=True, help="Write every candidate.")
@click.option("--replace", is_flag=True, help="Replace files that are there.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object a line.")
def command(
    photos: tuple[Path, ...],
    limit: int | None,
    likeness: float | str,
    size: str | None,
    width: int | None,
    density: float,
    pixel_by_pixel: bool,
    formats: tuple[Format, ...] | None,
    background: str,
    out: Path | None,
    write_all: bool,
    replace: bool,
    as_json: bool,
) -> None:
    """Find the lightest file that shows no visible change for each photo and format.

    It has at most --limit bytes: where none of those looks so, the best looking is found. With
    --likeness best it takes all that the limit allows.

    The original itself is offered too where its place takes it as it is. Exit status: 0 done, 2
    wrong usage, 3 a photo that cannot be read (the others are still done), 4 a limit that nothing
    could meet.
    """
    if out is None and (write_all or replace):
        raise click.UsageError("--all and --replace go with --out.")
    try:
        stands = size_of(size, width)
        if stands is None:
            raise click.UsageError("Give a --size or a --width.")
        place = Place(size=stands, density=density, pixel_by_pixel=pixel_by_pixel)
        looks = likeness_of(likeness)
        aim = Aim(place=place, limit_bytes=limit, likeness=looks, formats=formats or FORMATS)
        framing = Framing(background=background, metadata="nothing")
        treatment = Treatment(framing=framing, aim=aim, by_picture=formats is None)
    except UsageError as error:
        raise click.UsageError(error.message) from error
    folder = OutputFolder(out, photos, replace=replace) if out else None
    has_unreadable = has_unmet = False
    with _pool() as pool, fitting(pool, treatment, _LIMITS) as search:
        for photo in photos:
            try:
                result = _fit(search, photo, len(aim.formats), show=not as_json)
            except LeanParcelError as error:
                has_unreadable = True
                _print_error(photo, error, as_json)
                continue
            has_unmet = has_unmet or result.pick is None
            written = folder.write(result, photo, write_all=write_all) if folder else {}
            if as_json:
                click.echo(json.dumps(_values(photo, result, aim, written)))
            else:
                _print_table(photo, result, aim, written)
    if has_unreadable:
        sys.exit(UNREADABLE_STATUS)
    if has_unmet:
        sys.exit(LIMIT_NOT_MET_STATUS)


@contextmanager
def _pool() -> Iterator[WorkerPool]:
    pool = WorkerPool(PoolSettings())
    try:
        yield pool
    finally:
        pool.shutdown(cancel_futures=True)


def _fit(search: Fitting, photo: Path, formats: int, *, show: bool) -> FileFit:
    data = read_photo(photo, _LIMITS)
    console = Console(stderr=True)
    progress = Progress(
        SpinnerColumn(),
        TextColumn("{task.description}"),
        BarColumn(),
        MofNCompleteColumn(),
        console=console,
        disable=not (show and console.is_terminal),
        transient=True,
    )
    with progress:
        task = progress.add_task(escape(as_text(photo.name)), total=formats)
        result = search.fit(photo.name, data, lambda ended: progress.update(task, completed=ended))
    for name, message in result.failures.items():
        click.echo(as_text(f"{photo}: {name}: {message}"), err=True)
    return result


def _print_error(photo: Path, error: LeanParcelError, as_json: bool) -> None:
    if as_json:
        values = {
            "photo": as_text(str(photo)),
            "error": {"code": error.code, "message": error.message},
        }
        click.echo(json.dumps(values))
    click.echo(as_text(f"{photo}: {error.message}"), err=True)


def _values(photo: Path, result: FileFit, aim: Aim, written: dict[int, Path]) -> dict[str, Any]:
    return {
        "photo": as_text(str(photo)),
        "source": {
            "size_bytes": result.source.size_bytes,
            "width_px": result.source.width_px,
            "height_px": result.source.height_px,
            "format": result.source.format,
        },
        "limit_bytes": aim.limit_bytes,
        "likeness": aim.likeness,
        "place": {
            "size": aim.place.size,
            "density": aim.place.density,
            "pixel_by_pixel": aim.place.pixel_by_pixel,
        },
        "candidates": [
            _candidate_values(offer, written.get(i)) for i, offer in enumerate(result.offers)
        ],
        "pick": result.pick,
    }


def _candidate_values(offer: Offer, file: Path | None) -> dict[str, Any]:
    trial, measured = offer.encode.trial, offer.encode.measured
    settings = settings_values(trial.settings)
    return {
        "format": settings.pop("format"),
        "size_bytes": measured.size_bytes,
        "width_px": trial.width_px,
        "height_px": trial.height_px,
        "settings": settings,
        "likeness": round(measured.likeness, 3),
        "encodes": offer.encodes,
        "encode_ms": round(offer.encode_ms, 1),
        "within_limit": offer.meets_aim,
        "file": str(file) if file else None,
    }


def _print_table(photo: Path, result: FileFit, aim: Aim, written: dict[int, Path]) -> None:
    source = result.source
    console = Console(soft_wrap=True)
    console.print(
        f"{as_text(photo.name)}: {source.width_px} × {source.height_px} px,"
        f" {format_size(source.size_bytes)}; {aim_words(aim)}",
        highlight=False,
    )
    table = Table(box=SIMPLE_HEAD, padding=(0, 1, 0, 0))
    table.add_column("format", no_wrap=True)
    table.add_column("settings")  # alone gives way where a line is short
    for heading in ("pixels", "bytes", "of source", "likeness"):
        table.add_column(heading, justify="right", no_wrap=True)
    table.add_column("", no_wrap=True)
    for index, offer in enumerate(result.offers):
        over = "" if offer.meets_aim else "misses"
        table.add_row(*_row(offer, source.size_bytes), "pick" if index == result.pick else over)
    console.print(table)
    if result.pick is None:
        console.print(_missed(result.offers[0].encode.measured, aim), highlight=False)
    for path in written.values():
        console.print(f"written: {path}", highlight=False)


def _missed(nearest: Measured, aim: Aim) -> str:
    if aim.limit_bytes is None:
        return f"Nothing looks so; the nearest has likeness {likeness_number(nearest.likeness)}."
    smallest = format_size(nearest.size_bytes)
    return f"Nothing fits {format_size(aim.limit_bytes)}; the smallest is {smallest}."


def _row(offer: Offer, source_size_bytes: int) -> list[str]:
    trial, measured = offer.encode.trial, offer.encode.measured
    return [
        "original" if trial.is_pass_through else trial.settings.format,
        setting_words(trial.settings),
        f"{trial.width_px} × {trial.height_px}",
        f"{measured.size_bytes:,}",
        f"{measured.size_bytes / source_size_bytes:.1%}",
        likeness_number(measured.likeness),
    ]
