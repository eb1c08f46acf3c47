from dataclasses import replace

import pytest

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import KeptSettings
from lean_parcel.core.framing import Framing, Sharpen, Size
from lean_parcel.core.keep import kept_original
from lean_parcel.core.metadata import NO_BLOCKS, Blocks
from lean_parcel.core.orientation import Box
from lean_parcel.core.photo import Source
from lean_parcel.core.place import Place
from lean_parcel.core.plan import plan_framing
from lean_parcel.core.trial import Trial

SOURCE = Source(format="jpeg", size_bytes=9_000, width_px=300, height_px=200, has_alpha=False)
AIM = Aim(place=Place(css_width_px=300), limit_bytes=10_000)
UNFRAMED = Framing()
CREDITED = Blocks(exif=b"Exif")


def kept(
    source: Source = SOURCE,
    framing: Framing = UNFRAMED,
    aim: Aim = AIM,
    carried: Blocks = NO_BLOCKS,
) -> Trial | None:
    plan = plan_framing(source.width_px, source.height_px, framing, aim.place)
    return kept_original(source, plan, framing, aim, carried)


def test_an_original_that_nothing_happens_to_can_be_kept() -> None:
    trial = kept()
    assert trial == Trial(settings=KeptSettings(format="jpeg"), width_px=300, height_px=200)
    assert trial.is_kept
    assert kept(framing=Framing(metadata="everything"), carried=CREDITED)
    assert kept(aim=replace(AIM, place=Place(css_width_px=4000)))


@pytest.mark.parametrize(
    "framing",
    [
        Framing(orientation=6),
        Framing(straighten_deg=2),
        Framing(crop=Box(left_px=0, top_px=0, width_px=299, height_px=200)),
        Framing(size=Size(by="percent", percent=50)),
        Framing(sharpen=Sharpen(amount_percent=40)),
        Framing(fills_background=True),
        Framing(gamut="display-p3"),
    ],
)
def test_a_framing_that_changes_pixels_changes_the_file(framing: Framing) -> None:
    assert kept(framing=framing) is None


def test_metadata_that_is_to_stay_behind_keeps_the_original_behind() -> None:
    assert kept(carried=CREDITED) is None
    assert kept(carried=CREDITED, framing=Framing(metadata="no-position")) is None


def test_the_format_has_to_be_one_that_browsers_open_and_the_aim_allows() -> None:
    assert kept(replace(SOURCE, format="heic")) is None
    assert kept(aim=replace(AIM, formats=("webp", "avif"))) is None
    assert kept(aim=replace(AIM, place=Place(css_width_px=150))) is None
