"""File formats: which come in, which go out, and what they are called. Told here only."""

from collections.abc import Iterable
from typing import Literal, get_args

#: Formats that files are made in.
Format = Literal["jpeg", "png", "webp", "avif"]
FORMATS: tuple[Format, ...] = get_args(Format)
#: Of those, the ones that every browser and mail program opens.
UNIVERSAL_FORMATS: tuple[Format, ...] = ("jpeg", "png")

#: How new formats are: who opens one opens those of a lower number too.
NEWNESS: dict[Format, int] = {"jpeg": 0, "png": 0, "webp": 1, "avif": 2}

#: Names for people, of every format that comes in.
FORMAT_NAMES = {
    "jpeg": "JPEG",
    "png": "PNG",
    "webp": "WebP",
    "avif": "AVIF",
    "heic": "HEIC",
    "tiff": "TIFF",
    "gif": "GIF",
}
#: File name extensions, the usual one first.
EXTENSIONS = {
    "jpeg": (".jpg", ".jpeg", ".jpe", ".jfif"),
    "png": (".png",),
    "webp": (".webp",),
    "avif": (".avif",),
    "heic": (".heic", ".heif", ".hif"),
    "tiff": (".tif", ".tiff"),
    "gif": (".gif",),
}
FORMAT_OF_EXTENSION = {
    extension: name for name, extensions in EXTENSIONS.items() for extension in extensions
}
MEDIA_TYPES = {name: f"image/{name}" for name in FORMAT_NAMES}


def enumerated(words: Iterable[str]) -> str:
    """Words in a sentence, each once; empty for none.

    >>> enumerated(["PNG", "WebP", "AVIF", "PNG"])
    'PNG, WebP and AVIF'
    """
    *first, last = dict.fromkeys(words) or [""]
    return f"{', '.join(first)} and {last}" if first else last
