"""`lean-parcel pack`: the files of many photos, of files and folders, under one treatment."""

import json
import os
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
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
    LooksType,
    SizeType,
    likeness_of,
    size_of,
    size_option,
    width_option,
)
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.errors import LeanParcelError, UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.levels import NO_CHANGE, likeness_number
from lean_parcel.core.original.source import Limits
from lean_parcel.core.packing.names import DEFAULT_PATTERN, as_text, ending_in
from lean_parcel.core.size import format_size
from lean_parcel.work.packing.earlier import Earlier
from lean_parcel.work.packing.lists import check_lists, write_lists
from lean_parcel.work.packing.run import Packed, PackOptions, PackRun
from lean_parcel.work.packing.sources import find_sources
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.treatment_file import read_treatment
from lean_parcel.work.workspace import Workspace

WORKSPACE_NAME = ".lean-parcel.sqlite3"
#: What can be made again may take so much of the disk while a run goes on.
_ROOM_BYTES = 300_000_000


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
@click.option(
    "--likeness",
    type=LooksType(),
    help="No more bytes than it takes to look so, like 90, or best. By default no visible change.",
)
@size_option
@width_option
@click.option("--density", type=float, help="Device pixels a CSS pixel.")
@click.option(
    "--formats", type=FormatsType(), help="Like jpeg,webp; by default those that suit the picture."
)
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
    likeness: float | str | None,
    size: str | None,
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
    options = PackOptions(
        treatment=_treatment(
            treatment,
            limit,
            likeness,
            budget,
            size_of(size, width),
            density,
            formats,
            densities,
            variants,
        ),
        folder=out,
        jobs=jobs or len(os.sched_getaffinity(0)),
        names=_pattern(names, suffix),
        keeps_tree=keep_tree,
        replaces=replaces,
        budget_bytes=budget,
    )
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise click.UsageError(f"{out} cannot be made: {error.strerror}.") from error
    start = time.monotonic()
    earlier = Earlier(out)
    found = find_sources(sources, earlier.made())
    try:
        check_lists(out, html, found.photos, replaces=replaces)
    except UsageError as error:
        raise click.UsageError(error.message) from error
    try:
        with _workspace(out, options.jobs) as workspace:
            run = PackRun(workspace, found.photos, options, earlier)
            packed = _shown(run, len(found.photos), as_json=as_json)
        write_lists(out, found.photos, packed, budget, html, earlier)
    except OSError as error:
        raise click.FileError(str(error.filename or out), error.strerror) from error
    if found.passed_over:
        click.echo(f"{found.passed_over} files that are no pictures were passed over.", err=True)
    _print_total(packed, time.monotonic() - start, as_json=as_json)
    sys.exit(_status(packed, budget))


@contextmanager
def _workspace(out: Path, jobs: int) -> Iterator[Workspace]:
    """The workspace of all runs into a folder, which lies hidden in it."""
    pool = WorkerPool(PoolSettings(workers=jobs))
    try:
        workspace = Workspace(
            out / WORKSPACE_NAME,
            pool,
            Limits(),
            slots=jobs,
            room_bytes=_ROOM_BYTES,
            is_looked_at=False,
        )
        try:
            yield workspace
            workspace.room_keeping.reclaim(forgets_removed=False)
        finally:
            workspace.close()
    except LeanParcelError as error:
        raise click.ClickException(error.message) from error
    finally:
        pool.shutdown(cancel_futures=True)


