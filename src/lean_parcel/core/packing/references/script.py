"""The strings of JavaScript, TypeScript and JSON, and the parts of template literals, in one pass.

The lexical grammar of ECMAScript 2024 (12.9), as far as it tells strings from comments, regular
expressions and code. What is never closed is code up to its quote, and is not tried again.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass

#: What something begins with that may hold quotes, or counts for a template.
_NEXT = re.compile(r"[\"'`{}]|/[/*]?")
_STRING = {
    quote: re.compile(rf"{quote}((?:\\(?:\r\n|[\s\S])|[^\\\r\n{quote}])*+){quote}")
    for quote in "\"'"
}
_TEMPLATE = re.compile(r"(?:\\[\s\S]|\$(?!\{)|[^\\`$])*+")
_REGEX = re.compile(r"/(?:\\[^\r\n]|\[(?:\\[^\r\n]|[^\]\\\r\n])*+\]|[^\\/\[\r\n])++/")
#: After these a slash divides, or ends a JSX tag; after anything else it begins a regular
#: expression.
_VALUE_END = re.compile(r"[\w$)\]}\"'`<]\s*+$")
_WORD = re.compile(r"[\w$]+\s*+$")
_KEYWORD = re.compile(r"return|typeof|case|in|of|delete|void|throw|new|do|else|yield|await")
#: How far back a slash looks for what stands before it.
_BEHIND = 80


@dataclass(frozen=True, slots=True)
class Literal:
    """The content of a string, or a part of a template, which may begin `after_code`."""

    start: int
    end: int
    after_code: bool = False


def literals(text: str) -> Iterator[Literal]:
    """All strings and parts of templates, in order."""
    return _Reader(text).read()


class _Reader:
    def __init__(self, text: str) -> None:
        self._text = text
        #: For each `${` that is open, how many braces are open in it.
        self._braces: list[int] = []
        #: Up to where a quote or a slash is known not to be closed in its line.
        self._open_until = {'"': 0, "'": 0, "/": 0}

    def read(self) -> Iterator[Literal]:
        """All literals."""
        at = 0
        while found := _NEXT.search(self._text, at):
            start, what = found.start(), found[0]
            literal = None
            at = found.end()
            if what in "\"'":
                if literal := self._string(start, what):
                    at = literal.end + 1
            elif what == "`" or (what == "}" and self._closes_code()):
                literal = self._template(at, after_code=what == "}")
                at = self._after_template(literal.end)
            elif what.startswith("/"):
                at = self._after_slash(start, what)
            elif what == "{" and self._braces:
                self._braces[-1] += 1
            if literal:
                yield literal

    def _closes_code(self) -> bool:
        """Whether a closing brace ends the code in a template, which then goes on."""
        if self._braces and self._braces[-1] == 0:
            self._braces.pop()
            return True
        if self._braces:
            self._braces[-1] -= 1
        return False

    def _string(self, start: int, quote: str) -> Literal | None:
        """The string that begins here. Where one is not closed in its line, no other of this quote
        in the rest of the line is: what they skip is the same."""
        if start < self._open_until[quote]:
            return None
        found = _STRING[quote].match(self._text, start)
        if found is None:
            self._open_until[quote] = self._line_end(start)
            return None
        return Literal(*found.span(1))

    def _template(self, start: int, *, after_code: bool) -> Literal:
        found = _TEMPLATE.match(self._text, start)
        return Literal(start, found.end() if found else start, after_code)

    def _after_template(self, end: int) -> int:
        if self._text.startswith("${", end):
            self._braces.append(0)
            return end + 2
        return end + 1

    def _after_slash(self, start: int, what: str) -> int:
        """Behind the comment or regular expression that begins here, or a slash that divides."""
        if what == "//":
            return self._line_end(start)
        if what == "/*":
            end = self._text.find("*/", start + 2)
            return end + 2 if end >= 0 else len(self._text)
        if start >= self._open_until["/"] and self._may_begin_regex(start):
            if found := _REGEX.match(self._text, start):
                return found.end()
            self._open_until["/"] = self._line_end(start)
        return start + 1

    def _may_begin_regex(self, start: int) -> bool:
        before = self._text[max(0, start - _BEHIND) : start]
        if not _VALUE_END.search(before):
            return True
        word = _WORD.search(before)
        return word is not None and _KEYWORD.fullmatch(word[0].strip()) is not None

    def _line_end(self, at: int) -> int:
        end = self._text.find("\n", at)
        return end if end >= 0 else len(self._text)
