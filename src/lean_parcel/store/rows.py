"""Rows as the dataclasses that they are of."""

import sqlite3
from dataclasses import fields
from typing import Any, TypeVar

_T = TypeVar("_T")


def as_a(of: type[_T], row: sqlite3.Row, **others: Any) -> _T:
    """A dataclass of the columns that are called like its fields; `others` are those that the store
    keeps in another form, or elsewhere."""
    names = {field.name for field in fields(of)} - others.keys()  # type: ignore[arg-type]
    return of(**{name: row[name] for name in names.intersection(row.keys())}, **others)
