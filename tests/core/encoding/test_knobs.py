"""Every knob reaches the file: what was asked for is read from its bytes."""

import io
from dataclasses import fields, replace
from typing import Any

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.knobs import KNOBS, knobs_of, resolved
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    Settings,
    WebpSettings,
    draft_settings,
    has_drafts,
    is_draft,
    settings_from,
    settings_values,
)
from lean_parcel.core.errors import UsageError
from lean_parcel.core.picture.gamut import profile_of
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, photo
from tests.files import jpeg_segments

JPEG = JpegSettings(quality=70, chroma="4:2:0")
WEBP = WebpSettings(quality=60)
AVIF = AvifSettings(quality=60, chroma="4:2:0", speed=8)
PNG = PngSettings(colours=32)
SOF = {0xC0: "baseline", 0xC2: "progressive"}


def grainy() -> U8:
    """A photo with a lot of noise."""
    noise = np.random.default_rng(1).normal(0, 18, (256, 256, 1))
    return np.asarray(np.clip(photo(256, 256) + noise, 0, 255), np.uint8)


def frame_of(data: bytes) -> tuple[str, int]:
    """Kind of a JPEG, and the sampling factors of its luma."""
    return next((SOF[m], payload[7]) for m, payload in jpeg_segments(data) if m in SOF)


def table_of(data: bytes) -> bytes:
    """The first quantisation table of a JPEG."""
    return next(payload for marker, payload in jpeg_segments(data) if marker == 0xDB)[1:65]


def configuration_of(data: bytes) -> tuple[int, int]:
    """Bit depth and chroma flags of an AVIF (AV1 Image File Format, av1C)."""
    third = data[data.index(b"av1C") + 6]
    depth = 12 if third & 0x20 else 10 if third & 0x40 else 8
    return depth, third & 0b1100


@pytest.mark.parametrize(
    ("chroma", "sampling"), [("4:2:0", 0x22), ("4:2:2", 0x21), ("4:4:4", 0x11)]
)
@pytest.mark.parametrize("progressive", [True, False])
def test_jpeg_chroma_and_scans(chroma: Any, sampling: int, progressive: bool) -> None:
    settings = resolved(replace(JPEG, chroma=chroma, progressive=progressive))
    kind = "progressive" if progressive else "baseline"
    assert frame_of(encode(photo(), settings)) == (kind, sampling)


def test_jpeg_tables_differ() -> None:
    tables = {table_of(encode(photo(), replace(JPEG, table=table))) for table in range(9)}
    assert len(tables) == 9
    flat = table_of(encode(photo(), replace(JPEG, table=1)))
    assert set(flat) == {flat[0]}


@pytest.mark.parametrize("field", ["trellis", "deringing"])
def test_jpeg_switches_change_the_file(field: str) -> None:
    pixels = photo(200, 150)
    pixels[40:130, 40:130] = 255
    for line in range(45, 125, 11):
        pixels[line : line + 2, 45:125] = 0
    on, off = (encode(pixels, replace(JPEG, **{field: value})) for value in (True, False))
    assert on != off
    if field == "trellis":
        assert len(on) < len(off)


def test_jpeg_smoothing_takes_detail_and_bytes() -> None:
    sizes = [len(encode(grainy(), replace(JPEG, smoothing_px=px))) for px in (0, 0.5, 1, 2)]
    assert sizes == sorted(sizes, reverse=True)
    assert len(set(sizes)) == 4


@pytest.mark.parametrize(("depth", "chroma"), [(8, "4:2:2"), (10, "4:2:0"), (12, "4:4:4")])
def test_avif_depth_and_chroma(depth: Any, chroma: Any) -> None:
    data = encode(photo(), replace(AVIF, depth=depth, chroma=chroma))
    flags = {"4:2:0": 0b1100, "4:2:2": 0b1000, "4:4:4": 0b0000}[chroma]
    assert configuration_of(data) == (depth, flags)
    assert np.abs(decode(data).astype(int) - photo()).mean() < 8


