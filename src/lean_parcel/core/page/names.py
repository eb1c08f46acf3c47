"""What pages, photos, places and treatments are called."""

import unicodedata

from lean_parcel.core.errors import UsageError

_MAX_NAME = 120
_MAX_EXTENSION = 8
_MAX_FOLDER = 300
#: Unicode categories of control characters and lone surrogates.
_CONTROLS = ("Cc", "Cs")
#: Unicode bidirectional classes of what makes a name read differently from what it is.
_DIRECTIONS = ("LRE", "RLE", "LRO", "RLO", "PDF", "LRI", "RLI", "FSI", "PDI")


def name_of_file(file_name: str) -> str:
    """What a photo is called by its file: without folders and control characters, and no longer
    than a name may be, its extension kept."""
    name = _tidy(file_name.replace("\\", "/").rpartition("/")[2]) or "photo"
    stem, dot, extension = name.rpartition(".")
    if len(name) <= _MAX_NAME:
        return name
    ending = f"{dot}{extension}" if stem and len(extension) <= _MAX_EXTENSION else ""
    return name[: _MAX_NAME - len(ending)].rstrip() + ending


def folder_of_file(file_name: str) -> str:
    """The folder that a photo came in, with `/` between its parts; empty for none."""
    parts = [_tidy(part) for part in file_name.replace("\\", "/").split("/")[:-1]]
    return "/".join(part for part in parts if part not in ("", ".", ".."))[:_MAX_FOLDER]


def _tidy(name: str) -> str:
    """Without control characters, changes of direction among them, and with single spaces."""
    return " ".join("".join(" " if _is_control(each) else each for each in name).split())


def _is_control(character: str) -> bool:
    category, direction = unicodedata.category(character), unicodedata.bidirectional(character)
    return category in _CONTROLS or direction in _DIRECTIONS


def checked_name(name: str) -> str:
    """A name without control characters. Raises UsageError `invalid_name`."""
    name = _tidy(name)
    if not 0 < len(name) <= _MAX_NAME:
        raise UsageError(f"A name has 1 to {_MAX_NAME} characters.", "invalid_name")
    return name
