"""What is found in pictures with damage of a known kind in a known place.

`make bench` has the whole table; this has one way of each kind, on pictures that the measures were
not set on but for one.
"""

import io
from itertools import groupby, pairwise

import cv2
import numpy as np
import pytest
from benchmarks.damage import Examined, examined, is_seen
from benchmarks.damage_injections import cases
from benchmarks.pictures import pictures
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.damage.kinds import KINDS, MILD
from lean_parcel.core.damage.spots import trouble_spots
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings, Settings
from lean_parcel.core.errors import UsageError
from lean_parcel.core.likeness.reference import DARK, LIGHT, Reference
from lean_parcel.core.picture.pixels import over_background
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, demo_pixels, photo

WAYS = {
    "blurred", "median", "steps", "means", "ripples", "posterised", "coarse", "tinted", "hue",
    "flattened", "brightened",
}  # fmt: skip


@pytest.fixture(scope="module")
def every() -> list[Examined]:
    made_up = pictures()
    chosen = {name: made_up[name] for name in ("noise 2", "gradient 3", "foliage 3")}
    chosen["kiln-night.jpg"] = demo_pixels("kiln-night.jpg", 640)
    found = []
    for name, picture in chosen.items():
        examiner = Examiner(Reference(picture))
        found += [examined(examiner, case) for case in cases(name, picture, WAYS) if is_seen(case)]
    return found


def test_the_right_kind_is_named_first(every: list[Examined]) -> None:
    assert len(every) >= 60
    wrong = [one.case for one in every if not one.is_named]
    assert len(wrong) <= 0.03 * len(every), [(case.picture, case.way) for case in wrong]


def test_the_right_area_is_hit(every: list[Examined]) -> None:
    missed = [one.case for one in every if not one.is_placed]
    assert len(missed) <= 0.03 * len(every), [(case.picture, case.way) for case in missed]


def test_more_damage_is_stronger(every: list[Examined]) -> None:
    for name, steps in groupby(every, key=lambda one: (one.case.picture, one.case.way)):
        strengths = [one.strength for one in steps]
        assert all(np.diff(strengths) > 0), (name, strengths)


@pytest.mark.parametrize("picture", [photo(), photo(20, 9), cutout()], ids=str)
def test_identical_pictures_have_no_damage(picture: U8) -> None:
    damage = Examiner(Reference(picture)).examine(picture.copy())
    assert damage.likeness == 100
    assert trouble_spots(damage, picture.shape[1::-1]) == []
    assert set(damage.strengths.values()) == {0.0}
    assert damage.verdict == "No damage is seen."


@pytest.mark.parametrize("name", ["dusk-window.jpg", "speckled-glaze.jpg", "opening-hours.jpg"])
@pytest.mark.parametrize(
    "settings",
    [
        JpegSettings(quality=98, chroma="4:4:4"),
        AvifSettings(quality=97, chroma="4:4:4"),
    ],
    ids=lambda settings: settings.format,
)
def test_what_is_as_good_as_the_original_raises_no_alarm(name: str, settings: Settings) -> None:
    pixels = demo_pixels(name, 640)
    damage = Examiner(Reference(pixels)).examine(decode(encode(pixels, settings)))
    assert damage.likeness > 92
    spots = trouble_spots(damage, pixels.shape[1::-1])
    assert all(spot.strength < MILD for spot in spots)


