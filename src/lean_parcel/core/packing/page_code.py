"""Page code for a photo: HTML (the HTML standard, 4.8), CSS (Images Level 4) and Markdown
(CommonMark), with every text escaped."""

import re
from collections.abc import Iterator, Sequence
from html import escape
from urllib.parse import quote

from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import MEDIA_TYPES
from lean_parcel.core.packing.handed import HandedFile, HandedPhoto

MISSING_ALT = "<!-- The alternative text is not written yet. -->"
_MAX_PREFIX = 300
#: What may stand in an address as it is; a comma ends an address in srcset.
_PLAIN = "/:@!$&*+;=%~?#[]-._"
_MARKDOWN = re.compile(r"([\\`*_{}\[\]()<>#!|&])")


def checked_prefix(prefix: str) -> str:
    """What stands before the names of files, ready for any address. Raises UsageError
    `invalid_prefix`."""
    prefix = prefix.strip()
    if len(prefix) > _MAX_PREFIX or re.search(r"[\x00-\x1f\x7f]", prefix):
        raise UsageError("A path has up to 300 characters.", "invalid_prefix")
    scheme = re.match(r"\s*([a-z][a-z0-9+.-]*):", prefix, re.IGNORECASE)
    if scheme and scheme[1].lower() not in ("http", "https"):
        raise UsageError("A path begins with https:, with / or with a name.", "invalid_prefix")
    return prefix


def address(file: HandedFile, prefix: str) -> str:
    """Where a file is, below a prefix such as `/img/`."""
    between = "" if not prefix or prefix.endswith(("/", "=")) else "/"
    return quote(f"{prefix}{between}{file.path}", safe=_PLAIN)


def html(photo: HandedPhoto, prefix: str = "") -> str:
    """A `picture`, or an `img` where there is one format; in a `figure` with the credit where there
    is one."""
    lines = list(_picture(photo, prefix))
    if photo.credit:
        caption = f"  <figcaption>{escape(photo.credit)}</figcaption>"
        lines = ["<figure>", *(f"  {line}" for line in lines), caption, "</figure>"]
    return "\n".join(lines)


def css(photo: HandedPhoto, selector: str, prefix: str = "") -> str:
    """A background by `image-set()`, after one for browsers that do not know it. The selector is a
    class of safe characters."""
    options = [
        f'    url("{address(file, prefix)}") type("{MEDIA_TYPES[file.format]}") {file.density:g}x'
        for name in photo.formats
        for file in photo.of_format(name)
    ]
    return "\n".join(
        (
            f".{selector} {{",
            f'  background-image: url("{address(photo.fallback, prefix)}");',
            "  background-image: image-set(",
            ",\n".join(options),
            "  );",
            "}",
        )
    )


def markdown(photo: HandedPhoto, prefix: str = "") -> str:
    """An image, and the credit below it."""
    alt = _MARKDOWN.sub(r"\\\1", " ".join((photo.alt_text or "").split()))
    image = f"![{alt}]({quote(address(photo.fallback, prefix), safe=_PLAIN)})"
    credit = _MARKDOWN.sub(r"\\\1", " ".join(photo.credit.split()))
    return f"{image}\n\n{credit}" if credit else image


def image_attributes(photo: HandedPhoto, prefix: str = "") -> dict[str, str]:
    """What the `img` says of a photo but for its alternative text, by attribute."""
    fallback = photo.of_format(photo.fallback.format)
    attributes = {"src": address(photo.fallback, prefix)}
    if len(fallback) > 1:
        attributes |= {"srcset": _srcset(fallback, prefix), "sizes": _sizes(photo)}
    attributes |= {"width": str(photo.css_width_px), "height": str(photo.css_height_px)}
    if photo.loading == "lazy":
        attributes["loading"] = "lazy"
    if photo.fetch_priority != "auto":
        attributes["fetchpriority"] = photo.fetch_priority
    return attributes


def source_elements(photo: HandedPhoto, prefix: str = "") -> list[str]:
    """A `source` for each format but that of the `img`."""
    elements = []
    for name in photo.formats[:-1]:
        files = photo.of_format(name)
        attributes = {"type": MEDIA_TYPES[name], "srcset": _srcset(files, prefix)}
        if len(files) > 1:
            attributes["sizes"] = _sizes(photo)
        elements.append(f"<source {attribute_words(attributes)}>")
    return elements


def attribute_words(attributes: dict[str, str]) -> str:
    """Attributes as they stand in a tag."""
    return " ".join(f'{name}="{escape(value)}"' for name, value in attributes.items())


def _picture(photo: HandedPhoto, prefix: str) -> Iterator[str]:
    attributes = image_attributes(photo, prefix) | {"alt": photo.alt_text or ""}
    image = f"<img {attribute_words(attributes)}>"
    if photo.alt_text is None:
        yield MISSING_ALT
    sources = source_elements(photo, prefix)
    if not sources:
        yield image
        return
    yield "<picture>"
    yield from (f"  {source}" for source in sources)
    yield f"  {image}"
    yield "</picture>"


def _srcset(files: Sequence[HandedFile], prefix: str) -> str:
    if len(files) == 1:
        return address(files[0], prefix)
    return ", ".join(f"{address(file, prefix)} {file.stands_for_px}w" for file in files)


def _sizes(photo: HandedPhoto) -> str:
    return photo.sizes or photo.default_sizes
