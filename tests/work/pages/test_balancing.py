"""Balances over real encodes of small photos."""

import re
from pathlib import Path

import pytest

from lean_parcel.core.errors import NotFoundError, TaskCrashed, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.web.responses.page.balance import BalanceResponse
from lean_parcel.work.pages.balancing import (
    REASON,
    BalanceView,
    BalanceWish,
    mean_of,
    worst_of,
)
from lean_parcel.work.tasks.encoding import encode_task
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import FailingExecutor, HeldExecutor, InlineExecutor
from tests.workspaces import AIM, settled

PAGE = 1
BUDGET = 5_000


@pytest.fixture
def ids(workspace: Workspace) -> list[int]:
    pictures = [photo(96, 64, seed=1), photo(96, 64, seed=2), cutout(96, 64)]
    ids = [workspace.adding.add_photo(f"{i}.png", file(p), aim=AIM) for i, p in enumerate(pictures)]
    for photo_id in ids:
        settled(workspace, photo_id)
    workspace.page_editing.do(page_acts.set_budget(PAGE, BUDGET))
    return ids


def measured(workspace: Workspace, wish: BalanceWish) -> BalanceView:
    """A balance once all that decides was made."""
    workspace.balancing.measure(PAGE, wish)
    seen = -1
    while (view := workspace.balancing.view(PAGE, wish)).is_measuring:
        seen = workspace.changes.wait(seen, 30).version
    return view


def with_two_photos(path: Path, executor: InlineExecutor) -> Workspace:
    """A workspace of two photos that are weighed, where two tasks may run at a time."""
    workspace = Workspace(path, executor, Limits(), slots=2)
    for seed in (1, 2):
        data = file(photo(96, 64, seed=seed))
        settled(workspace, workspace.adding.add_photo(f"{seed}.png", data, aim=AIM))
    return workspace


def picks(view: BalanceView) -> dict[int, int]:
    return {each.spot.photo_id: each.after.id for each in view.photos}


def test_a_balance_spends_the_budget_and_changes_nothing(
    workspace: Workspace, ids: list[int]
) -> None:
    view = workspace.balancing.view(PAGE, BalanceWish())
    assert [each.spot.photo_id for each in view.photos] == ids
    assert view.spent_bytes == sum(each.after.measured.size_bytes for each in view.photos)
    assert view.spent_bytes <= view.budget_bytes == BUDGET
    assert (view.missing_bytes, worst_of(view.photos, before=True)) == (0, None)
    assert not any(each.pick for each in workspace.page_viewing.pages().photos.values())
    assert view.photos[2].after.trial.settings.format != "jpeg"  # it would lose transparency


def test_the_encodes_that_decide_make_it_better_and_surer(
    workspace: Workspace, ids: list[int]
) -> None:
    wish = BalanceWish(objective="all", spend_bytes=7_000)
    before = workspace.balancing.view(PAGE, wish)
    encodes = [len(settled(workspace, i).encodes.made) for i in ids]
    after = measured(workspace, wish)
    more = [len(settled(workspace, i).encodes.made) for i in ids]
    assert before.doubts > 0
    assert sum(more) > sum(encodes)
    assert all(new - old <= 5 for old, new in zip(encodes, more, strict=True))
    means = [mean_of(view.photos, before=False) or 0 for view in (before, after)]
    assert means[1] >= means[0]
    assert after.doubts < before.doubts or after.gap < before.gap
    assert after.spent_bytes <= 7_000


def test_of_a_photo_one_encode_is_made_at_a_time(new_file: Path) -> None:
    executor = HeldExecutor()
    workspace = with_two_photos(new_file, executor)
    executor.hold(encode_task)
    wish = BalanceWish(objective="all", spend_bytes=5_000)
    workspace.balancing.measure(PAGE, wish)
    while executor.held_count < 2:
        assert executor.has_held.wait(10)
    assert len({encoder_input for encoder_input, _ in executor.held_args}) == 2
    assert workspace.balancing.view(PAGE, wish).is_measuring
    executor.let_go()
    assert not measured(workspace, wish).is_measuring
    assert len(set(executor.held_args)) == 2
    workspace.close()


def test_pixels_that_were_let_go_are_framed_again_for_a_balance(
    workspace: Workspace, ids: list[int]
) -> None:
    with workspace.context.connection() as connection:
        connection.execute(
            "UPDATE blob SET data = x'' WHERE sha256 IN (SELECT pixels_sha256 FROM framed)"
            " AND sha256 NOT IN (SELECT original_sha256 FROM photo)"
        )
    wish = BalanceWish(objective="all", spend_bytes=7_000)
    encodes = sum(len(settled(workspace, i).encodes.made) for i in ids)
    measured(workspace, wish)
    assert sum(len(settled(workspace, i).encodes.made) for i in ids) > encodes


