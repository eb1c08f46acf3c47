from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lean_parcel.core.candidates.close_call import TOO_CLOSE
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.search.by_aim import search_by_aim
from tests.core.search.fake_encoder import SEARCH_INPUT, carry_out, fake_encoder

PLACE = Place(css_width_px=1000)


def run(name: Format, aim: Aim) -> tuple[Candidate, dict[Trial, Measured]]:
    """A format's candidate, and everything it had encoded."""
    return carry_out(search_by_aim(name, SEARCH_INPUT, aim, "#ffffff"), fake_encoder)


@pytest.mark.parametrize("name", FORMATS)
def test_no_more_is_spent_than_it_takes(name: Format) -> None:
    aim = Aim(place=PLACE, limit_bytes=2_000_000, likeness=80)
    found, _ = run(name, aim)
    alone, _ = run(name, replace(aim, limit_bytes=None))
    most, _ = run(name, replace(aim, likeness=None))
    assert found == alone
    assert found.measured.likeness >= 80
    assert found.measured.size_bytes < most.measured.size_bytes / 2


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("limit_bytes", [8_000, 20_000])
def test_where_the_limit_is_too_low_for_it_the_best_looking_is_found(
    name: Format, limit_bytes: int
) -> None:
    aim = Aim(place=PLACE, limit_bytes=limit_bytes, likeness=98)
    assert run(name, aim)[0] == run(name, replace(aim, likeness=None))[0]


@settings(max_examples=150, deadline=None)
@given(st.sampled_from(FORMATS), st.integers(500, 400_000), st.floats(1, 99))
def test_a_limit_and_a_likeness_together_are_kept(
    name: Format, limit_bytes: int, likeness: float
) -> None:
    aim = Aim(place=PLACE, limit_bytes=limit_bytes, likeness=likeness)
    found, made = run(name, aim)
    assert found.measured == made[found.trial]
    assert found.meets_aim == (found.measured.size_bytes <= limit_bytes)
    by_limit, of_limit = run(name, replace(aim, likeness=None))
    by_likeness, of_likeness = run(name, replace(aim, limit_bytes=None))
    lightest = by_likeness.measured
    if aim.is_enough(found.measured.likeness) and found.meets_aim:
        best = min(
            (each for each in (lightest, by_limit.measured) if aim.is_enough(each.likeness)),
            key=lambda each: each.size_bytes,
        )
        assert found.measured.size_bytes <= best.size_bytes
    else:
        assert found == by_limit
        if by_likeness.meets_aim and lightest.size_bytes <= limit_bytes:
            assert by_limit.measured.likeness < likeness - TOO_CLOSE
    assert made.keys() <= of_limit.keys() | of_likeness.keys()
