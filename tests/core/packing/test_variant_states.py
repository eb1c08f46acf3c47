from dataclasses import replace
from typing import Any

import pytest

from lean_parcel.core.decisions.acts import change_aim, change_framing, done, pick_variant
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.state import State, plan_of
from lean_parcel.core.decisions.variants import DensityLimit, Variants
from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.packing.variant_states import Picked, variant_keys, variant_states
from tests.builders import source

SOURCE = source(1500, 1000)
PLACE = Place(size="700 × 300", density=2)
AVIF = Picked(format="avif", likeness=81.5, is_transparent=False)


def state(variants: Variants | None = None, framing: Framing | None = None) -> State:
    aim = Aim(place=PLACE, limit_bytes=100_000, variants=variants or Variants())
    return State(framing=framing or Framing(), aim=aim)


@pytest.mark.parametrize(
    ("picked", "formats"),
    [
        (AVIF, [("avif"), ("jpeg")]),
        (replace(AVIF, is_transparent=True), ["avif", "png"]),
        (replace(AVIF, format="jpeg"), ["jpeg"]),
        (replace(AVIF, format="webp"), ["webp", "jpeg"]),
    ],
)
def test_at_first_there_is_the_pick_and_what_opens_everywhere(
    picked: Picked, formats: list[str]
) -> None:
    decided = state()
    states = variant_states(decided, SOURCE, picked)
    assert list(variant_keys(decided, states, picked)) == [(2, name) for name in formats]


def test_each_density_has_each_format_and_the_pick_is_not_made_again() -> None:
    decided = state(Variants(densities=(1, 2, 1.5), formats=("webp", "jpeg")))
    states = variant_states(decided, SOURCE, AVIF)
    assert {density: at.aim.formats for density, at in states.items()} == {
        2: ("webp", "jpeg"),
        1: ("avif", "webp", "jpeg"),
        1.5: ("avif", "webp", "jpeg"),
    }
    assert len(list(variant_keys(decided, states, AVIF))) == 9
    assert all(at.picked_encode_id is None for at in states.values())


def test_no_density_has_more_pixels_than_the_original_or_those_of_another() -> None:
    decided = state(Variants(densities=(1, 2.5, 3, 4)), Framing(may_enlarge=True))
    states = variant_states(decided, SOURCE, AVIF)
    assert sorted(states) == [1, 2, 2.5]  # 1500 pixels are less than 1750
    assert states[2].framing.may_enlarge
    assert not states[2.5].framing.may_enlarge


@pytest.mark.parametrize("size", ["60 %", "4 × 3 cm at 600 dpi"])
def test_a_size_in_dots_stands_as_large_at_each_density(size: str) -> None:
    decided = state(Variants(densities=(1,)))
    decided = replace(decided, aim=replace(decided.aim, place=Place(size=size, density=2)))
    states = variant_states(decided, SOURCE, AVIF)
    stands = {at.aim.place.standing(plan_of(at, SOURCE).box) for at in states.values()}
    assert sorted(states) == [1, 2]
    assert len(stands) == 1


@pytest.mark.parametrize(
    ("rule", "limit_bytes", "likeness"),
    [("same", 100_000, None), ("pixels", 25_000, None), ("likeness", None, 81.5)],
)
def test_each_is_made_for_the_aim_that_the_rule_gives(
    rule: Any, limit_bytes: int | None, likeness: float | None
) -> None:
    states = variant_states(state(Variants(densities=(1,), rule=rule)), SOURCE, AVIF)
    assert (states[1].aim.limit_bytes, states[1].aim.likeness) == (limit_bytes, likeness)
    assert states[1].aim.place == replace(PLACE, density=1)


def test_a_chosen_variant_stays_until_its_picture_would_be_another() -> None:
    chosen = done(pick_variant(1, "jpeg", 7), state(Variants(densities=(1,))), SOURCE)
    assert [pick.encode_id for pick in chosen.variant_picks] == [7]
    other = done(pick_variant(1, "jpeg", 8), chosen, SOURCE)
    assert [pick.encode_id for pick in other.variant_picks] == [8]
    assert done(pick_variant(1, "jpeg", None), chosen, SOURCE).variant_picks == ()
    assert done(change_aim({"limit_bytes": 9}), chosen, SOURCE).variant_picks
    for act in (
        change_framing({"metadata": "everything"}),
        change_framing({"background": "#102030"}),
        change_framing({"straighten_deg": 2.0}),
        change_aim({"size": "500"}),
    ):
        assert done(act, chosen, SOURCE).variant_picks == ()


@pytest.mark.parametrize(
    "values",
    [
        {"densities": (0.1,)},
        {"densities": (1.0, 1.0)},
        {"densities": tuple(1 + i / 10 for i in range(7))},
        {"formats": ("gif",)},
        {"formats": ("jpeg", "jpeg")},
    ],
)
def test_variants_that_cannot_be_are_refused(values: dict[str, Any]) -> None:
    with pytest.raises(UsageError) as caught:
        Variants(**values)
    assert caught.value.code == "invalid_variants"


def test_a_density_without_pixels_of_its_own_hides_none_after_it() -> None:
    tiny = state(Variants(densities=(1.1, 3)))
    tiny = replace(tiny, aim=replace(tiny.aim, place=Place(size="2")))
    assert list(variant_states(tiny, SOURCE, AVIF)) == [1, 3]


def test_without_other_formats_there_is_the_one_of_the_pick() -> None:
    assert variant_states(state(Variants(formats=())), SOURCE, AVIF) == {}
    denser = state(Variants(densities=(1,), formats=()))
    assert variant_states(denser, SOURCE, AVIF)[1].aim.formats == ("avif",)


@pytest.mark.parametrize("rule", ["same", "pixels", "likeness"])
def test_a_density_may_have_a_limit_of_its_own(rule: Any) -> None:
    limits = (DensityLimit(density=1, limit_bytes=9_000),)
    decided = state(Variants(densities=(1, 1.5), rule=rule, limits=limits))
    without = replace(decided.aim.variants, limits=())
    plain = replace(decided, aim=replace(decided.aim, variants=without))
    states, as_ruled = (variant_states(each, SOURCE, AVIF) for each in (decided, plain))
    assert states[1].aim.limit_bytes == 9_000
    assert states[1].aim.likeness == as_ruled[1].aim.likeness
    assert states[1.5].aim.limit_bytes == as_ruled[1.5].aim.limit_bytes


def test_limits_of_densities_are_possible_and_one_each() -> None:
    with pytest.raises(UsageError) as caught:
        DensityLimit(density=1, limit_bytes=0)
    assert caught.value.code == "invalid_size"
    one = DensityLimit(density=1, limit_bytes=5)
    with pytest.raises(UsageError) as caught:
        Variants(limits=(one, one))
    assert caught.value.code == "invalid_variants"
