from typing import Any

import pytest

from lean_parcel.core.errors import LeanParcelError, NotFoundError, UsageError
from lean_parcel.core.page import page_acts
from lean_parcel.core.page.layout import Layout, Spot
from lean_parcel.core.page.names import name_of_file


def two_pages() -> Layout:
    """Photos 1, 2 and 3 on page 1, photo 4 on page 2."""
    layout = page_acts.add_page("Journal").done(Layout())
    for photo_id in (1, 2, 3):
        layout = page_acts.add_photo(1, photo_id, f"p{photo_id}.jpg").done(layout)
    return page_acts.add_photo(2, 4, "p4.jpg").done(layout)


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
    assert order(page_acts.move_photo(photo_id, page_id, position).done(two_pages())) == expected


def test_what_is_removed_is_gone_and_the_rest_stays() -> None:
    layout = page_acts.remove_photos([2]).done(two_pages())
    assert order(layout) == [[1, 3], [4]]
    with pytest.raises(NotFoundError):
        layout.spot(2)
    assert order(page_acts.remove_page(1).done(layout)) == [[4]]
    with pytest.raises(UsageError) as caught:
        page_acts.remove_page(2).done(page_acts.remove_page(1).done(layout))
    assert caught.value.code == "last_page"


def test_names_and_budgets() -> None:
    layout = page_acts.rename_photo(3, "  Window \n shelf ").done(two_pages())
    assert layout.spot(3).name == "Window shelf"
    layout = page_acts.set_budget(2, 400_000).done(page_acts.rename_page(2, "Diary").done(layout))
    assert (layout.page(2).name, layout.page(2).budget_bytes) == ("Diary", 400_000)
    assert layout.page_of(4).id == 2
    assert page_acts.set_budget(2, None).done(layout).page(2).budget_bytes is None


@pytest.mark.parametrize(
    ("act", "words"),
    [
        (page_acts.add_page("Diary"), "New page Diary"),
        (page_acts.remove_page(2), "Removed a page"),
        (page_acts.rename_page(2, "Diary"), "Named a page Diary"),
        (page_acts.set_budget(2, 90_000), "Budget"),
        (page_acts.change_settings(2, {"density": 2.0}), "Settings of a page"),
        (page_acts.set_delivery(2, {}), "Names and path of a page's files"),
        (page_acts.set_shares([1], {"weight": 2}), "What photos get of a page"),
        (page_acts.set_code([1], {"alt_text": "A door"}), "How photos stand in page code"),
        (page_acts.name_file(1, 2, "avif", "door"), "The name of a file"),
        (page_acts.add_photo(2, 5, "Jug"), "Added Jug"),
        (page_acts.remove_photos([1]), "Removed a photo"),
        (page_acts.remove_photos([1, 2]), "Removed 2 photos"),
        (page_acts.rename_photo(1, "Jug"), "Named a photo Jug"),
        (page_acts.move_photo(1, 2, 0), "Moved a photo"),
        (page_acts.move_photos([1, 2, 3], 2), "Moved 3 photos"),
        (page_acts.together("Took 2 photos"), "Took 2 photos"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_every_act_has_its_words_and_can_be_done(act: page_acts.PageAct, words: str) -> None:
    assert act.words == words
    assert act.done(two_pages()).pages


@pytest.mark.parametrize("name", ["", "  ", "x" * 121])
def test_a_name_is_neither_empty_nor_endless(name: str) -> None:
    for change in (
        lambda: page_acts.add_page(name).done(Layout()),
        lambda: page_acts.rename_photo(1, name).done(two_pages()),
        lambda: page_acts.rename_page(1, name).done(two_pages()),
    ):
        with pytest.raises(UsageError) as caught:
            change()
        assert caught.value.code == "invalid_name"


@pytest.mark.parametrize(
    "change",
    [
        lambda: two_pages().page(9),
        lambda: page_acts.move_photo(1, 9, 0).done(two_pages()),
        lambda: page_acts.rename_photo(9, "x").done(two_pages()),
        lambda: page_acts.remove_page(9).done(two_pages()),
        lambda: page_acts.set_budget(1, 0).done(two_pages()),
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


def test_photos_stand_in_the_order_in_which_they_were_dropped() -> None:
    layout = Layout()
    for photo_id, order in ((1, 0), (2, 12), (3, 11), (4, 14), (5, 13), (6, 0), (7, 10)):
        layout = page_acts.add_photo(1, photo_id, "Cup", order).done(layout)
    assert [spot.photo_id for spot in layout.pages[0].spots] == [1, 3, 2, 5, 4, 6, 7]
