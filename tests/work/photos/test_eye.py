"""Blind rounds: honest, answered once, and kept in the journal."""

from pathlib import Path

import numpy as np
import pytest

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import JpegSettings
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.eye.blind import ROUNDS, Side
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.work.photos.eye import Series
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import made_by_hand, settled

AIM = Aim(place=Place(size="96"), limit_bytes=3_000, formats=("jpeg",))


@pytest.fixture
def photo_id(workspace: Workspace) -> int:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    return photo_id


def ruined(workspace: Workspace, photo_id: int, quality: int = 5) -> int:
    settings = JpegSettings(quality=quality, chroma="4:2:0")
    return made_by_hand(workspace, photo_id, settings).id


def original_side(workspace: Workspace, series: Series) -> Side:
    """The side that somebody sees who notices everything."""
    view = settled(workspace, series.photo_id)
    assert view.framed
    original = decode(workspace.files.framed_pixels(view.framed.id))
    for side in ("a", "b"):
        data, _ = workspace.eye.picture(series.id, series.round, side)
        if np.array_equal(decode(data), original):
            return side
    raise AssertionError("neither is the original")


def test_a_ruined_candidate_is_always_told_and_that_is_kept(
    workspace: Workspace, photo_id: int
) -> None:
    series = workspace.eye.check(photo_id, ruined(workspace, photo_id))
    sides = []
    while not series.outcome:
        sides.append(original_side(workspace, series))
        series = workspace.eye.answer(series.id, series.round, sides[-1])
    assert len(sides) == ROUNDS
    assert set(sides) == {"a", "b"}
    assert f"in {ROUNDS} of {ROUNDS} rounds" in series.outcome.words
    assert "0.1 % of cases" in series.outcome.words
    assert settled(workspace, photo_id).state.outcomes == (series.outcome,)
    assert workspace.viewing.journal(photo_id)[-1][0].words.startswith("Own eye: Told JPEG")
    workspace.deciding.undo(photo_id)
    assert settled(workspace, photo_id).state.outcomes == ()


def test_a_round_is_answered_once_and_its_pictures_end_with_it(
    workspace: Workspace, photo_id: int
) -> None:
    series = workspace.eye.check(photo_id, ruined(workspace, photo_id))
    workspace.eye.answer(series.id, 0, "a")
    for ended in (
        lambda: workspace.eye.answer(series.id, 0, "a"),
        lambda: workspace.eye.picture(series.id, 0, "a"),
        lambda: workspace.eye.answer(series.id + 1, 0, "a"),
    ):
        with pytest.raises(NotFoundError):
            ended()


def test_of_two_candidates_the_nearer_is_chosen(workspace: Workspace, photo_id: int) -> None:
    good, bad = ruined(workspace, photo_id, 90), ruined(workspace, photo_id, 5)
    files = {i: workspace.files.encoded(i)[1] for i in (good, bad)}
    series = workspace.eye.choice(photo_id, bad, good)
    while not series.outcome:
        shown, _ = workspace.eye.picture(series.id, series.round, "a")
        side: Side = "a" if shown == files[good] else "b"
        series = workspace.eye.answer(series.id, series.round, side)
    assert series.outcome.words.startswith("Found JPEG")
    assert f"in {ROUNDS} of {ROUNDS}" in series.outcome.words


@pytest.mark.parametrize("from_ruin", [True, False])
def test_a_threshold_is_found_along_a_curve(
    workspace: Workspace, photo_id: int, *, from_ruin: bool
) -> None:
    """By somebody who notices the worse half of the curve and guesses above."""
    made = [ruined(workspace, photo_id, quality) for quality in range(4, 100, 6)]
    chance = np.random.default_rng(3)
    series = workspace.eye.threshold(photo_id, made[0], from_ruin=from_ruin)
    assert series.stairs
    true = float(np.median(series.stairs.levels))
    while not series.outcome:
        side = original_side(workspace, series)
        if series.second.measured.likeness > true and chance.integers(2):
            side = "b" if side == "a" else "a"
        series = workspace.eye.answer(series.id, series.round, side)
    outcome = series.outcome
    assert outcome.likeness
    assert outcome.uncertainty
    assert abs(outcome.likeness - true) <= outcome.uncertainty
    assert settled(workspace, photo_id).state.outcomes == (outcome,)
    other_id = workspace.adding.add_photo("b.png", file(photo(seed=2)), aim=AIM)
    assert settled(workspace, other_id).own_threshold == outcome
    workspace.deciding.undo(photo_id)
    assert settled(workspace, other_id).own_threshold is None


def test_a_threshold_needs_a_curve(workspace: Workspace) -> None:
    aim = Aim(place=Place(size="96"), limit_bytes=900_000, formats=("png",))
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=aim)
    only = settled(workspace, photo_id).encodes.made[0]
    with pytest.raises(UsageError) as refused:
        workspace.eye.threshold(photo_id, only.id, from_ruin=True)
    assert refused.value.code == "too_few_candidates"


def test_a_seed_repeats_the_tosses(tmp_path: Path) -> None:
    tosses = []
    for number in range(2):
        path = tmp_path / f"{number}.sqlite3"
        workspace = Workspace(path, InlineExecutor(), Limits(), seed=7)
        photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
        encode = settled(workspace, photo_id).encodes.made[0]
        tosses.append(workspace.eye.check(photo_id, encode.id).rounds.is_first_a)
        workspace.close()
    assert tosses[0] == tosses[1]