@pytest.mark.parametrize("depth", [10, 12])
def test_deep_avif_keeps_transparency_and_profile(depth: Any) -> None:
    data = encode(cutout(), replace(AVIF, depth=depth), "display-p3")
    assert np.abs(decode(data)[..., 3].astype(int) - cutout()[..., 3]).mean() < 3
    with Image.open(io.BytesIO(data)) as image:
        assert image.info["icc_profile"] == profile_of("display-p3")


def test_avif_alpha_speed_and_grain_change_the_file() -> None:
    assert len(encode(grainy(), replace(AVIF, denoise=50))) < len(encode(grainy(), AVIF))
    alpha = [len(encode(cutout(), replace(AVIF, alpha_quality=q))) for q in (10, 50, 100)]
    assert alpha == sorted(alpha)
    assert alpha[0] < alpha[2]
    assert encode(photo(), replace(AVIF, alpha_quality=10)) == encode(photo(), AVIF)
    assert encode(grainy(), AVIF) != encode(grainy(), replace(AVIF, speed=10))


@pytest.mark.parametrize(
    ("settings", "pixels", "chunks"),
    [
        (WEBP, photo(), {b"VP8 "}),
        (replace(WEBP, lossless=True), photo(), {b"VP8L"}),
        (replace(WEBP, near_lossless=True), photo(), {b"VP8L"}),
        (WEBP, cutout(), {b"VP8X", b"ALPH", b"VP8 "}),
    ],
)
def test_webp_chunks(settings: WebpSettings, pixels: U8, chunks: set[bytes]) -> None:
    data = encode(pixels, settings)
    found, at = set(), 12
    while at < len(data):
        found.add(data[at : at + 4])
        size = int.from_bytes(data[at + 4 : at + 8], "little")
        at += 8 + size + size % 2
    assert found == chunks


def test_webp_knobs_change_the_file() -> None:
    pixels = photo(200, 150)
    plain = encode(pixels, WEBP)
    assert encode(pixels, replace(WEBP, sharp_chroma=True)) != plain
    assert encode(pixels, replace(WEBP, effort=0)) != plain
    near = encode(pixels, replace(WEBP, near_lossless=True, quality=20))
    assert len(near) < len(encode(pixels, replace(WEBP, lossless=True, quality=75)))
    assert np.abs(decode(near).astype(int) - pixels).max() < 32
    alpha = [len(encode(cutout(), replace(WEBP, alpha_quality=q))) for q in (0, 100)]
    assert alpha[0] < alpha[1]


def test_webp_deblocking_may_change_the_file_and_still_opens() -> None:
    data = encode(photo(), replace(WEBP, quality=5, deblock=True))
    assert decode(data).shape == photo().shape


@pytest.mark.parametrize("colours", [2, 17, 256])
def test_png_palettes_have_the_length_that_was_asked_for(colours: int) -> None:
    data = encode(photo(), replace(PNG, colours=colours))
    with Image.open(io.BytesIO(data)) as image:
        assert len(np.unique(np.asarray(image.convert("RGB")).reshape(-1, 3), axis=0)) <= colours
    header = data[data.index(b"IHDR") + 4 :]
    assert header[9] in (0, 3)
    if header[9] == 3:
        length = int.from_bytes(data[data.index(b"PLTE") - 4 : data.index(b"PLTE")], "big")
        assert length <= 3 * colours


def test_png_dither_bits_and_effort_reach_the_file() -> None:
    assert encode(photo(), replace(PNG, dither=0.0)) != encode(photo(), PNG)
    few = decode(encode(photo(), PngSettings(colours=None, bits=2)))
    assert set(np.unique(few)) <= {0, 85, 170, 255}
    sizes = [len(encode(photo(200, 150), replace(PNG, effort=effort))) for effort in (0, 6)]
    assert sizes[1] <= sizes[0]


