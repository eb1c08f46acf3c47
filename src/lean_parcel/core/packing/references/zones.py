"""Zones: the parts of a text in which a reference to a file can stand, by the language of the text.

Comments, running text, alternative texts and program code are no zones: a name there is no
reference, and stays. HTML, JavaScript and JSON are read by Pygments' lexers, which give every
character back and never fail; CSS by its own tokens (CSS Syntax Level 3, 4.3), and Markdown by its
links (CommonMark 0.31, 6.3 and 4.7).
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import Any, Literal

from pygments.lexers.html import HtmlLexer
from pygments.lexers.javascript import JavascriptLexer, TypeScriptLexer
from pygments.token import Name, Punctuation, String

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
    r"|(?<![:\"'(/])//[^\n]*"  # SCSS and Less; in an address a colon or a quote stands before
    r"|url\(\s*(?P<url>(?:\\[0-9a-f]{1,6}\s?|\\.|[^\s\"'()\\])+)\s*\)"
    r"|(?P<quote>[\"'])(?P<string>(?:\\.|(?!(?P=quote))[^\\\n])*)(?P=quote)",
    re.IGNORECASE | re.DOTALL,
)
_CODE = r"(?P<fence>^ {0,3}(?P<marks>```+|~~~+)[^\n]*\n.*?(?:^ {0,3}(?P=marks)[^\n]*$|\Z))"
_MARKDOWN = re.compile(
    _CODE + r"|(?P<ticks>`+)[^`].*?(?<!`)(?P=ticks)(?!`)"
    r"|<!--.*?(?:-->|\Z)"
    r"|\]\(\s*(?:<(?P<angle>[^<>\n]*)>|(?P<link>(?:\\.|\([^()\s]*\)|[^()\s\\])+))"
    r"|^ {0,3}\[[^\]\n]+\]:\s*(?:<(?P<angle2>[^<>\n]*)>|(?P<link2>\S+))"
    r"|(?P<tag><[A-Za-z](?:\"[^\"]*\"|'[^']*'|[^'\"<>])*>)",
    re.DOTALL | re.MULTILINE,
)
_FRONT_MATTER = re.compile(r"\A---\n(?P<values>.*?)\n---\s*?$", re.DOTALL | re.MULTILINE)
_YAML_VALUE = re.compile(r"^[^#\n]*?(?::|-)[ \t]+(?P<value>[^\n#]+)", re.MULTILINE)


@dataclass(frozen=True, slots=True)
class Zone:
    """A part of a text, from `start` to `end`. One of a template begins `after_code`."""

    start: int
    end: int
    escapes: Escapes
    after_code: bool = False


@dataclass(slots=True)
class Tag:
    """An HTML tag: where it stands, and each attribute with its name, the range of all of it, and
    the range of its value without quotes."""

    name: str
    start: int
    end: int = 0
    in_picture: bool = False
    attributes: list[tuple[str, tuple[int, int], tuple[int, int]]] = field(default_factory=list)


def language_of(file_name: str, text: str) -> Language:
    """The language of a text, by the name of its file, or by its first character where it has
    none."""
    suffix = PurePosixPath(file_name).suffix.lower()
    if suffix in LANGUAGES:
        return LANGUAGES[suffix]
    start = text.lstrip()[:1]
    if suffix or start == "<":
        return "html"
    if start in ("{", "["):
        return "json"
    if re.search(r"(?m)^\s*(?:#+ |[-*] |!?\[[^\]]*\]\()", text):
        return "markdown"
    if re.search(r"<[a-z!][^>]*>", text, re.IGNORECASE):
        return "html"
    return "css" if re.search(r"[\w-]+\s*:\s*[^;{}]*url\(|\{[^{}]*:", text) else "javascript"


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
    return [piece for piece in _html_pieces(text) if isinstance(piece, Tag)]


@dataclass(frozen=True, slots=True)
class _Inside:
    """The content of a style or script element."""

    element: str
    start: int
    end: int


def _html_pieces(text: str) -> Iterator[Tag | _Inside]:
    """Start tags, and what stands in style and script elements."""
    reader = _HtmlReader(text)
    for start, kind, value in HtmlLexer(ensurenl=False).get_tokens_unprocessed(text):
        yield from reader.read(start, kind, value)
    yield from reader.rest()


class _HtmlReader:
    """Puts tags together from tokens."""

    def __init__(self, text: str) -> None:
        self._text = text
        self._tag: Tag | None = None
        #: The style or script element that is open, and where its content begins.
        self._open: tuple[str, int] | None = None
        self._pictures = 0
        self._before = ""

    def read(self, start: int, kind: Any, value: str) -> Iterator[Tag | _Inside]:
        """What is complete with a token."""
        end = start + len(value)
        if kind in Name.Tag and self._before == "<" and not self._open:
            self._pictures += value.lower() == "picture"
            self._tag = Tag(value.lower(), start - 1, in_picture=self._pictures > 0)
        elif kind in Name.Tag and self._before in ("/", "</"):
            yield from self._closed(value.lower(), start)
        elif self._tag and kind in Name.Attribute:
            self._tag.attributes.append((value.lower(), (start, end), (end, end)))
        elif self._tag and kind is String and self._tag.attributes:
            name, (first, _), _ = self._tag.attributes[-1]
            value_range = (start + 1, end - 1) if _is_quoted(value) else (start, end)
            self._tag.attributes[-1] = (name, (first, end), value_range)
        elif self._tag and kind in Punctuation and value.endswith(">"):
            yield self._ended(self._tag, end, is_empty=value.startswith("/"))
        self._before = value.strip() or self._before

    def rest(self) -> Iterator[_Inside]:
        """The content of an element that is never closed."""
        if self._open:
            yield _Inside(*self._open, len(self._text))

    def _ended(self, tag: Tag, end: int, *, is_empty: bool) -> Tag:
        tag.end = end
        self._tag = None
        if tag.name in ("style", "script") and not is_empty:
            self._open = (tag.name, end)
        return tag

    def _closed(self, name: str, start: int) -> Iterator[_Inside]:
        self._pictures -= name == "picture"
        if self._open and name == self._open[0]:
            yield _Inside(*self._open, self._text.rindex("<", 0, start))
            self._open = None


def _is_quoted(value: str) -> bool:
    return len(value) > 1 and value[0] in "\"'" and value[-1] == value[0]


def _html_zones(text: str) -> Iterator[Zone]:
    for piece in _html_pieces(text):
        if isinstance(piece, _Inside):
            content = text[piece.start : piece.end]
            if piece.element == "style":
                yield from _css_zones(content, piece.start, "css")
            else:
                yield from _script_zones(content, piece.start)
            continue
        for name, _, (start, end) in piece.attributes:
            if name in _WORDS or name.startswith("aria-") or start == end:
                continue
            if name == "style":
                yield from _css_zones(text[start:end], start, "html-css")
            else:
                in_script = name.startswith(("on", "data-", "x-", ":", "@", "v-"))
                yield Zone(start, end, "html-javascript" if in_script else "html")


def _css_zones(text: str, offset: int, escapes: Escapes) -> Iterator[Zone]:
    if escapes == "html-css":  # quotes may be entities, which the tokens of CSS do not know
        yield Zone(offset, offset + len(text), escapes)
        return
    for found in _CSS.finditer(text):
        group = "url" if found["url"] is not None else "string"
        if found[group]:
            yield Zone(offset + found.start(group), offset + found.end(group), escapes)


def _script_zones(text: str, offset: int) -> Iterator[Zone]:
    """Strings of JavaScript, TypeScript and JSON, and the parts of template literals."""
    lexer = TypeScriptLexer if re.search(r"\binterface\b|: string\b", text) else JavascriptLexer
    after_code = False
    for start, kind, value in lexer(ensurenl=False).get_tokens_unprocessed(text):
        if kind in String.Interpol:
            after_code = value == "}"
        elif kind in String and kind not in String.Regex and value != "`":
            quote = 1 if _is_quoted(value) else 0
            begin, end = offset + start + quote, offset + start + len(value) - quote
            if end > begin:
                yield Zone(begin, end, "javascript", after_code)
            after_code = False
        elif value == "`":
            after_code = False


def _markdown_zones(text: str) -> Iterator[Zone]:
    begin = 0
    if front := _FRONT_MATTER.match(text):
        for found in _YAML_VALUE.finditer(text, front.start("values"), front.end("values")):
            yield Zone(found.start("value"), found.end("value"), "none")
        begin = front.end()
    for found in _MARKDOWN.finditer(text, begin):
        for group in ("angle", "link", "angle2", "link2"):
            if found[group]:
                yield Zone(found.start(group), found.end(group), "css")
        if found["tag"]:
            start = found.start("tag")
            for zone in _html_zones(found["tag"]):
                yield Zone(zone.start + start, zone.end + start, zone.escapes)
