"""More light than paper white, and colours by numbers in AVIF and HEIC."""

import io
import struct

import numpy as np
import pillow_heif
import pytest
import pyvips

from lean_parcel.core.arrays import U8, U16
from lean_parcel.core.original.hdr import (
    PAPER_WHITE,
    light_of_hlg,
    light_of_pq,
    pq_of_light,
    rolled_off,
)
from lean_parcel.core.original.photo import is_shown_otherwise, open_pixels
from lean_parcel.core.original.signalled import signalled
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.gamut import Gamut, profile_of
from lean_parcel.core.picture.resample import to_codes
from tests.builders import file
from tests.files import chunk, cicp

COLOURS = [*((code,) * 3 for code in (8, 32, 64, 128, 192)), (250, 60, 0), (0, 200, 80)]
#: What Chromium 156 shows of COLOURS in an AVIF, by primaries and transfer.
SHOWN_AVIF = {
    (1, 13): COLOURS,
    (2, 2): COLOURS,
    (1, 1): COLOURS,
    (1, 6): COLOURS,
    (12, 13): [*COLOURS[:5], (255, 21, 0), (0, 205, 55)],
    (9, 1): [*COLOURS[:5], (255, 0, 0), (0, 212, 45)],
    (9, 14): [*COLOURS[:5], (255, 0, 0), (0, 212, 45)],
    (1, 4): [*((code,) * 3 for code in (2, 26, 62, 129, 193)), (249, 57, 0), (0, 202, 77)],
    (1, 8): [(code,) * 3 for code in (50, 99, 137, 188, 225)],
    (6, 6): [*COLOURS[:5], (243, 70, 0), (48, 198, 77)],
}


def patches(colours: list[tuple[int, ...]], deep: bool = False) -> U8 | U16:
    row = np.repeat(np.array(colours, np.uint16 if deep else np.uint8), 16, axis=0)
    return np.repeat(row[None], 16, axis=0)


def avif(primaries: int, transfer: int, pixels: U8, icc: bytes = b"") -> bytes:
    data = bytearray(file(pixels, "AVIF", quality=100, subsampling="4:4:4", icc_profile=icc))
    at = data.find(b"nclx")
    if at > 0:
        data[at + 4 : at + 8] = struct.pack(">HH", primaries, transfer)
    return bytes(data)


def heic(primaries: int, transfer: int, pixels: np.ndarray) -> bytes:
    size = pixels.shape[1], pixels.shape[0]
    mode = "RGB;16" if pixels.dtype == np.uint16 else "RGB"
    made = pillow_heif.from_bytes(mode=mode, size=size, data=pixels.tobytes())
    out = io.BytesIO()
    numbers = {"color_primaries": primaries, "transfer_characteristics": transfer}
    made.save(out, quality=98, chroma=444, **numbers)
    return out.getvalue()


def deep_png(pixels: np.ndarray, *chunks: bytes) -> bytes:
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels)).copy(interpretation="rgb16")
    data = bytes(image.pngsave_buffer(keep="none"))
    return data[:33] + b"".join(chunks) + data[33:]


def seen(data: bytes, gamut: Gamut = "srgb") -> np.ndarray:
    return open_pixels(data, "a", Limits(), gamut)[8, 8::16].astype(int)


@pytest.mark.parametrize(("numbers", "expected"), SHOWN_AVIF.items())
def test_an_avif_is_shown_as_a_browser_shows_it(
    numbers: tuple[int, int], expected: list[tuple[int, ...]]
) -> None:
    data = avif(*numbers, patches(COLOURS))  # type: ignore[arg-type]
    assert np.abs(seen(data)[: len(expected)] - expected).max() <= 3
    assert (signalled(data, "avif") is None) == (numbers == (2, 2))


def test_a_profile_goes_before_the_numbers_of_an_avif() -> None:
    pixels = patches(COLOURS)
    with_profile = avif(1, 8, pixels, profile_of("display-p3"))  # type: ignore[arg-type]
    assert signalled(with_profile, "avif") is None
    assert np.abs(seen(with_profile)[5] - (255, 21, 0)).max() <= 3