def _treatment(
    file: Path | None,
    limit: int | None,
    likeness: float | str | None,
    budget: int | None,
    size: str | None,
    density: float | None,
    formats: tuple[Format, ...] | None,
    densities: tuple[float, ...] | None,
    variants: tuple[Format, ...] | None,
) -> Treatment:
    """What is done to every photo: a treatment, or one file a photo, with what options change."""
    try:
        if file is None:
            most_bytes = budget if limit is None else limit
            if size is None or (most_bytes is None and likeness is None):
                raise click.UsageError(
                    "Give a --treatment, or --size or --width, and --limit, --budget or --likeness."
                )
            framing = Framing(metadata="nothing")
            aim = Aim(
                place=Place(size=size),
                limit_bytes=most_bytes,
                likeness=NO_CHANGE,
                variants=Variants(formats=() if densities is None else None, rule="same"),
            )
        else:
            given = read_treatment(file.read_bytes())
            framing, aim = given.treatment.framing, given.aim
        aim = replace(
            aim,
            place=replace(aim.place, **_given(size=size, density=density)),
            variants=replace(aim.variants, **_given(densities=densities, formats=variants)),
            likeness=aim.likeness if likeness is None else likeness_of(likeness),
            **_given(limit_bytes=limit, formats=formats),
        )
        by_picture = file is None and formats is None
        return Treatment(framing=framing, aim=aim, by_picture=by_picture)
    except UsageError as error:
        raise click.UsageError(error.message) from error


def _given(**options: Any) -> dict[str, Any]:
    """The options that were given."""
    return {name: value for name, value in options.items() if value is not None}


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
            elif line := _line(each):
                click.echo(line)
    return packed


def _values(each: Packed) -> dict[str, Any]:
    best, source = each.best, each.source
    values: dict[str, Any] = {
        "photo": as_text(str(each.photo)),
        "file": str(each.file) if each.file else None,
        "files": [file.path for file in each.listed.files] if each.listed else [],
        "format": best.trial.settings.format if best else None,
        "source_bytes": source.size_bytes if source else None,
        "size_bytes": best.measured.size_bytes if best else None,
        "width_px": best.trial.width_px if best else None,
        "height_px": best.trial.height_px if best else None,
        "likeness": round(best.measured.likeness, 3) if best else None,
        "within_limit": each.meets_aim,
    }
    if each.error:
        values["error"] = {"code": each.error.code, "message": each.error.message}
    return values


def _line(each: Packed) -> str:
    """A photo that was packed; empty for one that could not be."""
    best, source = each.best, each.source
    if best is None or source is None:
        return ""
    sizes = f"{format_size(source.size_bytes)} to {format_size(best.measured.size_bytes)}"
    what = f"{best.trial.settings.format}, likeness {likeness_number(best.measured.likeness)}"
    missed = "" if each.meets_aim else ", misses its aim"
    others = len(each.listed.files) - 1 if each.listed else 0
    more = f", and {others} variants" if others > 0 else ""
    where = f"written: {each.file}{more}" if each.file else "not written"
    return f"{as_text(str(each.photo))}: {sizes} as {what}{missed}; {where}"


def _print_total(packed: list[Packed], seconds: float, *, as_json: bool) -> None:
    measured = [each.best.measured for each in packed if each.best]
    worst = min((round(each.likeness, 3) for each in measured), default=None)
    failed = sum(each.error is not None for each in packed)
    source_bytes = sum(each.source.size_bytes for each in packed if each.source)
    size_bytes = sum(each.fetched_bytes for each in packed)
    if as_json:
        total = {
            "photos": len(packed),
            "failed": failed,
            "source_bytes": source_bytes,
            "size_bytes": size_bytes,
            "worst_likeness": worst,
            "seconds": round(seconds, 2),
        }
        click.echo(json.dumps({"total": total}))
        return
    looks = "" if worst is None else f", worst likeness {likeness_number(worst)}"
    photos = "1 photo" if len(packed) == 1 else f"{len(packed)} photos"
    click.echo(
        f"{photos}, {failed} failed: {format_size(source_bytes)} to {format_size(size_bytes)}"
        f"{looks}, {seconds:.0f} s"
    )


def _status(packed: list[Packed], budget: int | None) -> int:
    if any(each.error for each in packed):
        return UNREADABLE_STATUS
    spent = sum(each.fetched_bytes for each in packed)
    is_over = budget is not None and spent > budget
    listed = [file for each in packed if each.listed for file in each.listed.files]
    is_met = all(each.meets_aim for each in packed) and all(file.meets_aim for file in listed)
    return LIMIT_NOT_MET_STATUS if is_over or not is_met else 0
