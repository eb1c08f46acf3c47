import warnings

import cv2
import numpy as np
import pytest
from benchmarks.pictures import pictures

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings, PngSettings, WebpSettings
from lean_parcel.core.errors import UsageError
from lean_parcel.core.likeness.flip import flip, seen
from lean_parcel.core.likeness.reference import DARK, LIGHT, Reference
from lean_parcel.core.likeness.weights import WEIGHTS
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.pixels import over_background
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, demo_pixels, file, photo


def independent(reference: U8, candidate: U8, folder: object) -> float:
    """The score by the `ssimulacra2` package (PyPI, 0.3), which shares no code with ours."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from ssimulacra2 import compute_ssimulacra2  # noqa: PLC0415 - slow to import

        paths = []
        for name, pixels in (("reference", reference), ("candidate", candidate)):
            path = folder / f"{name}.png"  # type: ignore[operator]
            path.write_bytes(file(pixels))
            paths.append(str(path))
        return float(compute_ssimulacra2(*paths))


DAMAGES = {
    "jpeg-90": lambda p: decode(encode(p, JpegSettings(quality=90, chroma="4:4:4"))),
    "jpeg-50": lambda p: decode(encode(p, JpegSettings(quality=50, chroma="4:2:0"))),
    "jpeg-5": lambda p: decode(encode(p, JpegSettings(quality=5, chroma="4:2:0"))),
    "webp-75": lambda p: decode(encode(p, WebpSettings(quality=75))),
    "avif-60": lambda p: decode(encode(p, AvifSettings(quality=60, chroma="4:2:0"))),
    "png-12": lambda p: decode(encode(p, PngSettings(colours=12))),
    "blur": lambda p: cv2.GaussianBlur(p, (0, 0), 1.2),
    "shift": lambda p: np.roll(p, 1, axis=1),
}


def test_the_weights_are_those_of_the_package() -> None:
    """Many hardly count in any one picture, so a wrong one would stay unseen."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from ssimulacra2.ssimulacra2 import weights  # noqa: PLC0415 - slow to import
    np.testing.assert_array_equal(WEIGHTS, weights)


@pytest.mark.parametrize("damage", DAMAGES)
@pytest.mark.parametrize(
    "name", ["speckled-glaze.jpg", "opening-hours.jpg", "red-cup-blue-door.jpg"]
)
def test_agrees_with_the_independent_package(damage: str, name: str, tmp_path: object) -> None:
    original = np.ascontiguousarray(demo_pixels(name, 420)[:256, :352])
    candidate = np.ascontiguousarray(DAMAGES[damage](original))
    expected = independent(original, candidate, tmp_path)
    ours = Reference(original).likeness(candidate)
    assert ours == pytest.approx(expected, abs=0.75 if expected > 50 else 3)


def score_of_crop(original: U8, candidate: U8, top_px: int, left_px: int, side_px: int) -> float:
    part = slice(top_px, top_px + side_px), slice(left_px, left_px + side_px)
    reference = Reference(np.ascontiguousarray(original[part]))
    return reference.likeness(np.ascontiguousarray(candidate[part]))


@pytest.mark.parametrize("damage", ["jpeg-50", "webp-75", "avif-60"])
@pytest.mark.parametrize("name", ["noise 1", "noise 3"])
def test_crops_of_a_texture_keep_their_score_at_falling_sizes(damage: str, name: str) -> None:
    original = np.ascontiguousarray(np.tile(pictures()[name], (2, 2, 1))[:384, :384])
    candidate = np.ascontiguousarray(DAMAGES[damage](original))
    whole = score_of_crop(original, candidate, 0, 0, 384)
    for side_px in (192, 96, 48, 32):
        tiles = range(0, 384 - side_px + 1, max(side_px, 96))
        scores = [
            score_of_crop(original, candidate, top, left, side_px)
            for top in tiles
            for left in tiles
        ]
        assert float(np.mean(scores)) == pytest.approx(whole, abs=9), side_px


@pytest.mark.parametrize("damage", ["jpeg-50", "avif-60"])
@pytest.mark.parametrize("name", ["speckled-glaze.jpg", "kiln-night.jpg"])
def test_a_row_less_is_no_step(damage: str, name: str) -> None:
    original = np.ascontiguousarray(demo_pixels(name, 640)[:384, :384])
    candidate = np.ascontiguousarray(DAMAGES[damage](original))
    for side_px in (289, 257, 225, 193, 161, 129, 113, 97, 65, 57):
        near = [score_of_crop(original, candidate, 88, 24, side_px - less) for less in (0, 1)]
        assert abs(near[0] - near[1]) < 3 + 120 / side_px, side_px