@pytest.mark.parametrize("kind", ["avif", "heic", "png"])
def test_p3_by_numbers_is_converted_and_kept_where_it_is_asked_for(kind: str) -> None:
    pixels = patches([(231, 60, 40)])
    data = {
        "avif": lambda: avif(12, 13, pixels),  # type: ignore[arg-type]
        "heic": lambda: heic(12, 13, pixels),
        "png": lambda: deep_png(pixels.astype(np.uint16) * 257, cicp(12, 13)),
    }[kind]()
    assert np.abs(seen(data)[0] - (250, 31, 14)).max() <= 2
    assert np.abs(seen(data, "display-p3")[0] - (231, 60, 40)).max() <= 2


def test_the_curves_have_their_published_values() -> None:
    light = np.array([100.0, 203.0, 1000.0, 10_000.0])
    np.testing.assert_allclose(pq_of_light(light / 1e4), [0.5081, 0.5807, 0.7518, 1], atol=1e-4)
    np.testing.assert_allclose(light_of_pq(pq_of_light(light / 1e4)) * 1e4, light, rtol=1e-9)
    np.testing.assert_allclose(light_of_hlg(np.array([0, 0.5, 1.0])), [0, 1 / 12, 1], atol=1e-6)
    three_quarters = light_of_hlg(np.array([0.75]))[0] ** 1.2 * 1000  # BT.2408, table 1
    assert three_quarters == pytest.approx(203, abs=1)


@pytest.mark.parametrize("peak", [250.0, 1000.0, 4000.0])
def test_what_is_dark_stays_and_what_is_bright_comes_nearer_in_order(peak: float) -> None:
    light = np.linspace(0, peak, 2000)
    after = rolled_off(light, peak)
    assert np.all(np.diff(after) > 0)
    assert after[-1] == pytest.approx(PAPER_WHITE, rel=1e-6)
    np.testing.assert_allclose(after[light < 30], light[light < 30], rtol=1e-9)
    assert np.all(after <= light + 1e-9)


NITS = np.array([0, 0.1, 1, 5, 20, 50, 89, 150, 203, 400, 1000, 4000])


@pytest.mark.parametrize("kind", ["png", "heic"])
def test_greys_of_the_quantiser_come_out_as_the_standards_have_it(kind: str) -> None:
    codes = np.rint(pq_of_light(NITS / 1e4) * 65535).astype(np.uint16)
    pixels = patches([(int(code),) * 3 for code in codes], deep=True)
    data = deep_png(pixels, cicp(9, 16)) if kind == "png" else heic(9, 16, pixels)
    shares = np.minimum(rolled_off(np.minimum(NITS, 1000.0), 1000) / PAPER_WHITE, 1)
    expected = np.rint(to_codes(shares) * 255)
    assert np.abs(seen(data) - expected[:, None]).max() <= 2
    assert is_shown_otherwise(data, kind)


def test_the_brightest_light_that_a_file_tells_is_its_white() -> None:
    codes = np.rint(pq_of_light(np.array([100, 400.0]) / 1e4) * 65535).astype(int)
    pixels = patches([(int(code),) * 3 for code in codes], deep=True)
    told = chunk(b"cLLI", struct.pack(">II", 400 * 10_000, 90 * 10_000))
    assert seen(deep_png(pixels, cicp(9, 16), told))[1, 0] == 255
    assert 240 < seen(deep_png(pixels, cicp(9, 16)))[1, 0] < 252


def test_hues_and_transparency_stay() -> None:
    codes = np.rint(pq_of_light(np.array([600.0, 300, 150]) / 1e4) * 65535).astype(np.uint16)
    pixels = np.dstack([patches([tuple(codes)], deep=True), np.full((16, 16), 32_896, np.uint16)])
    shown = open_pixels(deep_png(pixels, cicp(1, 16)), "a.png", Limits())[0, 0].astype(int)
    light = (shown[:3] / 255) ** 2.2
    assert shown[3] == 128
    np.testing.assert_allclose(light / light[0], [1, 0.5, 0.25], atol=0.03)


def test_the_middle_of_hybrid_log_gamma_is_bright_and_its_top_white() -> None:
    pixels = patches([(int(code * 65535),) * 3 for code in (0, 0.25, 0.5, 0.75, 1)], deep=True)
    greys = seen(deep_png(pixels, cicp(9, 18)))[:, 0]
    assert greys[0] == 0
    assert greys[-1] == 255
    assert abs(greys[3] - 228) <= 1  # 203 cd/m2, as with the quantiser
    assert np.all(np.diff(greys) > 20)
