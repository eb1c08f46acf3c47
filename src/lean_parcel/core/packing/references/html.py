"""The tags of an HTML text, and what stands in style and script elements, in one pass.

The tokenization of the HTML standard (13.2.5), as far as it tells where tags and their attributes
are: comments, declarations and the text of raw elements hold none. A tag that never ends is none.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

_NAME = re.compile(r"[A-Za-z][^\s/>]*+")
_BETWEEN = re.compile(r"[\s/]*+")
_ATTRIBUTE = re.compile(
    r"(?P<name>[^\s/>][^\s/>=]*+)"
    r"(?:\s*+=\s*+(?:\"(?P<double>[^\"]*+)\"|'(?P<single>[^']*+)'|(?P<bare>[^\s\"'>][^\s>]*+)))?+"
)
#: A quote that opens a value and is never closed: the tag does not end.
_OPEN_QUOTE = re.compile(r"\s*+=\s*+[\"']")
#: Elements whose content has no tags (13.2.5.1), and those of them whose content is read.
_RAW = ("script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes")
_READ = ("script", "style")
_RAW_ENDS = {name: re.compile(rf"</{name}(?=[\s/>])", re.IGNORECASE) for name in _RAW}


@dataclass(slots=True)
class Tag:
    """An HTML tag: where it stands, and each attribute with its name, the range of all of it, and
    the range of its value without quotes."""

    name: str
    start: int
    end: int = 0
    in_picture: bool = False
    is_empty: bool = False
    attributes: list[tuple[str, tuple[int, int], tuple[int, int]]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Inside:
    """The content of a style or script element."""

    element: str
    start: int
    end: int


def html_pieces(text: str) -> Iterator[Tag | Inside]:
    """Start tags, and what stands in style and script elements, in order."""
    at, pictures = 0, 0
    while (at := text.find("<", at)) >= 0:
        if not _NAME.match(text, at + 1):
            if text.startswith("</", at) and _NAME.match(text, at + 2):
                pictures -= text[at + 2 : at + 9].lower() == "picture"
            at = _after_markup(text, at)
            continue
        tag = _read_tag(text, at)
        if tag is None:
            return
        pictures += tag.name == "picture"
        tag.in_picture = pictures > 0
        yield tag
        at = tag.end
        if tag.name in _RAW and not tag.is_empty:
            closed = _RAW_ENDS[tag.name].search(text, at)
            end = closed.start() if closed else len(text)
            if tag.name in _READ:
                yield Inside(tag.name, at, end)
            at = end


def _after_markup(text: str, at: int) -> int:
    """Where a comment, a declaration, an instruction or an end tag ends that begins here; behind
    the `<` where there is none of them."""
    for begin, end in (("<!--", "-->"), ("<?", "?>"), ("<!", ">"), ("</", ">")):
        if text.startswith(begin, at):
            found = text.find(end, at + 2)
            return found + len(end) if found >= 0 else len(text)
    return at + 1


def _read_tag(text: str, start: int) -> Tag | None:
    """The start tag that begins here; None for one that never ends."""
    named = _NAME.match(text, start + 1)
    assert named
    tag = Tag(named[0].lower(), start)
    at = named.end()
    while True:
        between = _BETWEEN.match(text, at)
        assert between
        at = between.end()
        if text.startswith(">", at):
            tag.end, tag.is_empty = at + 1, between[0].endswith("/")
            return tag
        found = _ATTRIBUTE.match(text, at)
        if found is None or _OPEN_QUOTE.match(text, found.end()):
            return None
        kind = next((k for k in ("double", "single", "bare") if found[k] is not None), None)
        value = found.span(kind) if kind else (found.end(), found.end())
        tag.attributes.append((found["name"].lower(), found.span(), value))
        at = found.end()
