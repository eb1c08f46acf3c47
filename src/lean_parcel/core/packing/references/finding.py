"""Which old file each reference names.

A reference is a path that ends with the name of an old file, as a whole: `cup.jpg` is not named by
`red-cup.jpg`, nor by `cup.jpg.webp`. Where several old files have the same name, the one whose
folders agree with the path is meant; where they do not tell, none is.

A name that stands anywhere else as a whole, in what no reader of a language takes for a reference,
is a *mention*: it may be one, and only a person knows.
"""

import re
import unicodedata
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from heapq import merge
from pathlib import PurePosixPath
from urllib.parse import unquote

from lean_parcel.core.formats import FORMAT_OF_EXTENSION
from lean_parcel.core.packing.handed import HandedPhoto
from lean_parcel.core.packing.references.decoding import Decoded, decoded
from lean_parcel.core.packing.references.zones import Escapes, Zone

_QUOTES = "\"'`"
#: What stands before a path, and after a file's name.
_BEFORE, _AFTER = _QUOTES + "(=,<>|{[\n\t", _QUOTES + ")?#,;&<>|]}\\\n\t"
_EXTENSION = "|".join(extension[1:] for extension in FORMAT_OF_EXTENSION)
#: What a path may be made of, and the end of a picture's name in it.
_RUN = re.compile(r"[^\s\"'`()\[\]{}<>,;=|?#&]++")
_PICTURE_END = re.compile(rf"(?<=.)\.(?:{_EXTENSION})(?![\w.%-])", re.IGNORECASE | re.DOTALL)
#: The end of an entry of a list such as `srcset`, before a space.
_ENTRY = re.compile(rf"(?:,|\d[wx]|\.(?:{_EXTENSION}|svg)(?:\?\S*+)?+)$", re.IGNORECASE)
_DESCRIPTOR = re.compile(r"[ \n\t]++(?:\d++(?:\.\d++)?[wxh]\b|,|$|[\"'`)>]|url\(|[^\s,]+[./])")
#: What a name is made of where nothing is known of the language, and what ends one.
_APART = r"\s\"'`()\[\]{}<>=,;:|/\\?#&"
_WORD = re.compile(rf"[^{_APART}]++")
_BREAK = re.compile(r"[\s\"'`()\[\]{}<>=,;|]")
#: More characters than a path has, or an entry.
_LONGEST = 1_000


@dataclass(frozen=True, slots=True, kw_only=True)
class OldPhoto:
    """A photo as the site has it: name, folder and bytes of its file; and what takes its place."""

    name: str
    folder: str
    size_bytes: int
    handed: HandedPhoto


@dataclass(frozen=True, slots=True, kw_only=True)
class FileReference:
    """A path in a text that names the old photo with this index: the range of all of the path, and
    that of the name in it, and how characters are escaped there. One that `keeps_folder` names a
    site, or is put together by code."""

    photo: int
    start: int
    name_start: int
    end: int
    escapes: Escapes
    keeps_folder: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Mention:
    """A range of a text that is the name of the old photo with this index, and may be no reference
    to it."""

    photo: int
    start: int
    end: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundNames:
    """References and mentions, in order; names that several old files have, without telling which;
    and pictures that the text names and that are none of the old files."""

    references: tuple[FileReference, ...]
    mentions: tuple[Mention, ...]
    unclear: tuple[str, ...]
    foreign: tuple[str, ...]


