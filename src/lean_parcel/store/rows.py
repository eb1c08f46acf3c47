"""Rows as the dataclasses that they are of."""

import sqlite3
from dataclasses import fields
from functools import cache
from typing import Any, TypeVar

_T = TypeVar("_T")


def as_a(of: type[_T], row: sqlite3.Row, **others: Any) -> _T:
    """A dataclass of the columns that are called like its fields; `others` are those that the store
    keeps in another form, or elsewhere."""
    names = _names(of).intersection(row.keys()) - others.keys()  # type: ignore[arg-type]
    return of(**{name: row[name] for name in names}, **others)


@cache
def _names(of: type) -> frozenset[str]:
    return frozenset(field.name for field in fields(of))
