"""`lean-parcel repoint`: references to old files replaced by those of a packing list."""

import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

from lean_parcel.cli.shared.parameters import UNREADABLE_STATUS
from lean_parcel.core.errors import UsageError
from lean_parcel.core.packing.names import as_text
from lean_parcel.core.packing.page_code import checked_prefix
from lean_parcel.core.packing.references.finding import OldPhoto
from lean_parcel.core.size import format_size
from lean_parcel.work.delivery.packing_list import read_packing_list
from lean_parcel.work.delivery.repointing import (
    GUESSED,
    RepointedFile,
    diff_of,
    leftovers,
    repoint_file,
    write_text,
)


@click.command("repoint")
@click.argument("packing_list", type=click.Path(path_type=Path, exists=True, dir_okay=False))
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--write", is_flag=True, help="Change the files, each as a whole.")
@click.option("--pictures", "as_pictures", is_flag=True, help="Make a picture of each img.")
@click.option("--prefix", help="Where the new files are; the folders stay as they are without.")
@click.option("--literal", is_flag=True, help="Take names that may be no references, too.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object.")
def command(
    packing_list: Path,
    files: tuple[Path, ...],
    write: bool,
    as_pictures: bool,
    prefix: str | None,
    literal: bool,
    as_json: bool,
) -> None:
    """Point FILES of a site to the files of PACKING_LIST.

    FILES are texts of any kind; HTML, CSS, JavaScript, Markdown and JSON are understood. In others,
    and in comments and words, whole names may be references: they are told, and taken only with
    --literal. Prints a unified diff; nothing is changed without --write, and nothing is ever
    deleted. What was not found, and old files that nothing
    names any more, are told on stderr. Exit status: 0 done, 2 wrong usage, 3 a file that cannot be
    read or written (the others are still done).
    """
    try:
        listed = read_packing_list(packing_list.read_bytes())
    except UsageError as error:
        raise click.UsageError(error.message) from error
    photos = listed.old_photos()
    try:
        where = listed.path_prefix if prefix is None else checked_prefix(prefix)
    except UsageError as error:
        raise click.UsageError(error.message) from error
    done, errors = [], {}
    for path in dict.fromkeys(files):
        try:
            each = repoint_file(path, photos, where, as_pictures=as_pictures, takes_literal=literal)
            if write and each.hunks:
                write_text(each.file, each.after)
        except UsageError as error:
            errors[str(path)] = error.message
        except OSError as error:
            errors[str(path)] = f"{path} cannot be written: {error.strerror}."
        else:
            done.append(each)
    if as_json:
        click.echo(json.dumps(_values(photos, done, errors, is_written=write)))
    else:
        _tell(photos, done, errors)
    sys.exit(UNREADABLE_STATUS if errors else 0)


def _tell(photos: list[OldPhoto], done: list[RepointedFile], errors: dict[str, str]) -> None:
    for each in done:
        click.echo(diff_of(each), nl=False)
    for message in errors.values():
        _say(message)
    left = leftovers(photos, done)
    for each in done:
        _tell_of_file(photos, each)
    nothing = "nothing that was read" if errors else "nothing"
    for photo in left.never:
        _say(f"{_name(photo)}: {nothing} names it.")
    for photo in left.mentioned:
        _say(f"{_name(photo)}: still named; whether that is a reference is for you to say.")
    for photo in left.no_more:
        size = format_size(photo.size_bytes)
        _say(f"{_name(photo)}: {nothing} names it any more, {size}.")
    if errors:
        _say(f"Not read, so nothing is known of them: {', '.join(errors)}.")


def _tell_of_file(photos: list[OldPhoto], each: RepointedFile) -> None:
    if each.file.encoding == GUESSED:
        _say(f"{each.file.path}: no UTF-8, so names with letters beyond a to z may be missed.")
    for hunk in each.mentions:
        _say(
            f"{each.file.path}:{hunk.line}: {_names(photos, hunk.photos)} stands here, and may be"
            " no reference: --literal takes it."
        )
    for note in each.found.notes:
        _say(f"{each.file.path}:{note.line}: {note.words}.")
    for name in each.found.unclear:
        _say(f"{each.file.path}: {name} could be one of several photos.")
    for name in each.found.foreign:
        _say(f"{each.file.path}: {name} is not in the packing list.")


def _say(sentence: str) -> None:
    click.echo(as_text(sentence), err=True)


def _values(
    photos: list[OldPhoto],
    done: list[RepointedFile],
    errors: dict[str, str],
    *,
    is_written: bool,
) -> dict[str, Any]:
    left = leftovers(photos, done)
    return {
        "files": [
            {
                "file": str(each.file.path),
                "diff": diff_of(each),
                "is_written": is_written and bool(each.hunks),
                "mentions": [
                    {"line": hunk.line, "photos": [_name(photos[i]) for i in hunk.photos]}
                    for hunk in each.mentions
                ],
                "notes": [asdict(note) for note in each.found.notes],
                "unclear": list(each.found.unclear),
                "foreign": list(each.found.foreign),
            }
            for each in done
        ],
        "errors": [{"file": path, "message": message} for path, message in errors.items()],
        "still_mentioned": [_photo(photo) for photo in left.mentioned],
        "never_named": [_photo(photo) for photo in left.never],
        "no_more_named": [_photo(photo) for photo in left.no_more],
    }


def _photo(photo: OldPhoto) -> dict[str, Any]:
    return {"file": _name(photo), "size_bytes": photo.size_bytes}


def _names(photos: list[OldPhoto], indices: tuple[int, ...]) -> str:
    return ", ".join(_name(photos[index]) for index in indices)


def _name(photo: OldPhoto) -> str:
    return f"{photo.folder}/{photo.name}" if photo.folder else photo.name
