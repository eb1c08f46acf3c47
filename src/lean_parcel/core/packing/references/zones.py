"""Zones: the parts of a text in which a reference to a file can stand, by the language of the text.

Comments, running text, alternative texts and program code are no zones: a name there is no
reference, and stays. HTML and JavaScript have readers of their own; CSS is read by its tokens (CSS
Syntax Level 3, 4.3), and Markdown by its links (CommonMark 0.31, 6.3 and 4.7). Texts come from
anywhere, and each is read in a time that grows with its length: no expression here tries twice
what it has failed on.
"""

import re
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Literal

from lean_parcel.core.packing.references.html import Inside, Tag, html_pieces
from lean_parcel.core.packing.references.script import literals

Language = Literal["html", "css", "javascript", "json", "markdown"]
#: How characters are escaped in a zone, beside percent-encoding.
Escapes = Literal["none", "html", "css", "javascript", "html-css", "html-javascript"]

LANGUAGES: dict[str, Language] = {
    ".css": "css",
    ".scss": "css",
    ".less": "css",
    ".js": "javascript",
    ".mjs": "javascript",
    ".cjs": "javascript",
    ".jsx": "javascript",
    ".ts": "javascript",
    ".tsx": "javascript",
    ".json": "json",
    ".webmanifest": "json",
    ".md": "markdown",
    ".markdown": "markdown",
    ".mdx": "markdown",
}
#: Attributes whose values are words for people or programs.
_WORDS = frozenset(
    {"alt", "title", "class", "id", "name", "placeholder", "download", "for", "type", "rel", "lang"}
)
_CSS = re.compile(
    r"/\*.*?(?:\*/|\Z)"
    r"|(?<![:\"'(/])//[^\n]*+"  # SCSS and Less; in an address a colon or a quote stands before
    r"|url\(\s*+(?P<url>(?:\\[0-9a-f]{1,6}+\s?+|\\[^0-9a-f\n]|[^\s\"'()\\])++)\s*+\)"
    # A string that is not closed ends with its line.
    r"|(?P<quote>[\"'])(?P<string>(?:\\.|(?!(?P=quote))[^\\\n])*+)(?P<closing>(?P=quote))?+",
    re.IGNORECASE | re.DOTALL,
)
_FENCE = r"(?P<fence>^ {0,3}(?P<marks>```++|~~~++)[^\n]*+\n.*?(?:^ {0,3}(?P=marks)[^\n]*+$|\Z))"
_MARKDOWN = re.compile(
    _FENCE + r"|(?P<ticks>`++)"
    r"|<!--.*?(?:-->|\Z)"
    r"|\]\(\s*+(?:<(?P<angle>[^<>\n]*+)>|(?P<link>(?:\\.|\([^()\s]*+\)|[^()\s\\])++))"
    r"|^ {0,3}\[[^\]\n]++\]:\s*+(?:<(?P<angle2>[^<>\n]*+)>|(?P<link2>\S++))"
    r"|(?P<tag><[A-Za-z](?:\"[^\"]*+\"|'[^']*+'|[^'\"<>])*+>)",
    re.DOTALL | re.MULTILINE,
)
_TICKS = re.compile(r"`++")
_FRONT_MATTER = re.compile(r"\A---\n(?P<values>.*?)\n---\s*?$", re.DOTALL | re.MULTILINE)
_YAML_VALUE = re.compile(r"^[^#\n]*?(?::|-)[ \t]++(?P<value>[^\n#]++)", re.MULTILINE)
#: Enough of a text to tell its language.
_HEAD = 20_000


@dataclass(frozen=True, slots=True)
class Zone:
    """A part of a text, from `start` to `end`. One of a template begins `after_code`."""

    start: int
    end: int
    escapes: Escapes
    after_code: bool = False