@pytest.mark.parametrize("side_px", [1, 3, 7, 8, 12, 24])
def test_a_tiny_picture_that_is_ruined_is_said_to_be(side_px: int) -> None:
    noise = np.random.default_rng(5).integers(0, 256, (side_px, side_px, 3)).astype(np.uint8)
    far = np.where(noise < 128, np.uint8(255), np.uint8(0))
    assert Reference(noise).likeness(far) < 30
    assert Reference(noise).likeness(np.clip(noise, 1, 254)) > 90


@pytest.mark.parametrize("side_px", [200, 110, 64, 32])
def test_small_candidates_are_in_the_order_of_a_second_metric(side_px: int) -> None:
    original = demo_pixels("red-cup-blue-door.jpg", side_px)
    settings = [JpegSettings(quality=q, chroma="4:2:0") for q in (10, 30, 60, 90)]
    candidates = [decode(encode(original, one)) for one in settings]
    likenesses = [Reference(original).likeness(one) for one in candidates]
    flips = [flip(seen(original), seen(one)) for one in candidates]
    assert likenesses == sorted(likenesses)
    assert flips == sorted(flips, reverse=True)
    assert likenesses[0] < 50


@pytest.mark.parametrize("size", [(1, 1), (7, 9), (8, 8), (33, 17), (96, 64)])
def test_identical_pictures_score_100(size: tuple[int, int]) -> None:
    pixels = photo(*size)
    assert Reference(pixels).likeness(pixels.copy()) == 100


def test_more_damage_scores_less() -> None:
    pixels = photo(256, 192)
    reference = Reference(pixels)
    qualities = (95, 80, 60, 40, 20, 5)
    scores = [
        reference.likeness(decode(encode(pixels, JpegSettings(quality=q, chroma="4:4:4"))))
        for q in qualities
    ]
    assert scores == sorted(scores, reverse=True)
    assert scores[0] < 100


def test_a_reference_gives_the_same_score_every_time() -> None:
    reference, candidate = Reference(photo()), photo(seed=2)
    assert reference.likeness(candidate) == reference.likeness(candidate)
    assert Reference(photo()).likeness(candidate) == reference.likeness(candidate)


def test_alpha_is_judged_by_the_worse_of_two_backdrops() -> None:
    original = cutout(160, 120)
    candidate = original.copy()
    candidate[..., 3] = cv2.GaussianBlur(candidate[..., 3], (0, 0), 3)
    expected = min(
        Reference(over_background(original, backdrop)).likeness(
            over_background(candidate, backdrop)
        )
        for backdrop in (DARK, LIGHT)
    )
    assert Reference(original).likeness(candidate) == expected < 100


def test_a_fault_that_shows_on_dark_only_is_seen() -> None:
    original = np.full((64, 64, 4), 230, np.uint8)
    original[..., 3] = 0
    candidate = original.copy()
    candidate[16:48, 16:48, 3] = 255
    assert Reference(original).likeness(candidate) < 50


def test_a_composed_candidate_is_compared_on_its_colour() -> None:
    original = cutout()
    flat = over_background(original, "#2060c0")
    assert Reference(original).likeness(flat, "#2060c0") == 100
    assert Reference(original).likeness(flat, "#ffffff") < 80


def test_fewer_pixels_are_enlarged_and_other_shapes_refused() -> None:
    original = photo(96, 64)
    half = cv2.resize(original, (48, 32), interpolation=cv2.INTER_AREA)
    assert Reference(original).likeness(half) < 95
    for shape in ((97, 64), (96, 60), (48, 40)):
        with pytest.raises(UsageError):
            Reference(original).likeness(photo(*shape))


@pytest.mark.parametrize("gamut", ["srgb", "display-p3"])
def test_both_pictures_are_seen_in_their_gamut(gamut: Gamut) -> None:
    """A single code that differs is not seen in either; the same codes are more colourful in P3."""
    pixels = demo_pixels("kiln-night.jpg", 200)
    nearly = pixels.copy()
    nearly[40, 60, 0] ^= 1
    reference = Reference(pixels, gamut=gamut)
    assert reference.likeness(nearly) > 99.5
    tinted = np.clip(pixels.astype(int) + np.array([14, 0, -14]), 0, 255).astype(np.uint8)
    assert 20 < reference.likeness(tinted) < 95


def test_a_tint_is_seen_more_in_the_wider_gamut() -> None:
    pixels = demo_pixels("kiln-night.jpg", 200)
    tinted = np.clip(pixels.astype(int) + np.array([14, 0, -14]), 0, 255).astype(np.uint8)
    wide, narrow = (Reference(pixels, gamut=g).likeness(tinted) for g in ("display-p3", "srgb"))
    assert wide != pytest.approx(narrow, abs=0.2)
