"""What Chromium shows of an encode has the colours that went in: no channel is shifted."""

from collections.abc import Iterator

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.knobs import resolved
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    WebpSettings,
)
from tests.e2e.pixels import HEIGHT_PX, WIDTH_PX, shown

pytestmark = pytest.mark.e2e
#: Ranges of random smooth pictures.
_RANGES = ((25, 225), (60, 120), (130, 240), (0, 90), (160, 255))
#: What a channel may be off on average, in codes, in every mode of every encoder.
_MOST = 0.25


def _every_mode() -> Iterator[tuple[EncoderSettings, float]]:
    """Settings, and what a channel of a single picture may be off."""
    for chroma in ("4:2:0", "4:2:2", "4:4:4"):
        yield JpegSettings(quality=90, chroma=chroma), 0.06
    yield resolved(JpegSettings(quality=90, chroma="4:2:0", adaptive=True)), _MOST
    for sharp_chroma in (False, True):
        yield WebpSettings(quality=90, sharp_chroma=sharp_chroma), _MOST
    for quality in (60, 90):
        for chroma in ("4:2:0", "4:2:2", "4:4:4"):
            yield AvifSettings(quality=quality, chroma=chroma), _MOST
        yield AvifSettings(quality=quality, chroma="4:2:0", depth=10), _MOST
        yield AvifSettings(quality=quality, chroma="4:4:4", depth=10), _MOST
        yield AvifSettings(quality=quality, chroma="4:2:0", depth=12), _MOST
        # libavif decodes these with 0.3 % more contrast: dark is darker, bright brighter.
        yield AvifSettings(quality=quality, chroma="4:4:4", depth=12), 0.4


@pytest.mark.parametrize(("settings", "most"), list(_every_mode()), ids=str)
def test_no_channel_is_shifted(blank_page: Page, settings: EncoderSettings, most: float) -> None:
    shifts = []
    for seed, (low, high) in enumerate(_RANGES):
        pixels = _smooth(seed, low, high)
        seen = shown(blank_page, encode(pixels, settings), settings.format)
        shifts.append((seen.astype(float) - pixels).mean((0, 1)))
    assert np.abs(np.mean(shifts, 0)).max() <= _MOST
    assert np.abs(shifts).max() <= most


@pytest.mark.parametrize(
    "settings",
    [JpegSettings(quality=90, chroma="4:2:0"), AvifSettings(quality=80, chroma="4:2:0")],
    ids=str,
)
def test_grey_without_chroma_is_shown_as_grey(blank_page: Page, settings: EncoderSettings) -> None:
    for seed, (low, high) in enumerate(_RANGES):
        grey = np.repeat(_smooth(seed, low, high)[..., :1], 3, axis=2)
        seen = shown(blank_page, encode(grey, settings), settings.format)
        assert (seen[..., :1] == seen).all()
        assert abs((seen.astype(float) - grey).mean()) <= _MOST


def _smooth(seed: int, low: int, high: int) -> U8:
    coarse = np.random.default_rng(seed).uniform(low, high, (10, 14, 3)).astype(np.float32)
    fine = cv2.resize(coarse, (WIDTH_PX, HEIGHT_PX), interpolation=cv2.INTER_CUBIC)
    return np.asarray(np.clip(np.rint(fine), 0, 255), np.uint8)