def test_an_encode_that_fails_is_missed_and_ends_nothing_else(new_file: Path) -> None:
    executor = FailingExecutor(None, TaskCrashed("An encoder broke."))
    workspace = with_two_photos(new_file, executor)
    wish = BalanceWish(objective="all", spend_bytes=5_000)
    before = workspace.balancing.view(PAGE, wish)
    executor.fail_from_now_on(encode_task)
    after = measured(workspace, wish)
    assert not after.is_measuring
    assert picks(after) == picks(before)
    assert BalanceResponse.of(after).sentence.startswith("2 photos miss an encode")
    workspace.close()


def test_a_photo_of_which_nothing_was_measured_is_left_over_and_named(new_file: Path) -> None:
    executor = FailingExecutor(None, TaskCrashed("An encoder broke."))
    workspace = with_two_photos(new_file, executor)
    executor.fail_from_now_on(encode_task)
    third = workspace.adding.add_photo("3.png", file(photo(120, 80, seed=3)), aim=AIM)
    settled(workspace, third)
    view = workspace.balancing.view(PAGE, BalanceWish(spend_bytes=5_000))
    assert [spot.photo_id for spot in view.unweighed] == [third]
    assert third not in picks(view)
    assert BalanceResponse.of(view).unweighed == ["3.png"]
    workspace.close()


def test_a_balance_says_in_a_sentence_how_it_stands(workspace: Workspace, ids: list[int]) -> None:
    def told(spend_bytes: int, page_id: int = PAGE) -> str:
        wish = BalanceWish(objective="all", spend_bytes=spend_bytes)
        return BalanceResponse.of(workspace.balancing.view(page_id, wish)).sentence

    assert "miss" in told(7_000)
    too_little = told(600)
    assert re.match(r"[\d.]+ k?B too little for that. \d.png needs the most, ", too_little)
    measured(workspace, BalanceWish(objective="all", spend_bytes=20_000))
    assert told(20_000) == "All that decides is measured."
    workspace.page_editing.do(page_acts.add_page("Empty"))
    assert told(1_000, page_id=2) == "None of the photos is weighed yet."


def test_once_no_more_can_be_made_nothing_is_missed(workspace: Workspace, ids: list[int]) -> None:
    wish = BalanceWish(spend_bytes=9_000)

    def encodes() -> int:
        return sum(len(settled(workspace, photo_id).encodes.made) for photo_id in ids)

    while workspace.balancing.view(PAGE, wish).doubts:
        before = encodes()
        measured(workspace, wish)
        assert encodes() > before
    assert max(each.uncertainty for each in workspace.balancing.view(PAGE, wish).photos) < 1.5


def test_it_is_taken_as_one_step_and_undone_as_one(workspace: Workspace, ids: list[int]) -> None:
    view = workspace.balancing.view(PAGE, BalanceWish())
    workspace.balancing.take(PAGE, picks(view))
    shown = workspace.page_viewing.pages()
    assert {i: pick.id for i in ids if (pick := shown.photos[i].pick)} == picks(view)
    assert shown.totals[PAGE].fetched_bytes == view.spent_bytes
    assert shown.undo_words == "Balanced First page"
    for row in shown.photos.values():
        assert bool(row.over_bytes) == (row.state.reason == REASON)
    again = workspace.balancing.view(PAGE, BalanceWish())
    assert worst_of(again.photos, before=True) == worst_of(again.photos, before=False)
    workspace.page_editing.undo()
    assert not any(each.pick for each in workspace.page_viewing.pages().photos.values())


def test_what_a_photo_asks_for_holds(workspace: Workspace, ids: list[int]) -> None:
    workspace.page_editing.do(page_acts.set_shares((ids[0],), {"most_bytes": 1_300}))
    workspace.page_editing.do(page_acts.set_shares((ids[1],), {"least_likeness": 36.0}))
    view = workspace.balancing.view(PAGE, BalanceWish(objective="all"))
    assert view.photos[0].after.measured.size_bytes <= 1_300
    assert view.photos[1].after.measured.likeness >= 36
    assert not any(each.is_too_heavy or each.is_too_unlike for each in view.photos)


