"""What more bytes buy, shown by damage that is put into one of two candidates."""

import cv2
import numpy as np
import pytest
from benchmarks.pictures import pictures

from lean_parcel.core.arrays import U8
from lean_parcel.core.damage.bought import Bought, bought
from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.damage.kinds import Kind
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings, Settings
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.serialisation import decode
from tests.builders import demo_pixels

#: Top, bottom, left and right of what is spoiled.
PART = slice(40, 168), slice(40, 200)
#: Two cells beside it.
NEAR_PX = 16
#: A demo photo, on which the measures were set, and a made-up picture that they have not seen.
SCENES = ("kiln-night.jpg", "foliage 3")


@pytest.fixture(scope="module", params=SCENES)
def original(request: pytest.FixtureRequest) -> U8:
    if request.param.endswith(".jpg"):
        return demo_pixels(request.param, 480)
    return pictures()[request.param]


def blurred(pixels: U8) -> U8:
    """Spoiled in one part."""
    spoiled = pixels.copy()
    spoiled[PART] = cv2.GaussianBlur(pixels[PART], (0, 0), 4)
    return spoiled


def tinted(pixels: U8) -> U8:
    spoiled = pixels.copy()
    spoiled[PART] = np.clip(np.add(pixels[PART], (0, 24, -24), dtype=np.int16), 0, 255).astype(
        np.uint8
    )
    return spoiled


def compared(original: U8, lighter: U8, heavier: U8, more_bytes: int = 51_200) -> Bought:
    examiner = Examiner(Reference(original))
    damages = [examiner.examine(each) for each in (lighter, heavier)]
    return bought(*damages, original.shape[1::-1], more_bytes)


def is_there(box: Box) -> bool:
    """Whether an area touches the spoiled part, or what is looked at as one with it."""
    rows, columns = PART
    is_beside = box.left_px > columns.stop + NEAR_PX or box.top_px > rows.stop + NEAR_PX
    is_before = (
        box.left_px + box.width_px < columns.start - NEAR_PX
        or box.top_px + box.height_px < rows.start - NEAR_PX
    )
    return not is_beside and not is_before


@pytest.mark.parametrize(
    ("spoil", "kind"), [(blurred, "lost-detail"), (tinted, "colour-shift")], ids=["blur", "tint"]
)
def test_what_only_the_lighter_has_is_bought_where_it_was(
    original: U8, spoil: object, kind: Kind
) -> None:
    assert callable(spoil)
    found = compared(original, spoil(original), original)
    assert kind in {gain.kind for gain in found.gains}
    assert all(is_there(gain.box) for gain in found.gains)
    assert all(gain.after == "nothing seen" != gain.before for gain in found.gains)
    assert found.losses == ()
    assert found.sentence.startswith("51.2 kB more take away ")
    assert found.sentence.endswith(" to nothing seen); elsewhere they are alike.")


def test_what_the_heavier_alone_has_is_told_too(original: U8) -> None:
    found = compared(original, original, blurred(original))
    assert found.gains == ()
    assert found.losses
    assert found.sentence.startswith("51.2 kB more buy nothing that is seen, but bring ")
    assert "(nothing seen to " in found.sentence


def test_damage_that_both_have_is_not_bought(original: U8) -> None:
    found = compared(original, blurred(original), blurred(original))
    assert (found.gains, found.losses) == ((), ())
    assert found.sentence == "51.2 kB more buy nothing that is seen."
    same = compared(original, original, original, more_bytes=0)
    assert same.sentence == "The same bytes buy nothing that is seen."


@pytest.mark.parametrize(
    ("lighter", "heavier"),
    [
        (AvifSettings(quality=93, chroma="4:4:4"), AvifSettings(quality=98, chroma="4:4:4")),
        (JpegSettings(quality=96, chroma="4:4:4"), JpegSettings(quality=99, chroma="4:4:4")),
    ],
    ids=lambda settings: f"{settings.format} {settings.quality}",
)
def test_more_bytes_for_what_nobody_sees_buy_nothing(
    original: U8, lighter: Settings, heavier: Settings
) -> None:
    files = [encode(original, settings) for settings in (lighter, heavier)]
    found = compared(original, *(decode(data) for data in files))
    assert len(files[1]) > 1.1 * len(files[0])
    assert found.sentence == "51.2 kB more buy nothing that is seen."


def test_more_bytes_for_a_wreck_buy_what_it_lacks(original: U8) -> None:
    wreck, good = (
        decode(encode(original, JpegSettings(quality=quality, chroma="4:2:0")))
        for quality in (12, 90)
    )
    found = compared(original, wreck, good)
    assert len(found.gains) >= 3
    assert not found.losses
    assert {gain.before for gain in found.gains} & {"mild", "strong"}
    assert {gain.kind for gain in found.gains} <= {one.kind for one in found.taken}
    assert len({one.kind for one in found.taken}) == len(found.taken)
    assert all(one.what in found.sentence for one in found.taken)
