"""`lean-parcel pack`: the files of many photos, of files and folders, under one treatment."""

import json
import os
import sys
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import click
from rich.console import Console
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

from lean_parcel.cli.shared.parameters import (
    LIMIT_NOT_MET_STATUS,
    UNREADABLE_STATUS,
    DensitiesType,
    FormatsType,
    SizeType,
)
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.packing.names import DEFAULT_PATTERN, as_text, ending_in
from lean_parcel.core.size import format_size
from lean_parcel.work.packing.lists import check_lists, write_lists
from lean_parcel.work.packing.photo import Treating
from lean_parcel.work.packing.record import Record
from lean_parcel.work.packing.run import Packed, PackOptions, PackRun, record_options
from lean_parcel.work.packing.sources import find_sources
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.treatment_file import read_treatment


@click.command("pack")
@click.argument("sources", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option(
    "--out", required=True, type=click.Path(path_type=Path, file_okay=False), help="Write here."
)
@click.option(
    "--treatment",
    type=click.Path(path_type=Path, exists=True, dir_okay=False),
    help="A treatment, as JSON; the options below change it.",
)
@click.option("--limit", type=SizeType(), help="At most these bytes a photo, like 80kB.")
@click.option("--width", type=int, help="CSS pixels across the place.")
@click.option("--density", type=float, help="Device pixels a CSS pixel.")
@click.option("--formats", type=FormatsType(), help="Like jpeg,webp.")
@click.option("--budget", type=SizeType(), help="Share these bytes out over all photos.")
@click.option("--densities", type=DensitiesType(), help="Make files for these too, like 1,2.")
@click.option("--variants", type=FormatsType(), help="Make files in these formats, like avif,jpeg.")
@click.option(
    "--names",
    default=DEFAULT_PATTERN,
    show_default=True,
    help="How files are called, of {name} {width} {density} {format} {hash}.",
)
@click.option("--suffix", default="", help="Ends the names of the files.")
@click.option(
    "--html",
    type=click.Path(path_type=Path, dir_okay=False),
    help="Write page code for all photos here.",
)
@click.option("--keep-tree", is_flag=True, help="Keep the folders.")
@click.option(
    "--jobs", type=click.IntRange(1), help="Photos at a time; as many as there are cores."
)
@click.option("--replace", "replaces", is_flag=True, help="Replace files that are there.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object a line.")
def command(
    sources: tuple[Path, ...],
    out: Path,
    treatment: Path | None,
    limit: int | None,
    width: int | None,
    density: float | None,
    formats: tuple[Format, ...] | None,
    budget: int | None,
    densities: tuple[float, ...] | None,
    variants: tuple[Format, ...] | None,
    names: str,
    suffix: str,
    html: Path | None,
    keep_tree: bool,
    jobs: int | None,
    replaces: bool,
    as_json: bool,
) -> None:
    """Pack the best file of each photo in SOURCES, with its variants and a packing list.

    SOURCES are files and folders; variants are made where --densities or --variants ask for them. A
    run that was cut off goes on where it stopped. Exit status: 0 done, 2 wrong usage, 3 a photo
    that cannot be read (the others are still done), 4 a limit or budget that was not met.
    """
    treating = _treating(treatment, limit, budget, width, density, formats)
    treating, with_variants = _with_variants(treating, densities, variants)
    options = PackOptions(
        treating=treating,
        folder=out,
        jobs=jobs or len(os.sched_getaffinity(0)),
        names=_pattern(names, suffix),
        with_variants=with_variants,
        keeps_tree=keep_tree,
        replaces=replaces,
        budget_bytes=budget,
    )
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise click.UsageError(f"{out} cannot be made: {error.strerror}.") from error
    start = time.monotonic()
    record = Record(out, record_options(options))
    found = find_sources(sources, record.made_before())
    try:
        check_lists(out, html, found.photos, replaces=replaces)
    except UsageError as error:
        raise click.UsageError(error.message) from error
    pool = WorkerPool(PoolSettings(workers=options.jobs))
    try:
        run = PackRun(pool, found.photos, options, record)
        packed = _shown(run, len(found.photos), as_json=as_json)
        write_lists(out, found.photos, packed, budget, html, record)
    except OSError as error:
        raise click.FileError(str(error.filename or out), error.strerror) from error
    finally:
        pool.shutdown(cancel_futures=True)
    if found.passed_over:
        click.echo(f"{found.passed_over} files that are no pictures were passed over.", err=True)
    _print_total(packed, time.monotonic() - start, as_json=as_json)
    sys.exit(_status(packed, budget))


def _treating(
    file: Path | None,
    limit: int | None,
    budget: int | None,
    width: int | None,
    density: float | None,
    formats: tuple[Format, ...] | None,
) -> Treating:
    most_bytes = budget if limit is None else limit
    try:
        if file is None:
            if width is None or most_bytes is None:
                raise click.UsageError("Give a --treatment, or --width and --limit or --budget.")
            framing = Framing(metadata="nothing")
            aim = Aim(place=Place(css_width_px=width), limit_bytes=most_bytes)
        else:
            given = read_treatment(file.read_bytes())
            framing, aim = given.treatment.framing, given.aim
            if width is not None:
                aim = replace(aim, place=Place(css_width_px=width, density=aim.place.density))
            if limit is not None:
                aim = replace(aim, limit_bytes=limit, likeness=None)
        if density is not None:
            aim = replace(aim, place=replace(aim.place, density=density))
        if formats is not None:
            aim = replace(aim, formats=formats)
    except UsageError as error:
        raise click.UsageError(error.message) from error
    return Treating(framing=framing, aim=aim, limits=Limits())


def _with_variants(
    treating: Treating,
    densities: tuple[float, ...] | None,
    formats: tuple[Format, ...] | None,
) -> tuple[Treating, bool]:
    """With the variants that are asked for, by options or the treatment, and whether any are."""
    variants = treating.aim.variants
    try:
        if densities is not None:
            variants = replace(variants, densities=densities)
        if formats is not None:
            variants = replace(variants, formats=formats)
        asked = replace(treating, aim=replace(treating.aim, variants=variants))
    except UsageError as error:
        raise click.UsageError(error.message) from error
    return asked, variants != Variants()


def _pattern(names: str, suffix: str) -> str:
    try:
        return ending_in(names, suffix)
    except UsageError as error:
        raise click.UsageError(error.message) from error


def _shown(run: PackRun, photos: int, *, as_json: bool) -> list[Packed]:
    """Packs, and prints a line for each photo as it is done."""
    console = Console(stderr=True)
    columns = (TextColumn("Packing"), BarColumn(), MofNCompleteColumn(), TimeRemainingColumn())
    packed = []
    with Progress(*columns, console=console, disable=not console.is_terminal) as progress:
        task = progress.add_task("", total=photos)
        for each in run.packed():
            packed.append(each)
            progress.advance(task)
            if each.was_kept:
                click.echo(as_text(f"{each.was_kept} is there already and was kept."), err=True)
            if each.error:
                click.echo(as_text(f"{each.photo}: {each.error.message}"), err=True)
            if as_json:
                click.echo(json.dumps(_values(each)))
            elif each.values:
                click.echo(_line(each))
    return packed


def _values(each: Packed) -> dict[str, Any]:
    values = {name: value for name, value in (each.values or {}).items() if name != "settings"}
    if each.error:
        empty = ("format", "source_bytes", "size_bytes", "width_px", "height_px", "likeness")
        values = {**dict.fromkeys(empty), "within_limit": False}
        values["error"] = {"code": each.error.code, "message": each.error.message}
    files = [file.path for file in each.listed.files] if each.listed else []
    path = str(each.file) if each.file else None
    return {"photo": as_text(str(each.photo)), "file": path, "files": files, **values}


def _line(each: Packed) -> str:
    values = each.values or {}
    sizes = f"{format_size(values['source_bytes'])} to {format_size(values['size_bytes'])}"
    what = f"{values['format']}, likeness {values['likeness']:.1f}"
    over = "" if values["within_limit"] else ", over its limit"
    others = len(each.listed.files) - 1 if each.listed else 0
    more = f", and {others} variants" if others > 0 else ""
    where = f"written: {each.file}{more}" if each.file else "not written"
    return f"{as_text(str(each.photo))}: {sizes} as {what}{over}; {where}"


def _print_total(packed: list[Packed], seconds: float, *, as_json: bool) -> None:
    done = [each.values for each in packed if each.values]
    total = {
        "photos": len(packed),
        "failed": sum(each.error is not None for each in packed),
        "source_bytes": sum(values["source_bytes"] for values in done),
        "size_bytes": sum(values["size_bytes"] for values in done),
        "worst_likeness": min((values["likeness"] for values in done), default=None),
        "seconds": round(seconds, 2),
    }
    if as_json:
        click.echo(json.dumps({"total": total}))
        return
    worst = total["worst_likeness"]
    click.echo(
        f"{total['photos']} photos, {total['failed']} failed:"
        f" {format_size(total['source_bytes'])} to {format_size(total['size_bytes'])}"
        f"{f', worst likeness {worst:.1f}' if worst is not None else ''}, {seconds:.0f} s"
    )


def _status(packed: list[Packed], budget: int | None) -> int:
    if any(each.error for each in packed):
        return UNREADABLE_STATUS
    done = [each.values for each in packed if each.values]
    is_over = budget is not None and sum(values["size_bytes"] for values in done) > budget
    listed = [file for each in packed if each.listed for file in each.listed.files]
    is_met = all(values["within_limit"] for values in done) and all(f.meets_aim for f in listed)
    if is_over or not is_met:
        return LIMIT_NOT_MET_STATUS
    return 0
