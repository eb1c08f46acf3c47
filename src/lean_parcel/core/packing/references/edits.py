"""Replacing references: edits of a text, gathered in hunks that can be taken one by one. What no
edit names stays to the byte."""

from bisect import bisect_left
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from html import escape
from pathlib import PurePosixPath

from lean_parcel.core.packing.page_code import (
    address,
    attribute_words,
    image_attributes,
    source_elements,
)
from lean_parcel.core.packing.references.finding import FileReference, Names, OldPhoto
from lean_parcel.core.packing.references.html import Tag
from lean_parcel.core.packing.references.zones import Language, tags_of, zones_of

#: Longer lines were not written by hand, and have no indentation.
_LONGEST_LINE = 2_000
_REPLACED_ATTRIBUTES = ("src", "srcset", "sizes", "width", "height")


@dataclass(frozen=True, slots=True, kw_only=True)
class Hunk:
    """Whole lines of a text, from `line` on (the first is 1), before and after; the range that they
    have in it, and the photos whose references are replaced."""

    line: int
    start: int
    end: int
    before: str
    after: str
    photos: tuple[int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Repointed:
    """What can be replaced in a text; names that could be of several old files; and pictures that
    are none of the old files."""

    hunks: tuple[Hunk, ...]
    unclear: tuple[str, ...]
    foreign: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Edit:
    start: int
    end: int
    text: str
    photo: int


def repointed(
    text: str,
    language: Language,
    photos: Sequence[OldPhoto],
    prefix: str = "",
    *,
    as_pictures: bool = False,
) -> Repointed:
    """What can be replaced in a text, so that it names the new files. A path keeps its folders
    unless there is a `prefix` for them. An `img` becomes a `picture` where that is asked for."""
    found = Names(photos).find(text, zones_of(text, language))
    edits = [
        _Edit(*_replacement(reference, photos, prefix), reference.photo)
        for reference in found.references
    ]
    if as_pictures and language == "html":
        edits = _with_pictures(text, edits, photos, prefix)
    return Repointed(hunks=tuple(_hunks(text, edits)), unclear=found.unclear, foreign=found.foreign)


def with_hunks(text: str, hunks: Sequence[Hunk], taken: Collection[int]) -> str:
    """A text with the hunks that were taken, by their indices."""
    pieces, at = [], 0
    for index, hunk in enumerate(hunks):
        pieces += [text[at : hunk.start], hunk.after if index in taken else hunk.before]
        at = hunk.end
    return "".join([*pieces, text[at:]])


def _replacement(
    reference: FileReference, photos: Sequence[OldPhoto], prefix: str
) -> tuple[int, int, str]:
    """The range of a text that is replaced, and by what: a name that is safe anywhere, or an
    address in which all is percent-encoded that could end what it stands in, and `&` is written as
    HTML wants it where that is read first."""
    file = photos[reference.photo].handed.fallback
    if not prefix or reference.keeps_folder:
        return reference.name_start, reference.end, PurePosixPath(file.path).name
    new = address(file, prefix)
    is_html = reference.escapes.startswith("html")
    return reference.start, reference.end, escape(new) if is_html else new


def _with_pictures(
    text: str, edits: list[_Edit], photos: Sequence[OldPhoto], prefix: str
) -> list[_Edit]:
    """Edits in which each `img` whose `src` is replaced becomes a `picture`, but for those that are
    in one."""
    starts = [edit.start for edit in edits]
    kept = []
    done = 0
    for tag in tags_of(text):
        first, last = bisect_left(starts, tag.start), bisect_left(starts, tag.end)
        inside = edits[first:last]
        if tag.name == "img" and not tag.in_picture and (edit := _edit_of_src(text, tag, inside)):
            kept += [*edits[done:first], _picture_edit(text, tag, photos, edit, prefix)]
            done = last
    return [*kept, *edits[done:]]


def _edit_of_src(text: str, tag: Tag, edits: list[_Edit]) -> _Edit | None:
    """The edit of an `src` that names a file itself, and not as a part of a query."""
    for name, _, (start, end) in tag.attributes:
        if name == "src":
            inside = (edit for edit in edits if start <= edit.start < end)
            return next((edit for edit in inside if "?" not in text[start : edit.start]), None)
    return None


def _picture_edit(
    text: str, tag: Tag, photos: Sequence[OldPhoto], edit: _Edit, prefix: str
) -> _Edit:
    """A whole `img` replaced: what it says stays, but for where its files are and how large."""
    handed = photos[edit.photo].handed
    src_start = next(start for name, _, (start, _) in tag.attributes if name == "src")
    before = text[src_start : edit.start].strip()
    if not prefix or before:
        handed, prefix = handed.beside(), before
    given = {name for name, *_ in tag.attributes} - {*_REPLACED_ATTRIBUTES}
    new = image_attributes(handed, prefix)
    if handed.alt_text is not None:
        new["alt"] = handed.alt_text
    own = attribute_words({name: value for name, value in new.items() if name not in given})
    kept = [text[start:end] for name, (start, end), _ in tag.attributes if name in given]
    ending = " />" if text[tag.start : tag.end].endswith("/>") else ">"
    image = f"<img {' '.join([own, *kept])}{ending}"
    sources = source_elements(handed, prefix)
    if not sources:
        return _Edit(tag.start, tag.end, image, edit.photo)
    newline = "\r\n" if "\r\n" in text else "\n"
    indent = _indent(text, tag.start)
    lines = [f"{indent}  {line}" for line in [*sources, image]]
    picture = newline.join(["<picture>", *lines, f"{indent}</picture>"])
    return _Edit(tag.start, tag.end, picture, edit.photo)


def _indent(text: str, at: int) -> str:
    """The white space that the line begins with; none where the line is longer than any."""
    near = max(0, at - _LONGEST_LINE)
    begin = text.rfind("\n", near, at) + 1
    if not begin and near:
        return ""
    line = text[begin:at]
    return line[: len(line) - len(line.lstrip())]


def _hunks(text: str, edits: Sequence[_Edit]) -> Iterator[Hunk]:
    """Edits gathered by the lines that they touch."""
    group: list[_Edit] = []
    start = end = 0
    line, counted = 1, 0
    for edit in [*edits, None]:
        if edit and group and edit.start < end:
            group.append(edit)
            end = _line_end(text, edit.end) if edit.end > end else end
            continue
        if group:
            line, counted = line + text.count("\n", counted, start), start
            yield _hunk(text, group, start, end, line)
        if edit:
            group = [edit]
            start, end = text.rfind("\n", end, edit.start) + 1 or end, _line_end(text, edit.end)


def _line_end(text: str, at: int) -> int:
    end = text.find("\n", at)
    return len(text) if end < 0 else end + 1


def _hunk(text: str, edits: Sequence[_Edit], start: int, end: int, line: int) -> Hunk:
    pieces, at = [], start
    for edit in edits:
        pieces += [text[at : edit.start], edit.text]
        at = edit.end
    return Hunk(
        line=line,
        start=start,
        end=end,
        before=text[start:end],
        after="".join([*pieces, text[at:end]]),
        photos=tuple(dict.fromkeys(edit.photo for edit in edits)),
    )
