"""What a run writes beside its files: the packing list, and page code."""

import os
from collections.abc import Sequence
from html import escape
from pathlib import Path

from lean_parcel.core.errors import UsageError
from lean_parcel.core.packing.page_code import html as page_code
from lean_parcel.work.delivery.packing_list import (
    HTML_NAME,
    LIST_NAME,
    PackingList,
    packing_list_html,
    packing_list_json,
    read_packing_list,
)
from lean_parcel.work.packing.files import write_whole
from lean_parcel.work.packing.run import Packed


def write_lists(
    folder: Path,
    packed: Sequence[Packed],
    budget_bytes: int | None,
    html: Path | None,
    *,
    replaces: bool,
) -> None:
    """Writes the packing list of a run, in the place of an earlier one; and page code where a file
    is given for it. Raises FileExistsError for something else in its place that is not to be
    replaced, and OSError."""
    listed = PackingList(
        page=folder.resolve().name,
        budget_bytes=budget_bytes,
        photos=[each.listed for each in packed if each.listed and each.listed.files],
        left_out=[str(each.photo) for each in packed if not each.file],
    )
    _check_list(folder / LIST_NAME, replaces=replaces)
    write_whole(folder / LIST_NAME, packing_list_json(listed).encode())
    write_whole(folder / HTML_NAME, packing_list_html(listed).encode())
    if html:
        if html.exists() and not replaces and not _is_ours(html):
            raise FileExistsError(0, "it is there already; see --replace", str(html))
        write_whole(html, _page(listed, folder, html).encode())


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
_MARK = b'<meta name="generator" content="Lean Parcel">'


def _page(listed: PackingList, folder: Path, html: Path) -> str:
    """Page code for all photos in a page of its own, by addresses relative to it."""
    prefix = Path(os.path.relpath(folder.resolve(), html.resolve().parent)).as_posix()
    prefix = "" if prefix == "." else prefix
    codes = [page_code(photo.handed, prefix) for photo in listed.photos]
    return _HEAD.format(title=escape(listed.page)) + "\n".join([*codes, "</body>", "</html>", ""])


def _check_list(path: Path, *, replaces: bool) -> None:
    if replaces or not path.exists():
        return
    try:
        read_packing_list(path.read_bytes())
    except UsageError as error:
        raise FileExistsError(0, "it is there already; see --replace", str(path)) from error


def _is_ours(html: Path) -> bool:
    return _MARK in html.read_bytes()[:2_000]
