from dataclasses import replace

import pytest

from lean_parcel.core.decisions.aim import FIRST_AIM
from lean_parcel.core.decisions.journal import change_words, differences, entry_statuses
from lean_parcel.core.decisions.state import State
from lean_parcel.core.eye.outcome import Outcome
from lean_parcel.core.framing.framing import Focus, Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen

BEFORE = State(framing=Framing(), aim=FIRST_AIM)
BOX = Box(left_px=10, top_px=20, width_px=300, height_px=200)


@pytest.mark.parametrize(
    ("after", "words"),
    [
        (BEFORE, ""),
        (replace(BEFORE, framing=Framing(crop=BOX)), "Crop: 300 × 200 at 10, 20"),
        (replace(BEFORE, framing=Framing(orientation=6)), "Turn: turned right"),
        (replace(BEFORE, framing=Framing(straighten_deg=-1.5)), "Straighten: -1.5°"),
        (replace(BEFORE, framing=Framing(focus=Focus(x=0.25))), "Focus: 25% across, 50% down"),
        (
            replace(BEFORE, aim=replace(FIRST_AIM, place=Place(size="900 long"))),
            "Size: 900 px long at 1×",
        ),
        (
            replace(BEFORE, aim=replace(FIRST_AIM, place=Place(size="9x8 contained"))),
            "Size: 9 × 8 px contained at 1×",
        ),
        (replace(BEFORE, aim=replace(FIRST_AIM, fewer_pixels=False)), "Fewer pixels: refused"),
        (
            replace(BEFORE, framing=Framing(kernel="mitchell", light="gamma")),
            "Resample: Mitchell, gamma space",
        ),
        (
            replace(BEFORE, framing=Framing(sharpen=Sharpen(amount_percent=35))),
            "Sharpen: 35 %, radius 0.7 px, threshold 2",
        ),
        (replace(BEFORE, framing=Framing(gamut="display-p3")), "Colours: Display P3"),
        (replace(BEFORE, framing=Framing(metadata="no-position")), "Metadata: all but position"),
        (replace(BEFORE, aim=replace(FIRST_AIM, limit_bytes=80_000)), "At most: 80.0 kB"),
        (replace(BEFORE, aim=replace(FIRST_AIM, limit_bytes=80_001)), "At most: 80,001 B"),
        (
            replace(BEFORE, aim=replace(FIRST_AIM, place=Place(size="380", density=2))),
            "Size: 380 px at 2×",
        ),
        (replace(BEFORE, picked_encode_id=7), "Pick: file 7"),
    ],
)
def test_an_act_is_told_in_words(after: State, words: str) -> None:
    assert change_words(BEFORE, after) == words


def test_a_pick_that_a_change_puts_back_is_not_mentioned() -> None:
    picked = replace(BEFORE, picked_encode_id=7)
    assert change_words(picked, replace(BEFORE, framing=Framing(crop=BOX))).startswith("Crop:")


def test_differences_say_both_sides_in_the_order_of_the_work() -> None:
    after = State(
        framing=Framing(crop=BOX, fills_background=True, may_enlarge=True),
        aim=replace(FIRST_AIM, formats=("webp",)),
    )
    found = differences(BEFORE, after)
    assert [d.topic for d in found] == ["Crop", "Enlarging", "Background", "Formats"]
    assert (found[0].before, found[0].after) == ("none", "300 × 200 at 10, 20")
    assert differences(after, after) == ()


def test_of_an_eye_the_last_outcome_is_told() -> None:
    outcomes = tuple(Outcome(kind="check", words=words) for words in ("First.", "Last."))
    (found,) = differences(BEFORE, replace(BEFORE, outcomes=outcomes))
    assert (found.topic, found.before, found.after) == ("Own eye", "nothing tried", "Last.")


def test_entries_that_led_to_the_current_one_are_done_and_all_others_undone() -> None:
    parents = {1: None, 2: 1, 3: 2, 4: 2, 5: 4}
    assert entry_statuses(parents, 4) == {
        1: "done",
        2: "done",
        3: "undone",
        4: "current",
        5: "undone",
    }
    assert set(entry_statuses(parents, 1).values()) == {"current", "undone"}
