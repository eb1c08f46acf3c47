"""Colours that a PNG signals beside a profile, as Chromium 156 shows them.

The expected codes were read from Chromium's canvas, of codes 8, 32, 64, 128 and 192 in grey, and of
(250, 60, 0).
"""

import struct

import numpy as np
import pytest

from lean_parcel.core.original.photo import is_shown_otherwise, open_pixels
from lean_parcel.core.original.signalled import signalled
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.gamut import profile_of
from tests.files import chunk, cicp, gamma, png

PLAIN = ((8, 32, 64, 128, 192), (250, 60, 0))
GAMMA_1 = ((50, 99, 137, 188, 225), (253, 133, 0))


SRGB = chunk(b"sRGB", b"\0")
P3 = chunk(b"cHRM", struct.pack(">8I", 31270, 32900, 68000, 32000, 26500, 69000, 15000, 6000))


def shown(data: bytes) -> np.ndarray[tuple[int, ...], np.dtype[np.int_]]:
    return open_pixels(data, "a.png", Limits())[0].astype(int)


@pytest.mark.parametrize(
    ("chunks", "expected"),
    [
        ((), PLAIN),
        ((gamma(100_000),), GAMMA_1),
        ((gamma(45_455),), PLAIN),
        ((gamma(55_556),), ((6, 43, 81, 146, 203), (251, 77, 0))),
        ((gamma(500_000),), ((188, 212, 226, 240, 249), (255, 224, 0))),
        ((gamma(0),), PLAIN),
        ((gamma(45_455), P3), ((2, 26, 62, 129, 193), (255, 10, 0))),
        ((P3,), PLAIN),
        ((SRGB, gamma(100_000)), PLAIN),
        ((cicp(12, 13),), ((8, 32, 64, 128, 192), (255, 20, 0))),
        ((cicp(1, 13), gamma(100_000)), PLAIN),
        ((cicp(1, 8),), GAMMA_1),
        ((cicp(1, 1),), ((1, 20, 54, 121, 189), (250, 49, 0))),
        ((cicp(9, 1),), ((1, 20, 53, 121, 189), (255, 0, 0))),
        ((cicp(1, 4),), ((2, 26, 62, 129, 193), (250, 57, 0))),
        ((cicp(2, 2), gamma(100_000)), GAMMA_1),
        ((cicp(12, 13, full=0),), PLAIN),
    ],
)
def test_colours_are_those_that_a_browser_shows(
    chunks: tuple[bytes, ...], expected: tuple[tuple[int, ...], tuple[int, ...]]
) -> None:
    pixels = shown(png(*chunks))
    greys, colour = expected
    assert np.abs(pixels[:5] - np.array(greys)[:, None]).max() <= 1
    assert np.abs(pixels[5] - colour).max() <= 1
    is_plain = expected == PLAIN
    assert (signalled(png(*chunks), "png") in (None,)) == (is_plain and cicp(1, 13) not in chunks)


def test_a_profile_goes_before_gamma_and_cicp_before_a_profile() -> None:
    p3 = profile_of("display-p3")
    with_profile = shown(png(profile=p3))
    assert np.array_equal(shown(png(gamma(100_000), profile=p3)), with_profile)
    assert np.array_equal(shown(png(cicp(1, 13), profile=p3)), shown(png()))
    assert not np.array_equal(with_profile, shown(png()))


def test_grey_is_read_by_its_gamma_too() -> None:
    pixels = shown(png(gamma(100_000), grey=True))
    assert np.abs(pixels[:5] - np.array(GAMMA_1[0])[:, None]).max() <= 1


@pytest.mark.parametrize(
    "chunks",
    [
        (gamma(2**31),),
        (gamma(1),),
        (chunk(b"gAMA", b"\0"),),
        (chunk(b"cICP", b"\x09"),),
        (gamma(50_000), chunk(b"cHRM", bytes(32))),
        (gamma(50_000), chunk(b"cHRM", b"\xff" * 32)),
    ],
)
def test_numbers_that_are_no_colours_harm_nothing(chunks: tuple[bytes, ...]) -> None:
    assert shown(png(*chunks)).shape == (6, 3)


@pytest.mark.parametrize("transfer", [16, 18])
def test_more_light_than_paper_white_is_known(transfer: int) -> None:
    assert is_shown_otherwise(png(cicp(9, transfer)), "png")
    assert not is_shown_otherwise(png(cicp(9, 1)), "png")
