"""The schema that is written out is the one that the migrations lead to."""

import re
import sqlite3
from contextlib import closing
from importlib import resources
from pathlib import Path

import pytest

_ALL = """
SELECT type, name, sql FROM sqlite_schema WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%'"""


def parts(connection: sqlite3.Connection) -> dict[tuple[str, str], str]:
    """Every table, index and view, without comments and spaces."""
    return {(kind, name): _bare(sql) for kind, name, sql in connection.execute(_ALL)}


def _bare(sql: str) -> str:
    without_comments = re.sub(r"--[^\n]*", "", sql).replace('"', "")
    return re.sub(r"\s*([(),])\s*", r"\1", " ".join(without_comments.split()))


def test_the_migrations_lead_to_the_schema(begun: Path) -> None:
    written = resources.files("lean_parcel.store").joinpath("schema.sql").read_text()
    with closing(sqlite3.connect(":memory:")) as new, closing(sqlite3.connect(begun)) as migrated:
        new.executescript(written)
        assert parts(new) == parts(migrated)


def test_a_new_workspace_is_of_the_newest_version(begun: Path) -> None:
    folder = resources.files("lean_parcel.store").joinpath("migrations")
    scripts = [each for each in folder.iterdir() if each.name.endswith(".sql")]
    with closing(sqlite3.connect(begun)) as migrated:
        assert migrated.execute("PRAGMA user_version").fetchone() == (len(scripts),)


@pytest.mark.parametrize(
    ("first", "second"),
    [
        ("CREATE TABLE a (b INTEGER, c TEXT)", 'CREATE TABLE "a" (\n  b INTEGER -- b\n, c TEXT)'),
        ("CHECK (b > 0)", "CHECK  ( b > 0 )"),
    ],
)
def test_only_comments_and_spaces_do_not_matter(first: str, second: str) -> None:
    assert _bare(first) == _bare(second)
    assert _bare(first) != _bare(first.replace("b", "d"))
