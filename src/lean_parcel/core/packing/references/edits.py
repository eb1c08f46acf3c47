"""Replacing references: edits of a text, gathered in hunks that can be taken one by one. What no
edit names stays to the byte."""

import re
from bisect import bisect_left, bisect_right
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from html import escape, unescape
from pathlib import PurePosixPath

from lean_parcel.core.packing.names import CONTROL
from lean_parcel.core.packing.page_code import (
    address,
    attribute_words,
    image_attributes,
    source_elements,
)
from lean_parcel.core.packing.references.finding import FileReference, Mention, Names, OldPhoto
from lean_parcel.core.packing.references.html import Tag
from lean_parcel.core.packing.references.zones import Language, tags_of, zones_of

#: Longer lines were not written by hand, and have no indentation.
_LONGEST_LINE = 2_000
_REPLACED_ATTRIBUTES = ("src", "srcset", "sizes", "width", "height")


@dataclass(frozen=True, slots=True, kw_only=True)
class Hunk:
    """Whole lines of a text, from `line` on (the first is 1), before and after; the range that they
    have in it, and the photos whose references are replaced. One that `is_literal` replaces names
    that may be no references."""

    line: int
    start: int
    end: int
    before: str
    after: str
    photos: tuple[int, ...]
    is_literal: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """What somebody should know of a replaced reference, and its line."""

    line: int
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundAltText:
    """What a text says that a photo shows, where nothing was written for it yet."""

    photo: int
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Repointed:
    """What can be replaced in a text; photos that are `mentioned` on lines that are replaced, too;
    notes on what is replaced; alternative texts for photos that have none; names that could be of
    several old files; and pictures that are none of the old files."""

    hunks: tuple[Hunk, ...]
    mentioned: tuple[int, ...]
    notes: tuple[Note, ...]
    alt_texts: tuple[FoundAltText, ...]
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
    notes = tuple(_notes(text, edits, photos, as_pictures)) if language == "html" else ()
    alt_texts = tuple(_alt_texts(text, edits, photos)) if language == "html" else ()
    if as_pictures and language == "html":
        edits = _with_pictures(text, edits, photos, prefix)
    sure = list(_hunks(text, edits))
    plain = _hunks(text, [_plain(mention, photos) for mention in found.mentions])
    literal = [replace(hunk, is_literal=True) for hunk in plain]
    ends = [hunk.end for hunk in sure]
    apart = [each for each in literal if not _touches(each, sure, ends)]
    beside = (photo for each in literal if _touches(each, sure, ends) for photo in each.photos)
    return Repointed(
        hunks=tuple(sorted([*sure, *apart], key=lambda hunk: hunk.start)),
        mentioned=tuple(dict.fromkeys(beside)),
        notes=notes,
        alt_texts=alt_texts,
        unclear=found.unclear,
        foreign=found.foreign,
    )


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


def _plain(mention: Mention, photos: Sequence[OldPhoto]) -> _Edit:
    new = PurePosixPath(photos[mention.photo].handed.fallback.path).name
    return _Edit(mention.start, mention.end, new, mention.photo)


def _touches(one: Hunk, others: Sequence[Hunk], ends: Sequence[int]) -> bool:
    """Whether a hunk has a line in common with one of others, which are in order, by their ends."""
    following = bisect_right(ends, one.start)
    return following < len(others) and others[following].start < one.end


def _notes(
    text: str, edits: Sequence[_Edit], photos: Sequence[OldPhoto], as_pictures: bool
) -> Iterator[Note]:
    """Links to pictures themselves, which go to the new file now; and sides of an `img` that are
    not in the proportions of the new file, unless it becomes a `picture`, which has its own."""
    line, counted = 1, 0
    starts = [edit.start for edit in edits]
    for tag in tags_of(text):
        for edit in edits[bisect_left(starts, tag.start) : bisect_left(starts, tag.end)]:
            photo = photos[edit.photo]
            if tag.name == "a" and _is_in(tag, "href", edit):
                new = photo.handed.fallback
                words = (
                    f"a link to {photo.name} itself goes to {PurePosixPath(new.path).name} now, of"
                    f" {new.width_px} × {new.height_px} pixels"
                )
            elif tag.name == "img" and not as_pictures and _is_in(tag, "src", edit):
                sides, handed = _sides(text, tag), photo.handed
                if not sides or _are_alike(sides, (handed.css_width_px, handed.css_height_px)):
                    continue
                words = (
                    f"width and height are {sides[0]} and {sides[1]}, but the new {photo.name} is"
                    f" {handed.css_width_px} × {handed.css_height_px}"
                )
            else:
                continue
            line, counted = line + text.count("\n", counted, edit.start), edit.start
            yield Note(line=line, words=words)


def _alt_texts(
    text: str, edits: Sequence[_Edit], photos: Sequence[OldPhoto]
) -> Iterator[FoundAltText]:
    """What each `img` says of a photo that has no alternative text, the first of each photo."""
    starts = [edit.start for edit in edits]
    known = {number for number, photo in enumerate(photos) if photo.handed.alt_text is not None}
    for tag in tags_of(text):
        alt = " ".join(unescape(_value(text, tag, "alt")).split())
        if tag.name != "img" or not alt or CONTROL.search(alt):
            continue
        inside = edits[bisect_left(starts, tag.start) : bisect_left(starts, tag.end)]
        for edit in inside:
            if edit.photo not in known and _is_in(tag, "src", edit):
                known.add(edit.photo)
                yield FoundAltText(photo=edit.photo, text=alt)


def _value(text: str, tag: Tag, attribute: str) -> str:
    values = (text[slice(*value)] for name, _, value in tag.attributes if name == attribute)
    return next(values, "")


def _is_in(tag: Tag, attribute: str, edit: _Edit) -> bool:
    """Whether an edit is in the value of an attribute."""
    values = (value for name, _, value in tag.attributes if name == attribute)
    return any(start <= edit.start < end for start, end in values)


def _sides(text: str, tag: Tag) -> tuple[int, int] | None:
    """Width and height of an element, where it has both as whole pixels."""
    values = {name: text[slice(*value)] for name, _, value in tag.attributes}
    width, height = (values.get(name, "").strip() for name in ("width", "height"))
    if not (re.fullmatch(r"[0-9]{1,5}", width) and re.fullmatch(r"[0-9]{1,5}", height)):
        return None
    return int(width), int(height)


def _are_alike(one: tuple[int, int], other: tuple[int, int]) -> bool:
    """Whether two sizes have the same proportions, but for rounding."""
    return abs(one[0] * other[1] - one[1] * other[0]) <= max(*one, *other)


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
