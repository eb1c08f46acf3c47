from dataclasses import replace

import pytest

from lean_parcel.core.candidates.pass_through import pass_through_trials
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.metadata.policy import POLICY_NAMES
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen
from tests.builders import source

SOURCE = source(300, 200)
AIM = Aim(place=Place(size="300"), limit_bytes=10_000)
UNFRAMED = Framing()


def passed(
    original: Source = SOURCE,
    framing: Framing = UNFRAMED,
    aim: Aim = AIM,
) -> Trial | None:
    """The original as it is, if it can go out."""
    plan = plan_framing(original, framing, aim.place)
    trials = pass_through_trials(original, plan, framing, aim)
    return trials[-1] if trials else None


def test_an_original_that_nothing_happens_to_can_be_passed() -> None:
    trial = passed()
    settings = PassThrough(format="jpeg", keeps_metadata=False)
    assert trial == Trial(settings=settings, width_px=300, height_px=200)
    assert trial.is_pass_through
    assert passed(aim=replace(AIM, place=Place(size="4000")))


@pytest.mark.parametrize(
    "framing",
    [
        Framing(orientation=6),
        Framing(straighten_deg=2),
        Framing(crop=Box(left_px=0, top_px=0, width_px=299, height_px=200)),
        Framing(sharpen=Sharpen(amount_percent=40)),
        Framing(fills_background=True),
        Framing(gamut="display-p3"),
    ],
)
def test_a_framing_that_changes_pixels_changes_the_file(framing: Framing) -> None:
    assert passed(framing=framing) is None


def test_it_goes_out_to_the_byte_only_where_all_its_metadata_may() -> None:
    for policy in POLICY_NAMES:
        trial = passed(framing=Framing(metadata=policy))
        assert trial
        assert isinstance(trial.settings, PassThrough)
        assert trial.settings.keeps_metadata == (policy == "everything")


def test_the_format_has_to_be_one_that_browsers_open_and_the_aim_allows() -> None:
    assert passed(replace(SOURCE, format="heic")) is None
    assert passed(aim=replace(AIM, formats=("webp", "avif"))) is None
    assert passed(aim=replace(AIM, place=Place(size="150"))) is None
    assert passed(aim=replace(AIM, place=Place(size="50 %"))) is None


def test_jpeg_and_png_are_repacked_whatever_the_policy() -> None:
    for name in ("jpeg", "png", "webp", "avif"):
        original = source(300, 200, name)
        for policy in POLICY_NAMES:
            framing = Framing(metadata=policy)
            plan = plan_framing(original, framing, AIM.place)
            first, *others = pass_through_trials(original, plan, framing, AIM)
            assert isinstance(first.settings, PassThrough)
            assert first.settings.repacked == bool(others) == (name in ("jpeg", "png"))
            assert not (first.settings.repacked and first.settings.keeps_metadata)
