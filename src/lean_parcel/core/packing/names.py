"""Names under which files leave the workspace: safe for every file system and in every URL.

A name has lower-case ASCII letters, digits, hyphens, underscores and `@` before its extension, as
Unicode names are transliterated (python-slugify). It is never hidden, never one that Windows keeps
for devices, and no longer than 110 characters.
"""

import re
import unicodedata
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from pathlib import PurePath, PurePosixPath
from string import Formatter
from typing import TypeVar

from slugify import slugify

from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import EXTENSIONS, FORMAT_OF_EXTENSION, Format

_Path = TypeVar("_Path", bound=PurePath)
DEFAULT_PATTERN = "{name}-{width}"
#: What a pattern can have, and what each stands for.
PATTERN_FIELDS = {
    "name": "the name of the photo",
    "width": "the width in pixels",
    "density": "the density, like 2x",
    "format": "the format",
    "hash": "eight digits that change with the file",
}
_MAX_PATTERN = 120
_MAX_STEM = 100
_MAX_NAME = 80
_MAX_DEPTH = 8
_NOT_SAFE = r"[^A-Za-z0-9_@-]+"
#: C0 and C1 controls, and those that turn the direction of writing (Unicode 16.0, 23.2).
CONTROL = re.compile(r"[\x00-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]")
_SAFE_PART = re.compile(r"[A-Za-z0-9_@-]+")
#: "Naming Files, Paths, and Namespaces" in Microsoft's documentation of Win32.
_DEVICE = re.compile(r"(con|prn|aux|nul|com[0-9]|lpt[0-9])", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class FileFacts:
    """What the name of a file is made of; `sha256` is in hex, and changes with the file."""

    photo_name: str
    format: Format
    width_px: int
    density: float
    sha256: str


def checked_pattern(pattern: str) -> str:
    """A pattern for names. Raises UsageError `invalid_pattern` for fields that there are not."""
    try:
        parsed = list(Formatter().parse(pattern))
    except ValueError:
        parsed = [("", "", "!", None)]
    is_plain = all(not spec and not conversion for _, name, spec, conversion in parsed if name)
    fields = {name for _, name, _, _ in parsed if name is not None}
    if not (is_plain and fields <= set(PATTERN_FIELDS) and 0 < len(pattern) <= _MAX_PATTERN):
        known = " ".join(f"{{{name}}}" for name in PATTERN_FIELDS)
        raise UsageError(f"A pattern is text with any of {known}.", "invalid_pattern")
    return pattern


def ending_in(pattern: str, suffix: str) -> str:
    """A pattern whose names end in a text as well; raises as `checked_pattern` does."""
    plain = suffix.replace("{", "{{").replace("}", "}}")
    return checked_pattern(f"{pattern}-{plain}" if plain else pattern)


def file_name(facts: FileFacts, pattern: str = DEFAULT_PATTERN) -> str:
    """A safe name by a pattern: `Röte Tasse.jpg` as AVIF becomes `rote-tasse-1000.avif`."""
    text = pattern.format(
        name=_slug_of_photo(facts.photo_name),
        width=facts.width_px,
        density=f"{facts.density:g}x",
        format=facts.format,
        hash=facts.sha256[:8],
    )
    return f"{_safe_stem(text)}{EXTENSIONS[facts.format][0]}"


def own_name(text: str, name: Format) -> str:
    """A name that a person wrote for a file, made safe, with the extension of its format. Raises
    UsageError `invalid_file_name` where nothing of it is left."""
    path = PurePosixPath(text.strip())
    stem = path.stem if path.suffix.lower() in FORMAT_OF_EXTENSION else path.name
    if not slugify(stem):
        raise UsageError("A file name has letters or digits.", "invalid_file_name")
    return f"{_safe_stem(stem)}{EXTENSIONS[name][0]}"


def is_safe_path(path: str) -> bool:
    """Whether a path below a delivery is one that is given here: of safe folders, and a safe name
    with the extension of a format."""
    *folders, name = path.split("/")
    stem, dot, extension = name.rpartition(".")
    is_ours = f".{extension}" in FORMAT_OF_EXTENSION and dot == "."
    return is_ours and all(_SAFE_PART.fullmatch(part) for part in (*folders, stem))


def name_key(path: PurePath) -> str:
    """What two paths have in common that name one file somewhere: on some disks, upper and lower
    case are the same, and so are the normal forms of Unicode."""
    return unicodedata.normalize("NFC", str(path)).casefold()


def safe_folder(folder: str) -> str:
    """A folder below that of a delivery, each of its parts made safe; empty for none."""
    parts = (slugify(part, max_length=_MAX_NAME) for part in re.split(r"[/\\]", folder))
    return "/".join([_not_a_device(part) for part in parts if part][:_MAX_DEPTH])


def as_text(name: str) -> str:
    """A name that came from anywhere, as text that may be shown: what is no UTF-8, and what steers
    a terminal, is replaced."""
    decoded = " ".join(name.encode(errors="surrogateescape").decode(errors="replace").splitlines())
    return CONTROL.sub("\N{REPLACEMENT CHARACTER}", decoded)


def css_class(photo_name: str) -> str:
    """A class for a photo in CSS, which begins with a letter."""
    slug = _slug_of_photo(photo_name)
    return slug if slug[0].isalpha() else f"photo-{slug}"


def all_different(paths: Iterable[str], taken: Collection[str]) -> list[str]:
    """Paths of files, numbered where another one, or one that is `taken`, has the same; upper and
    lower case are the same."""
    seen = {path.casefold() for path in taken}
    different = []
    for path in paths:
        free = str(numbered(PurePosixPath(path), lambda each: str(each).casefold() in seen))
        seen.add(free.casefold())
        different.append(free)
    return different


def numbered(path: _Path, is_taken: Callable[[_Path], bool]) -> _Path:
    """A path, with a number at the end of its stem where it is taken."""
    free, number = path, 2
    while is_taken(free):
        free = path.with_stem(f"{path.stem}-{number}")
        number += 1
    return free


def _slug_of_photo(photo_name: str) -> str:
    path = PurePosixPath(photo_name.replace("\\", "/"))
    is_file_name = path.suffix.lower() in FORMAT_OF_EXTENSION
    stem = slugify(path.stem if is_file_name else photo_name, max_length=_MAX_NAME)
    return stem or "photo"


def _safe_stem(text: str) -> str:
    stem = slugify(text, regex_pattern=_NOT_SAFE, max_length=_MAX_STEM, lowercase=False)
    stem = stem.strip("-_@")
    return _not_a_device(stem or "photo")


def _not_a_device(stem: str) -> str:
    return f"{stem}-photo" if _DEVICE.fullmatch(stem) else stem
