"""What the code came to when somebody last read it, kept beside the tests.

A change of a rule, a constant or an answer is seen as a difference of a record. Where it is meant,
`RECORD=1 .venv/bin/pytest ...` writes the records anew: read what changed before it is committed.
Whether a figure is right, the tests beside it tell; that it stays, the record. Machines differ in
the last digits of what is computed with 32 bits.
"""

import json
import math
import os
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from pydantic_core import to_jsonable_python

_SMALLEST = re.compile(r"\[[^][{}]*\]|\{[^][{}]*\}")
_LINE = 120


class Recorded:
    """The record of one test."""

    def __init__(self, path: Path) -> None:
        self._path = path

    def __call__(self, told: Any, near: float = 2e-3) -> None:
        """Compares values of any kind with the record: figures to a thousandth or as `near` as is
        given, all else exactly."""
        told = to_jsonable_python(told, fallback=lambda value: value.tolist())
        if os.environ.get("RECORD"):
            self._path.parent.mkdir(parents=True, exist_ok=True)
            self._path.write_text(_text(told), encoding="utf-8")
        known = dict(leaves(json.loads(self._path.read_text(encoding="utf-8"))))
        now = dict(leaves(json.loads(json.dumps(told))))
        differ = [
            f"{at}: {known.get(at, 'nothing')!r} is now {now.get(at, 'nothing')!r}"
            for at in sorted(known.keys() | now.keys())
            if not _is_alike(known.get(at), now.get(at), near)
        ]
        assert not differ, f"{self._path.name}: {len(differ)} differ\n" + "\n".join(differ[:20])


def _text(told: Any) -> str:
    """JSON in lines, each small list or object on one."""
    text = json.dumps(_rounded(told), indent=1, sort_keys=True, ensure_ascii=False)
    return _SMALLEST.sub(lambda found: _on_one_line(found[0]), text) + "\n"


def _on_one_line(text: str) -> str:
    line = re.sub(r"\n *", " ", text)
    return line if len(line) <= _LINE else text


def _rounded(value: Any) -> Any:
    if isinstance(value, float):
        return float(f"{value:.5g}")
    if isinstance(value, dict):
        return {key: _rounded(each) for key, each in value.items()}
    return [_rounded(each) for each in value] if isinstance(value, list) else value


def leaves(value: Any, at: str = "") -> Iterator[tuple[str, Any]]:
    """Every single value with its way there; of what is empty, that it is there."""
    if isinstance(value, dict | list) and value:
        items = value.items() if isinstance(value, dict) else enumerate(value)
        for key, each in items:
            yield from leaves(each, f"{at}/{key}")
    else:
        yield at, value


def _is_alike(known: Any, now: Any, near: float) -> bool:
    if isinstance(known, float) and isinstance(now, float | int):
        return math.isclose(known, now, rel_tol=1e-3, abs_tol=near)
    return bool(type(known) is type(now) and known == now)
