from typing import Any

import pytest

from lean_parcel.core.errors import LeanParcelError, NotFoundError, UsageError
from lean_parcel.core.page.layout import (
    Layout,
    Spot,
    with_budget,
    with_page,
    with_page_named,
    with_photo,
    with_photo_at,
    with_photo_named,
    without_page,
    without_photo,
)
from lean_parcel.core.page.names import name_of_file


def two_pages() -> Layout:
    """Photos 1, 2 and 3 on page 1, photo 4 on page 2."""
    layout = with_page(Layout(), "Journal")
    for photo_id in (1, 2, 3):
        layout = with_photo(layout, 1, photo_id, f"p{photo_id}.jpg")
    return with_photo(layout, 2, 4, "p4.jpg")


def order(layout: Layout) -> list[list[int]]:
    return [[spot.photo_id for spot in page.spots] for page in layout.pages]


@pytest.mark.parametrize(
    ("photo_id", "page_id", "position", "expected"),
    [
        (3, 1, 0, [[3, 1, 2], [4]]),
        (1, 1, 1, [[2, 1, 3], [4]]),
        (1, 1, 99, [[2, 3, 1], [4]]),
        (2, 2, 0, [[1, 3], [2, 4]]),
        (4, 1, -5, [[4, 1, 2, 3], []]),
        (1, 1, 0, [[1, 2, 3], [4]]),
    ],
)
def test_a_photo_goes_where_it_is_put(
    photo_id: int, page_id: int, position: int, expected: list[list[int]]
) -> None:
    assert order(with_photo_at(two_pages(), photo_id, page_id, position)) == expected


def test_what_is_removed_is_gone_and_the_rest_stays() -> None:
    layout = without_photo(two_pages(), 2)
    assert order(layout) == [[1, 3], [4]]
    with pytest.raises(NotFoundError):
        layout.spot(2)
    assert order(without_page(layout, 1)) == [[4]]
    with pytest.raises(UsageError) as caught:
        without_page(without_page(layout, 1), 2)
    assert caught.value.code == "last_page"


def test_names_and_budgets() -> None:
    layout = with_photo_named(two_pages(), 3, "  Window \n shelf ")
    assert layout.spot(3).name == "Window shelf"
    layout = with_budget(with_page_named(layout, 2, "Diary"), 2, 400_000)
    assert (layout.page(2).name, layout.page(2).budget_bytes) == ("Diary", 400_000)
    assert layout.page_of(4).id == 2
    assert with_budget(layout, 2, None).page(2).budget_bytes is None


@pytest.mark.parametrize("name", ["", "  ", "x" * 121])
def test_a_name_is_neither_empty_nor_endless(name: str) -> None:
    for change in (
        lambda: with_page(Layout(), name),
        lambda: with_photo_named(two_pages(), 1, name),
        lambda: with_page_named(two_pages(), 1, name),
    ):
        with pytest.raises(UsageError) as caught:
            change()
        assert caught.value.code == "invalid_name"


@pytest.mark.parametrize(
    "change",
    [
        lambda: two_pages().page(9),
        lambda: with_photo_at(two_pages(), 1, 9, 0),
        lambda: with_photo_named(two_pages(), 9, "x"),
        lambda: without_page(two_pages(), 9),
        lambda: with_budget(two_pages(), 1, 0),
    ],
)
def test_what_cannot_be_is_refused(change: object) -> None:
    with pytest.raises(LeanParcelError):
        change()  # type: ignore[operator]


@pytest.mark.parametrize(
    ("file_name", "name"),
    [
        ("C:\\photos\\door.jpg", "door.jpg"),
        ("a\tb\0c.jpg", "a b c.jpg"),
        ("evil\u202egpj.exe", "evil gpj.exe"),
        ("👩\u200d🎨 می\u200cخواهم.jpg", "👩\u200d🎨 می\u200cخواهم.jpg"),
        ("x" * 300, "x" * 120),
        (f"{'x' * 300}.jpeg", f"{'x' * 115}.jpeg"),
        ("\x07", "photo"),
    ],
)
def test_a_photo_is_called_like_its_file_without_what_is_no_sign(file_name: str, name: str) -> None:
    assert name_of_file(file_name) == name


@pytest.mark.parametrize(
    ("values", "code"),
    [
        ({"most_bytes": 0}, "invalid_size"),
        ({"most_bytes": 10**12 + 1}, "invalid_size"),
        ({"weight": 0}, "invalid_weight"),
        ({"weight": 100.5}, "invalid_weight"),
        ({"least_likeness": 101.0}, "invalid_likeness"),
        ({"alt_text": "x" * 2_001}, "invalid_text"),
    ],
)
def test_what_a_photo_cannot_have_of_a_page_is_refused(values: dict[str, Any], code: str) -> None:
    with pytest.raises(UsageError) as caught:
        Spot(photo_id=1, name="a.png", **values)
    assert caught.value.code == code