def language_of(file_name: str, text: str) -> Language:
    """The language of a text, by the name of its file, or by how it begins where it has none."""
    suffix = PurePosixPath(file_name).suffix.lower()
    if suffix in LANGUAGES:
        return LANGUAGES[suffix]
    head = text.lstrip()[:_HEAD]
    if suffix or head.startswith("<"):
        return "html"
    if head.startswith(("{", "[")):
        return "json"
    if re.search(r"(?m)^[ \t]*+(?:#++ |[-*] |!?\[[^\]\n]*+\]\()", head):
        return "markdown"
    if re.search(r"<[a-z!][^<>]*+>", head, re.IGNORECASE):
        return "html"
    return "css" if re.search(r":\s*+url\(|\{[^{}:]*+:", head) else "javascript"


def zones_of(text: str, language: Language) -> list[Zone]:
    """All zones of a text, in order."""
    match language:
        case "html":
            return list(_html_zones(text))
        case "css":
            return list(_css_zones(text, 0, "css"))
        case "javascript" | "json":
            return list(_script_zones(text, 0))
        case "markdown":
            return list(_markdown_zones(text))


def tags_of(text: str) -> list[Tag]:
    """All start tags of an HTML text, in order, but for those in comments and scripts."""
    return [piece for piece in html_pieces(text) if isinstance(piece, Tag)]


def _html_zones(text: str) -> Iterator[Zone]:
    for piece in html_pieces(text):
        if isinstance(piece, Inside):
            content = text[piece.start : piece.end]
            if piece.element == "style":
                yield from _css_zones(content, piece.start, "css")
            else:
                yield from _script_zones(content, piece.start)
            continue
        for name, _, (start, end) in piece.attributes:
            if name in _WORDS or name.startswith("aria-") or start == end:
                continue
            if name == "style":  # quotes may be entities, which the tokens of CSS do not know
                yield Zone(start, end, "html-css")
            else:
                in_script = name.startswith(("on", "data-", "x-", ":", "@", "v-"))
                yield Zone(start, end, "html-javascript" if in_script else "html")


def _css_zones(text: str, offset: int, escapes: Escapes) -> Iterator[Zone]:
    for found in _CSS.finditer(text):
        group = "url" if found["url"] is not None else "string"
        is_whole = found["url"] is not None or found["closing"]
        if is_whole and found[group]:
            yield Zone(offset + found.start(group), offset + found.end(group), escapes)


def _script_zones(text: str, offset: int) -> Iterator[Zone]:
    for each in literals(text):
        if each.end > each.start:
            yield Zone(offset + each.start, offset + each.end, "javascript", each.after_code)


def _markdown_zones(text: str) -> Iterator[Zone]:
    at = 0
    if front := _FRONT_MATTER.match(text):
        for value in _YAML_VALUE.finditer(text, front.start("values"), front.end("values")):
            yield Zone(value.start("value"), value.end("value"), "none")
        at = front.end()
    spans = _CodeSpans(text)
    while found := _MARKDOWN.search(text, at):
        at = found.end()
        if found["ticks"]:
            at = spans.end(found.start(), at)
            continue
        for group in ("angle", "link", "angle2", "link2"):
            if found[group]:
                yield Zone(found.start(group), found.end(group), "css")
        if found["tag"]:
            start = found.start("tag")
            for zone in _html_zones(found["tag"]):
                yield Zone(zone.start + start, zone.end + start, zone.escapes)


class _CodeSpans:
    """Where code spans end: at the next run of as many backticks (CommonMark 0.31, 6.1)."""

    def __init__(self, text: str) -> None:
        self._starts: dict[int, list[int]] = {}
        for found in _TICKS.finditer(text):
            self._starts.setdefault(len(found[0]), []).append(found.start())

    def end(self, start: int, end: int) -> int:
        """Where the code span ends whose first run of backticks is this one; behind the run where
        it is none."""
        starts = self._starts.get(end - start, [])
        following = bisect_right(starts, start)
        return starts[following] + end - start if following < len(starts) else end
