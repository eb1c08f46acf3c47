"""What a run writes beside its files: the packing list, and page code."""

import os
from collections.abc import Sequence
from html import escape
from pathlib import Path

from lean_parcel.core.errors import UsageError
from lean_parcel.core.packing.names import as_text, name_key
from lean_parcel.core.packing.page_code import html as page_code
from lean_parcel.work.delivery.packing_list import (
    HTML_NAME,
    LIST_NAME,
    ListedPhoto,
    PackingList,
    is_list_html,
    packing_list_html,
    packing_list_json,
    read_packing_list,
)
from lean_parcel.work.delivery.writing import write_whole
from lean_parcel.work.packing.earlier import Earlier
from lean_parcel.work.packing.run import Packed
from lean_parcel.work.packing.sources import SourceFile, looks_like_a_picture

#: What lists of a run say of which delivery they are: any run into the same folder adds to it.
_PACKED = "packed"


def check_lists(
    folder: Path, html: Path | None, sources: Sequence[SourceFile], *, replaces: bool
) -> None:
    """Looks whether the lists of a run may be written. Raises UsageError `file_in_the_way` for what
    is not of an earlier run, unless it is to be replaced, and for pictures and originals always."""
    for path, is_ours in ((folder / LIST_NAME, _is_our_list), (folder / HTML_NAME, is_list_html)):
        if path.exists() and not replaces and not is_ours(path):
            raise _in_the_way(path)
    if html is None:
        return
    originals = {name_key(source.path.resolve()) for source in sources}
    lists = {name_key((folder / name).resolve()) for name in (LIST_NAME, HTML_NAME)}
    is_never = name_key(html.resolve()) in originals | lists
    if is_never or (html.exists() and looks_like_a_picture(html)):
        message = f"{html} is not written over: page code goes to a file of its own."
        raise UsageError(message, "file_in_the_way")
    if html.exists() and not replaces and not is_list_html(html):
        raise _in_the_way(html)


def write_lists(
    folder: Path,
    sources: Sequence[SourceFile],
    packed: Sequence[Packed],
    budget_bytes: int | None,
    html: Path | None,
    earlier: Earlier,
) -> None:
    """Writes the packing list of all that runs have packed into a folder, this one first; and page
    code for the photos of this one where a file is given for it. Raises OSError."""
    names = {source.path: source.folder / source.path.name for source in sources}
    now = [each.listed for each in packed if each.listed]
    before = list(earlier.beside(now))
    if budget_bytes is not None:
        budget_bytes += sum(photo.fetched.fetched_bytes for photo in before if photo.files)
    listed = PackingList(
        delivery_id=_PACKED,
        page=as_text(folder.resolve().name),
        budget_bytes=budget_bytes,
        photos=[*now, *before],
        left_out=[as_text(str(names[each.photo])) for each in packed if not each.file],
    )
    write_whole(folder / LIST_NAME, packing_list_json(listed).encode())
    write_whole(folder / HTML_NAME, packing_list_html(listed).encode())
    if html:
        write_whole(html, _page(listed.page, now, folder, html).encode())


def _is_our_list(path: Path) -> bool:
    try:
        listed = read_packing_list(path.read_bytes())
    except UsageError:
        return False
    return listed.delivery_id in (None, _PACKED)


def _in_the_way(path: Path) -> UsageError:
    message = f"{path} is there already, and not of an earlier run; see --replace."
    return UsageError(message, "file_in_the_way")


_HEAD = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="generator" content="Lean Parcel">
<title>{title}</title>
<style>img {{ max-width: 100%; height: auto }}</style>
</head>
<body>
"""


def _page(title: str, photos: Sequence[ListedPhoto], folder: Path, html: Path) -> str:
    """Page code for all photos in a page of its own, by addresses relative to it."""
    prefix = Path(os.path.relpath(folder.resolve(), html.resolve().parent)).as_posix()
    prefix = "" if prefix == "." else prefix
    codes = [page_code(photo.handed, prefix) for photo in photos]
    return _HEAD.format(title=escape(title)) + "\n".join([*codes, "</body>", "</html>", ""])