@pytest.mark.parametrize("knobs", KNOBS, ids=lambda knobs: knobs.format)
def test_every_field_of_the_settings_is_a_knob_and_every_rule_names_knobs(knobs: Any) -> None:
    kind: Any = type(EVERY[knobs.format])
    names = {field.name for field in fields(kind)} - {"format", "background"}
    assert {knob.field for knob in knobs.knobs} == names
    for rule in knobs.rules:
        assert {rule.field, rule.target} <= names
    assert all(knob.hint and knob.label for knob in knobs.knobs)


EVERY: dict[str, Settings] = {"jpeg": JPEG, "webp": WEBP, "avif": AVIF, "png": PNG}


@pytest.mark.parametrize("knobs", KNOBS, ids=lambda knobs: knobs.format)
def test_every_option_can_be_encoded_and_is_settled_already_then(knobs: Any) -> None:
    for knob in knobs.knobs:
        ends = (knob.least, knob.most) if not knob.options else ()
        for value in (*(option.value for option in knob.options), *ends):
            values = settings_values(EVERY[knobs.format]) | {knob.field: value}
            settings = resolved(settings_from(values))
            assert resolved(settings) == settings
            assert decode(encode(photo(24, 16), settings)).shape == (16, 24, 3)


@pytest.mark.parametrize(
    ("settings", "field", "value"),
    [
        (replace(JPEG, chroma="4:2:2"), "trellis", False),
        (replace(JPEG, chroma="4:2:2"), "table", 0),
        (replace(WEBP, lossless=True, near_lossless=True), "near_lossless", False),
        (replace(WEBP, near_lossless=True, sharp_chroma=True), "sharp_chroma", False),
        (replace(AVIF, depth=10, chroma="4:2:2"), "chroma", "4:4:4"),
        (replace(AVIF, depth=12, denoise=20), "denoise", 0),
        (replace(PNG, colours=None, dither=0.3), "dither", 1.0),
    ],
)
def test_what_cannot_be_together_is_put_right(settings: Settings, field: str, value: Any) -> None:
    assert getattr(resolved(settings), field) == value
    assert any(rule.target == field and rule.reason for rule in knobs_of(settings.format).rules)


@pytest.mark.parametrize(
    "settings",
    [
        replace(JPEG, quality=0),
        replace(JPEG, quality=101),
        replace(JPEG, table=9),
        replace(JPEG, smoothing_px=float("nan")),
        replace(WEBP, effort=7),
        replace(AVIF, speed=11),
        replace(PNG, colours=1),
        replace(PNG, dither=2.0),
    ],
)
def test_values_that_no_knob_has_are_refused(settings: Settings) -> None:
    with pytest.raises(UsageError) as caught:
        resolved(settings)
    assert caught.value.code == "invalid_settings"


@pytest.mark.parametrize(
    ("settings", "is_drafted"),
    [
        (JpegSettings(quality=70, chroma="4:2:0"), True),
        (JpegSettings(quality=70, chroma="4:2:0", adaptive=True, trellis=False), False),
        (WebpSettings(quality=99), True),
        (WebpSettings(quality=100), False),
        (WebpSettings(quality=100, lossless=True), True),
        (AvifSettings(quality=60, chroma="4:2:0"), True),
        (PngSettings(colours=64), False),
    ],
    ids=str,
)
def test_what_less_effort_makes_sooner_has_drafts(
    settings: EncoderSettings, is_drafted: bool
) -> None:
    assert has_drafts(settings) == is_drafted
    assert is_draft(draft_settings(settings)) == is_drafted


@pytest.mark.parametrize("trellis", [True, False])
@pytest.mark.parametrize("progressive", [True, False])
def test_a_jpeg_has_codes_of_its_own(*, progressive: bool, trellis: bool) -> None:
    """The standard's tables name 162 pairs of run and size; a picture needs fewer."""
    settings = replace(JPEG, progressive=progressive, trellis=trellis)
    tables = [
        payload for marker, payload in jpeg_segments(encode(photo(), settings)) if marker == 0xC4
    ]
    assert tables
    assert all(sum(table[1:17]) < 100 for table in tables)
