import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from lean_parcel.core.errors import UsageError
from lean_parcel.core.page import page_acts
from lean_parcel.work.delivery.packing_list import LIST_NAME, read_packing_list, schema
from lean_parcel.work.delivery.verifying import verify
from lean_parcel.work.workspace import Workspace
from tests.work.delivery.steps import taken

ROOT = Path(__file__).parents[3]


@pytest.fixture
def folder(workspace: Workspace, tmp_path: Path) -> Path:
    """A delivery on disk, for screens of 2×."""
    workspace.page_editing.do(page_acts.change_settings(1, {"density": 2.0}))
    taken(workspace, name="cup.png")
    workspace.sending.out = tmp_path / "out"
    return workspace.sending.written(1).folder


def changed(folder: Path, change: Callable[[dict[str, Any]], object]) -> None:
    """The list with something changed in it."""
    path = folder / LIST_NAME
    values = json.loads(path.read_text())
    change(values)
    path.write_text(json.dumps(values))


def problems(folder: Path) -> list[tuple[str, str]]:
    return [(each.path, each.problem) for each in verify(folder).findings]


def test_a_delivery_as_it_was_sent_is_right(folder: Path) -> None:
    assert verify(folder).is_right
    assert problems(folder) == []


def test_what_is_missing_changed_or_heavier_is_found(folder: Path) -> None:
    (folder / "cup-96.jpg").unlink()
    data = (folder / "cup-48.jpg").read_bytes()
    (folder / "cup-48.jpg").write_bytes(data[:-1] + b"x")
    (folder / "cup-48.webp").write_bytes(b"x" * 6_000)
    assert problems(folder) == [
        ("cup-96.jpg", "missing"),
        ("cup-48.webp", "changed"),
        ("cup-48.webp", "over_limit"),
        ("cup-48.jpg", "changed"),
    ]
    assert not verify(folder).is_right


def test_limits_and_the_budget_are_to_the_byte(folder: Path) -> None:
    size_bytes = (folder / "cup-96.webp").stat().st_size
    for over, expected in ((0, []), (1, [("", "over_budget")])):
        changed(folder, lambda values, over=over: values.update(budget_bytes=size_bytes - over))
        assert problems(folder) == expected
    changed(folder, lambda v: v["photos"][0].pop("density"))  # as earlier versions wrote it
    assert problems(folder) == [("", "over_budget")]
    size_1x = (folder / "cup-48.webp").stat().st_size
    changed(folder, lambda v: v["photos"][0].update(density=1))
    changed(folder, lambda values: values.update(budget_bytes=size_1x))
    assert problems(folder) == []
    changed(folder, lambda values: values.update(budget_bytes=None))
    changed(folder, lambda v: v["photos"][0]["files"][0].update(limit_bytes=size_bytes - 1))
    assert problems(folder) == [("cup-96.webp", "over_limit")]
    assert not verify(folder).is_right
    changed(folder, lambda values: values["photos"][0].update(reason="it opens the page"))
    assert verify(folder).is_right


@pytest.mark.parametrize("path", ["../w.sqlite3", "/etc/passwd", "a/../../x", "a\\b", "", 'a"b'])
def test_a_list_cannot_lead_out_of_its_folder(folder: Path, path: str) -> None:
    changed(folder, lambda values: values["photos"][0]["files"][0].update(path=path))
    with pytest.raises(UsageError) as caught:
        verify(folder)
    assert caught.value.code == "invalid_packing_list"


def test_links_out_of_the_folder_are_missing_files(folder: Path, tmp_path: Path) -> None:
    target = tmp_path / "elsewhere.webp"
    (folder / "cup-96.webp").rename(target)
    (folder / "cup-96.webp").symlink_to(target)
    assert problems(folder) == [("cup-96.webp", "missing")]


@pytest.mark.parametrize("text", ["", "[]", "{}", '{"kind": "other"}', "\xff"])
def test_what_is_no_list_is_told(tmp_path: Path, text: str) -> None:
    with pytest.raises(UsageError) as caught:
        verify(tmp_path)
    assert caught.value.code == "no_packing_list"
    with pytest.raises(UsageError) as caught:
        read_packing_list(text)
    assert caught.value.code == "invalid_packing_list"


def test_the_published_schema_is_that_of_the_lists(folder: Path) -> None:
    published = (ROOT / "docs/packing-list.schema.json").read_text()
    assert published.strip() == schema()
    listed = json.loads((folder / LIST_NAME).read_text())
    described = json.loads(published)
    assert set(listed) == set(described["properties"])
    of_file = described["$defs"]["ListedFile"]
    assert set(listed["photos"][0]["files"][0]) == set(of_file["properties"])
    assert set(of_file["required"]) == set(of_file["properties"])