@pytest.mark.parametrize("size_px", [(1, 1), (3, 40), (9, 7), (64, 64), (101, 67)], ids=str)
def test_pictures_of_any_size_are_examined(size_px: tuple[int, int]) -> None:
    pixels = photo(*size_px)
    damage = Examiner(Reference(pixels)).examine(255 - pixels)
    assert set(damage.strengths) == set(KINDS)
    rows, columns = -(-size_px[1] // 8), -(-size_px[0] // 8)
    assert {plane.shape for plane in damage.maps.values()} == {(rows, columns)}


def test_blocks_are_found_on_the_grid_of_a_candidate_with_fewer_pixels() -> None:
    pixels = demo_pixels("dusk-window.jpg", 720)
    small = reduce(pixels, 440, 293)
    blocky = decode(encode(small, JpegSettings(quality=12, chroma="4:4:4")))
    soft = Examiner(Reference(pixels)).examine(small)
    damage = Examiner(Reference(pixels)).examine(blocky)
    assert damage.strengths["blocks"] > 20 + soft.strengths["blocks"]


def test_transparent_damage_is_judged_on_the_worse_backdrop() -> None:
    picture = cutout(192, 128)
    bitten = picture.copy()
    bitten[..., 3] = cv2.GaussianBlur(picture[..., 3], (0, 0), 6)
    damage = Examiner(Reference(picture)).examine(bitten)
    alone = [
        Examiner(Reference(over_background(picture, backdrop))).examine(
            over_background(bitten, backdrop)
        )
        for backdrop in (DARK, LIGHT)
    ]
    for kind in KINDS:
        assert damage.strengths[kind] >= max(one.strengths[kind] for one in alone) - 1e-6
    assert damage.likeness == min(one.likeness for one in alone)


def test_the_same_pictures_give_the_same_damage() -> None:
    pixels = demo_pixels("kiln-night.jpg", 320)
    candidate = decode(encode(pixels, JpegSettings(quality=30, chroma="4:2:0")))
    examiner = Examiner(Reference(pixels))
    first, second = examiner.examine(candidate), examiner.examine(candidate)
    fresh = Examiner(Reference(pixels)).examine(candidate)
    assert first.strengths == second.strengths == fresh.strengths
    for kind in KINDS:
        np.testing.assert_array_equal(first.maps[kind], fresh.maps[kind])


def test_another_shape_is_refused() -> None:
    with pytest.raises(UsageError):
        Examiner(Reference(photo(96, 64))).examine(photo(64, 96))


P3 = np.array(
    [[1.2249402, -0.2249402, 0], [-0.0420570, 1.0420570, 0], [-0.0196376, -0.0786361, 1.0982736]]
)


def shown_without_its_profile(pixels: U8) -> U8:
    """The codes of a picture in Display P3, taken for sRGB."""
    light = np.where(
        pixels / 255 <= 0.04045, pixels / 255 / 12.92, ((pixels / 255 + 0.055) / 1.055) ** 2.4
    )
    wide = np.clip(light @ np.linalg.inv(P3).T, 0, 1)
    codes = np.where(wide <= 0.0031308, 12.92 * wide, 1.055 * wide ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(codes * 255), np.uint8)


def test_a_lost_profile_is_named_as_the_likely_cause() -> None:
    pixels = demo_pixels("red-cup-blue-door.jpg", 480)
    examiner = Examiner(Reference(pixels))
    damage = examiner.examine(shown_without_its_profile(pixels))
    assert max(damage.strengths, key=damage.strengths.__getitem__) == "colour-shift"
    assert "Display P3 profile was lost" in damage.verdict
    warmer = np.asarray(np.clip(pixels * np.array([1.12, 1, 0.88]), 0, 255), np.uint8)
    assert "profile" not in examiner.examine(warmer).verdict


def smooth_fold(seed: int) -> U8:
    """A sky: a slope of light and colour that bends, with a little grain."""
    chance = np.random.default_rng(seed)
    y, x = np.mgrid[:240, :320] / 240
    angle = chance.uniform(0, 2 * np.pi)
    along = np.cos(angle) * x + np.sin(angle) * y + 0.3 * np.sin(2 * x + chance.uniform(0, 3))
    low, high = chance.uniform(40, 110, 3), chance.uniform(130, 230, 3)
    share = (along - along.min()) / np.ptp(along)
    sky = low + share[..., None] * (high - low) + chance.normal(0, 0.7, (240, 320, 1))
    return np.asarray(np.rint(sky.clip(0, 255)), np.uint8)


@pytest.mark.parametrize("seed", range(4))
def test_steps_of_a_sky_are_seen_and_the_more_the_coarser_it_was_saved(seed: int) -> None:
    sky = smooth_fold(seed)
    examiner = Examiner(Reference(sky))
    strengths = []
    for quality in (25, 12, 6, 3):
        out = io.BytesIO()
        Image.fromarray(sky).save(out, "JPEG", quality=quality)
        damage = examiner.examine(decode(out.getvalue()))
        assert trouble_spots(damage, (320, 240))[0].kind in ("blocks", "banding"), quality
        strengths.append(max(damage.strengths["blocks"], damage.strengths["banding"]))
    assert strengths[0] > MILD
    assert all(after > before - 3 for before, after in pairwise(strengths)), strengths
    assert strengths[-1] > strengths[0] + 15


def test_an_area_that_is_lighter_ends_without_a_grid() -> None:
    sky = smooth_fold(1)
    lighter = sky.copy()
    lighter[64:160, 96:224] = np.clip(lighter[64:160, 96:224].astype(int) + 12, 0, 255)
    spots = trouble_spots(Examiner(Reference(sky)).examine(lighter), (320, 240))
    assert spots[0].kind == "contrast-shift"
    assert all(spot.kind != "blocks" for spot in spots)


@pytest.mark.parametrize("density", [1.5, 2.0, 3.0])
def test_dense_pictures_have_maps_of_their_place_and_less_to_see(density: float) -> None:
    pixels = demo_pixels("red-cup-blue-door.jpg", 640)
    candidate = decode(encode(pixels, JpegSettings(quality=25, chroma="4:2:0")))
    near = Examiner(Reference(pixels)).examine(candidate)
    far = Examiner(Reference(pixels, density=density)).examine(candidate)
    assert {kind: plane.shape for kind, plane in far.maps.items()} == {
        kind: plane.shape for kind, plane in near.maps.items()
    }
    assert far.likeness > near.likeness
    assert far.strengths["lost-detail"] < near.strengths["lost-detail"]
    worst = [np.stack(list(one.maps.values())).max(0) for one in (near, far)]
    assert np.corrcoef(worst[0].ravel(), worst[1].ravel())[0, 1] > 0.5
