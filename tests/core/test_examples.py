"""The examples in docstrings of the core are true."""

import doctest
import importlib
from pathlib import Path

import pytest

import lean_parcel

ROOT = Path(lean_parcel.__file__).parent
SHOWING = sorted(path for path in (ROOT / "core").rglob("*.py") if ">>> " in path.read_text())


@pytest.mark.parametrize("path", SHOWING, ids=lambda path: path.stem)
def test_examples(path: Path) -> None:
    name = ".".join(("lean_parcel", *path.relative_to(ROOT).with_suffix("").parts))
    done = doctest.testmod(importlib.import_module(name), report=True)
    assert done.attempted
    assert not done.failed


def test_there_are_some() -> None:
    assert len(SHOWING) >= 8