@pytest.mark.parametrize("number", [0, 1])
def test_who_weighs_more_gets_more(workspace: Workspace, ids: list[int], number: int) -> None:
    def likenesses() -> list[float]:
        """Of the photo, at several budgets."""
        wishes = [
            BalanceWish(objective="all", spend_bytes=each) for each in range(1_500, 4_500, 250)
        ]
        views = [workspace.balancing.view(PAGE, wish) for wish in wishes]
        return [view.photos[number].after.measured.likeness for view in views]

    even = likenesses()
    workspace.page_editing.do(page_acts.set_shares((ids[number],), {"weight": 8.0}))
    more = likenesses()
    assert all(after >= before for before, after in zip(even, more, strict=True))
    assert more != even


def test_a_photo_s_own_likeness_takes_the_place_of_that_of_all(
    workspace: Workspace, ids: list[int]
) -> None:
    wish = BalanceWish(objective="all", least_likeness=30.0, spend_bytes=2_900)
    before = [each.after.measured.likeness for each in workspace.balancing.view(PAGE, wish).photos]
    for own in (min(90.0, before[0] + 8), 0.0):
        workspace.page_editing.do(page_acts.set_shares((ids[0],), {"least_likeness": own}))
        after = workspace.balancing.view(PAGE, wish).photos[0].after.measured.likeness
        assert after >= own
        assert (after > before[0]) == (own > before[0])


def test_what_nothing_measured_meets_is_said(workspace: Workspace, ids: list[int]) -> None:
    workspace.page_editing.do(page_acts.set_shares((ids[0],), {"most_bytes": 100}))
    workspace.page_editing.do(
        page_acts.set_shares((ids[1],), {"least_likeness": 99.0, "most_bytes": 2_000})
    )
    view = workspace.balancing.view(PAGE, BalanceWish(spend_bytes=100_000))
    assert [each.is_too_heavy for each in view.photos] == [True, False, False]
    assert [each.is_too_unlike for each in view.photos] == [False, True, False]
    told = BalanceResponse.of(view)
    assert [each.is_too_heavy for each in told.photos] == [True, False, False]
    assert [each.is_too_unlike for each in told.photos] == [False, True, False]
    sentence = told.sentence
    assert sentence.startswith("Nothing measured of 0.png is within its 100 B.")
    assert "Nothing measured of 1.png has its likeness 99." in sentence


def test_a_budget_that_is_too_small_says_by_how_much_and_what_would_fit(
    workspace: Workspace, ids: list[int]
) -> None:
    wish = BalanceWish(least_likeness=80, spend_bytes=2_900)
    view = workspace.balancing.view(PAGE, wish)
    assert view.missing_bytes == view.spent_bytes - 2_900 > 0
    assert view.reachable_likeness is not None
    fitting = BalanceWish(least_likeness=view.reachable_likeness, spend_bytes=2_900)
    assert workspace.balancing.view(PAGE, fitting).missing_bytes == 0
    enough = BalanceWish(least_likeness=80, spend_bytes=view.spent_bytes)
    assert workspace.balancing.view(PAGE, enough).missing_bytes == 0


def test_what_was_framed_anew_since_it_was_shown_is_not_taken(
    workspace: Workspace, ids: list[int]
) -> None:
    stale = picks(workspace.balancing.view(PAGE, BalanceWish()))
    swapped = {**stale, ids[0]: stale[ids[1]]}
    with pytest.raises(NotFoundError):
        workspace.balancing.take(PAGE, swapped)
    assert not any(each.pick for each in workspace.page_viewing.pages().photos.values())


def test_photos_of_other_pages_are_not_balanced_with_it(
    workspace: Workspace, ids: list[int]
) -> None:
    taken = picks(workspace.balancing.view(PAGE, BalanceWish()))
    other = workspace.page_editing.do(page_acts.add_page("Other")).pages[-1].id
    workspace.page_editing.do(page_acts.move_photos((ids[0],), other))
    with pytest.raises(NotFoundError):
        workspace.balancing.take(PAGE, taken)
    assert ids[0] not in picks(workspace.balancing.view(PAGE, BalanceWish()))


def test_a_page_without_budget_and_picks_has_to_be_told_what_to_spend(
    workspace: Workspace, ids: list[int]
) -> None:
    workspace.page_editing.do(page_acts.set_budget(PAGE, None))
    with pytest.raises(UsageError) as refused:
        workspace.balancing.view(PAGE, BalanceWish())
    assert refused.value.code == "budget_missing"
    assert workspace.balancing.view(PAGE, BalanceWish(spend_bytes=3_000)).budget_bytes == 3_000
