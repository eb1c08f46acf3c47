"""What a worker keeps of framed pixels from one task to the next."""

import numpy as np

from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.work.tasks.encoder_input import EncoderInput, pixels_sent, reference_of
from tests.builders import photo


def framed(seed: int) -> EncoderInput:
    return EncoderInput(pixels_png=lossless_png(photo(48, 32, seed)))


def test_references_of_two_photos_are_kept_and_the_third_takes_the_place_of_the_older() -> None:
    first, second, third = framed(1), framed(2), framed(3)
    kept = reference_of(first), reference_of(second)
    assert reference_of(first) is kept[0]
    assert reference_of(second) is kept[1]
    assert reference_of(first) is kept[0]
    reference_of(third)
    assert reference_of(first) is kept[0]
    assert reference_of(second) is not kept[1]


def test_pixels_are_judged_at_their_density_and_in_their_gamut() -> None:
    pixels_png = lossless_png(photo(48, 32))
    plain = reference_of(EncoderInput(pixels_png=pixels_png))
    assert reference_of(EncoderInput(pixels_png=pixels_png, density=2.0)) is not plain
    assert reference_of(EncoderInput(pixels_png=pixels_png, gamut="display-p3")) is not plain


def test_pixels_are_reduced_once_for_all_who_send_as_many() -> None:
    given = framed(4)
    whole = pixels_sent(given, 48, 32)
    np.testing.assert_array_equal(whole, reference_of(given).pixels)
    fewer = pixels_sent(given, 24, 16)
    assert fewer.shape == (16, 24, 3)
    assert pixels_sent(given, 24, 16) is fewer
