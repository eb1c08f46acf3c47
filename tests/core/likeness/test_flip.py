import cv2
import numpy as np
import pytest

from lean_parcel.core.arrays import U8
from lean_parcel.core.likeness.flip import flip, seen
from tests.builders import photo

PHOTO = photo(96, 64)

#: By `flip-evaluator` 1.7 (the authors' own package), which shares no code with ours, at its
#: defaults: standard range, 67.02 pixels a degree.
BY_THE_PACKAGE = {
    "blurred": (cv2.GaussianBlur(PHOTO, (0, 0), 1.2), 0.0830080658),
    "moved": (np.roll(PHOTO, 1, 1), 0.2183793634),
}


@pytest.mark.parametrize("name", BY_THE_PACKAGE)
def test_flip_equals_that_of_its_authors(name: str) -> None:
    candidate, expected = BY_THE_PACKAGE[name]
    assert flip(seen(PHOTO), seen(candidate)) == pytest.approx(expected, abs=2e-5)


def test_identical_pictures_are_not_apart_and_more_damage_is_further() -> None:
    def blurred(sigma_px: float) -> U8:
        return np.asarray(cv2.GaussianBlur(PHOTO, (0, 0), sigma_px), np.uint8)

    distances = [flip(seen(PHOTO), seen(blurred(sigma_px))) for sigma_px in (0.5, 1, 2, 4)]
    assert flip(seen(PHOTO), seen(PHOTO.copy())) == 0
    assert distances == sorted(distances)
    black = np.zeros((32, 32, 3), np.uint8)
    assert 0.5 < flip(seen(black), seen(255 - black)) <= 1


def test_the_gamut_counts() -> None:
    saturated = np.full((32, 32, 3), (250, 40, 30), np.uint8)
    duller = np.full((32, 32, 3), (220, 60, 50), np.uint8)
    in_srgb = flip(seen(saturated), seen(duller))
    in_p3 = flip(seen(saturated, "display-p3"), seen(duller, "display-p3"))
    assert in_srgb != pytest.approx(in_p3, abs=1e-3)