class Names:
    """The names of old photos, ready to be looked for."""

    def __init__(self, photos: Sequence[OldPhoto]) -> None:
        self._by_name: dict[str, list[tuple[int, tuple[str, ...]]]] = {}
        for index, photo in enumerate(photos):
            folders = _parts(unicodedata.normalize("NFC", photo.folder))
            name = unicodedata.normalize("NFC", photo.name)
            self._by_name.setdefault(name, []).append((index, folders))
        longest_first = sorted(self._by_name, key=len, reverse=True)
        self._pattern = re.compile("|".join(map(re.escape, longest_first)) or r"(?!)")
        odd = [name for name in longest_first if not _WORD.fullmatch(name)]
        self._odd = re.compile(
            rf"(?<![^{_APART}])(?:{'|'.join(map(re.escape, odd))})(?![^{_APART}])"
            if odd
            else r"(?!)"
        )
        self._new = frozenset(
            PurePosixPath(file.path).name for photo in photos for file in photo.handed.files
        )

    def find(self, text: str, zones: Sequence[Zone]) -> FoundNames:
        """What zones of a text name."""
        references: list[FileReference] = []
        unclear: dict[str, None] = {}
        foreign: dict[str, None] = {}
        for zone in zones:
            inside = decoded(text[zone.start : zone.end], zone.escapes)
            paths = _Paths(inside)
            ends = set()
            for found in self._named(inside):
                ends.add(found.end())
                path_start = paths.start(found.start(), found.end())
                folder_start = max(path_start, found.start() - _LONGEST)
                photo = self._meant(found[0], inside.text[folder_start : found.start()])
                if photo is None:
                    unclear[found[0]] = None
                    continue
                references.append(_reference(zone, inside, photo, path_start, found))
            for start, end in _pictures(inside.text):
                name = inside.text[start:end].rpartition("/")[2]
                if end not in ends and name not in self._new:
                    foreign[inside.text[start:end]] = None
        mentions: list[Mention] = []
        path_start = seen = 0
        for start, end, name in self._words(text, references):
            for gap in _BREAK.finditer(text, seen, start):
                path_start = gap.end()
            photo = self._meant(name, text[max(path_start, start - _LONGEST) : start])
            path_start = seen = end
            if photo is None:
                unclear[name] = None
            else:
                mentions.append(Mention(photo=photo, start=start, end=end))
        return FoundNames(
            references=tuple(references),
            mentions=tuple(mentions),
            unclear=tuple(unclear),
            foreign=tuple(foreign),
        )

    def _words(
        self, text: str, references: Sequence[FileReference]
    ) -> Iterator[tuple[int, int, str]]:
        """Names that stand as a whole anywhere but in references, in order, with their ranges."""
        ends = [each.end for each in references]
        words = merge(self._odd.finditer(text), _WORD.finditer(text), key=re.Match.start)
        at = 0
        for found in words:
            word = found[0].rstrip(".")
            start, end = found.start(), found.start() + len(word)
            name = unquote(word) if "%" in word else word
            name = name if name.isascii() else unicodedata.normalize("NFC", name)
            if name not in self._by_name or start < at:
                continue
            following = bisect_right(ends, start)
            if following == len(ends) or references[following].name_start >= end:
                yield start, end, name
                at = end

    def _named(self, inside: Decoded) -> Iterator[re.Match[str]]:
        at = 0
        while found := self._pattern.search(inside.text, at):
            is_whole = _begins(inside, found.start()) and _ends(inside, found.end())
            if is_whole:
                yield found
            at = found.end() if is_whole else found.start() + 1

    def _meant(self, name: str, folder: str) -> int | None:
        """The photo of a name whose folders agree with most of the path; None if several do."""
        path = _parts(folder)
        scored = [(_agreeing(path, folders), index) for index, folders in self._by_name[name]]
        best = max(score for score, _ in scored)
        meant = [index for score, index in scored if score == best]
        return meant[0] if len(meant) == 1 else None


def _reference(
    zone: Zone, inside: Decoded, photo: int, path_start: int, found: re.Match[str]
) -> FileReference:
    path = inside.text[path_start : min(found.start(), path_start + _LONGEST)]
    is_put_together = zone.after_code and path_start == 0
    is_absolute = path.startswith("//") or "://" in path
    return FileReference(
        photo=photo,
        start=zone.start + inside.starts[path_start],
        name_start=zone.start + inside.starts[found.start()],
        end=zone.start + inside.ends[found.end() - 1],
        escapes=zone.escapes,
        keeps_folder=is_put_together
        or is_absolute
        or any(inside.is_encoded[path_start : found.start()]),
    )


def _begins(inside: Decoded, at: int) -> bool:
    """Whether a file's name begins here."""
    if at == 0:
        return True
    before = inside.text[at - 1]
    if before in "/\\":
        return True
    if inside.is_encoded[at - 1]:
        return False
    return before in _BEFORE or (before == " " and _is_after_an_entry(inside.text, at))


def _ends(inside: Decoded, at: int) -> bool:
    """Whether a file's name ends here."""
    if at == len(inside.text):
        return True
    after = inside.text[at]
    if inside.is_encoded[at]:
        return after in "?#&"
    return after in _AFTER or (after == " " and _DESCRIPTOR.match(inside.text, at) is not None)


def _is_after_an_entry(text: str, at: int) -> bool:
    """Whether a space before this place separates it from another entry, or from nothing."""
    trimmed = text[max(0, at - _LONGEST) : at].rstrip(" \n\t")
    return not trimmed or trimmed[-1] in _BEFORE or _ENTRY.search(trimmed) is not None


def _pictures(text: str) -> Iterator[tuple[int, int]]:
    """Where paths stand that end with the name of a picture."""
    for run in _RUN.finditer(text):
        ends = [end.end() for end in _PICTURE_END.finditer(text, *run.span())]
        if ends:
            yield run.start(), ends[-1]


class _Paths:
    """Where the paths of a text begin that end with names, which are asked for in order."""

    def __init__(self, inside: Decoded) -> None:
        self._inside = inside
        self._start = self._seen = 0

    def start(self, name_start: int, name_end: int) -> int:
        """Where the path begins that ends with this name."""
        text, is_encoded = self._inside.text, self._inside.is_encoded
        for at in range(self._seen, name_start):
            if not is_encoded[at] and (text[at] in _BEFORE or text[at] == " "):
                self._start = at + 1
        start = self._start
        self._start = self._seen = name_end
        return start


def _parts(folder: str) -> tuple[str, ...]:
    return tuple(part for part in re.split(r"[/\\]", folder) if part not in ("", ".", ".."))


def _agreeing(path: tuple[str, ...], folders: tuple[str, ...]) -> int:
    """How many of the last folders are the same."""
    pairs = zip(reversed(path), reversed(folders), strict=False)
    count = 0
    for one, other in pairs:
        if one != other:
            break
        count += 1
    return count
