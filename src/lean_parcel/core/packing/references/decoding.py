"""Text of a zone with its escapes taken back, and where each character came from."""

import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from html import unescape

from lean_parcel.core.packing.references.zones import Escapes

_PERCENT = r"(?P<percent>(?:%[0-9A-Fa-f]{2})+)"
_ENTITY = r"(?P<entity>&(?:#[0-9]{1,7}|#[xX][0-9A-Fa-f]{1,6}|[A-Za-z][A-Za-z0-9]{1,31});)"
_CSS = r"(?P<css>\\(?:[0-9A-Fa-f]{1,6}[ \t\r\n\f]?|[^\r\n\f]))"
_JAVASCRIPT = (
    r"(?P<javascript>\\(?:u\{[0-9A-Fa-f]{1,6}\}|u[0-9A-Fa-f]{4}|x[0-9A-Fa-f]{2}|\r\n|[\s\S]))"
)
_UNITS: dict[Escapes, re.Pattern[str]] = {
    "none": re.compile(_PERCENT),
    "html": re.compile(f"{_PERCENT}|{_ENTITY}"),
    "css": re.compile(f"{_PERCENT}|{_CSS}"),
    "javascript": re.compile(f"{_PERCENT}|{_JAVASCRIPT}"),
    "html-css": re.compile(f"{_PERCENT}|{_ENTITY}|{_CSS}"),
    "html-javascript": re.compile(f"{_PERCENT}|{_ENTITY}|{_JAVASCRIPT}"),
}
_CONTROL = {"n": "\n", "r": "\r", "t": "\t", "b": "\b", "f": "\f", "v": "\v", "0": "\0"}


@dataclass(frozen=True, slots=True)
class Decoded:
    """The text in Unicode's normal form C; for each character, where it begins in the zone, where
    it ends, and whether it was percent-encoded."""

    text: str
    starts: tuple[int, ...]
    ends: tuple[int, ...]
    is_encoded: tuple[bool, ...]


def decoded(text: str, escapes: Escapes) -> Decoded:
    """The text of a zone, decoded."""
    units: list[tuple[str, int, int, bool]] = []
    for character, start, end, is_encoded in _units(text, escapes):
        if units and unicodedata.combining(character[:1] or " "):
            last, begin, _, was_encoded = units[-1]
            joined = unicodedata.normalize("NFC", last + character)
            if len(joined) == 1:
                units[-1] = (joined, begin, end, was_encoded)
                continue
        units.append((character, start, end, is_encoded))
    return Decoded(
        text="".join(character for character, *_ in units),
        starts=tuple(start for _, start, _, _ in units),
        ends=tuple(end for _, _, end, _ in units),
        is_encoded=tuple(is_encoded for *_, is_encoded in units),
    )


def _units(text: str, escapes: Escapes) -> Iterator[tuple[str, int, int, bool]]:
    """Single characters, each with where it stands and whether it was percent-encoded."""
    at = 0
    for found in _UNITS[escapes].finditer(text):
        for index in range(at, found.start()):
            yield text[index], index, index + 1, False
        at = found.end()
        if found["percent"]:
            yield from _percent(found["percent"], found.start())
            continue
        characters = _unescaped(found)
        # Of what an escape stands for, all but the last take no room.
        for index, character in enumerate(characters):
            is_last = index == len(characters) - 1
            yield character, found.start(), found.end() if is_last else found.start(), False
    for index in range(at, len(text)):
        yield text[index], index, index + 1, False


def _percent(run: str, start: int) -> Iterator[tuple[str, int, int, bool]]:
    """UTF-8 in percent-encoding; what is none is left as it is."""
    try:
        characters = bytes.fromhex(run.replace("%", "")).decode()
    except UnicodeDecodeError:
        for index, character in enumerate(run):
            yield character, start + index, start + index + 1, False
        return
    at = start
    for character in characters:
        end = at + 3 * len(character.encode())
        yield character, at, end, True
        at = end


def _unescaped(found: re.Match[str]) -> str:
    """What an entity or a backslash stands for; nothing for a line that goes on."""
    whole = found[0]
    if whole.startswith("&"):
        return unescape(whole)
    body = whole[1:]
    if found.re.groupindex.get("css") and found["css"]:
        digits = body.strip()
        is_number = re.fullmatch(r"[0-9A-Fa-f]{1,6}", digits)
        return _character(int(digits, 16)) if is_number else body
    if body[0] in "ux" and len(body) > 1:
        return _character(int(body[1:].strip("{}"), 16))
    if body in ("\n", "\r\n"):
        return ""
    return _CONTROL.get(body, body)


def _character(number: int) -> str:
    is_one = 0 < number < 0x110000 and not 0xD800 <= number < 0xE000
    return chr(number) if is_one else "\N{REPLACEMENT CHARACTER}"
