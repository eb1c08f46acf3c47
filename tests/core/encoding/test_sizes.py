"""What every knob makes of a picture's bytes and colours, as recorded."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest

from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode, probe_size_bytes
from lean_parcel.core.encoding.glimpse import glimpse
from lean_parcel.core.encoding.knobs import knobs_of, resolved
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
    draft_settings,
    setting_words,
    slow_settings,
)
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, demo_pixels
from tests.recorded import Recorded

USUAL: tuple[EncoderSettings, ...] = (
    JpegSettings(quality=60, chroma="4:2:0"),
    PngSettings(colours=40),
    WebpSettings(quality=60),
    AvifSettings(quality=60, chroma="4:4:4", speed=8),
)
PICTURES = {"photo": demo_pixels("glaze-samples-p3.jpg", 120), "cutout": cutout(120, 80)}


def turned(usual: EncoderSettings) -> Iterator[EncoderSettings]:
    """Settings with one knob at a time at each end, or at each of its options."""
    for knob in knobs_of(usual.format).knobs:
        values = [each.value for each in knob.options] or [knob.least, knob.most]
        for value in values:
            yield resolved(replace(usual, **{knob.field: value}))


@pytest.mark.parametrize("usual", USUAL, ids=[each.format for each in USUAL])
@pytest.mark.parametrize("of", PICTURES)
def test_of_each_knob(of: str, usual: EncoderSettings, recorded: Recorded) -> None:
    pixels = PICTURES[of]
    several = dict.fromkeys([usual, draft_settings(usual), slow_settings(usual), *turned(usual)])
    told = {str(settings): measured(pixels, settings) for settings in several}
    box = Box(left_px=30, top_px=18, width_px=41, height_px=33)
    part = glimpse(pixels, usual, box)
    recorded(
        {
            "probe": probe_size_bytes(pixels),
            "glimpse": [part.box, len(part.data)],
            "encodes": told,
        }
    )


def measured(pixels: U8, settings: EncoderSettings) -> dict[str, object]:
    """The bytes of an encode, and its mean signed error in each channel."""
    data = encode(pixels, settings)
    decoded = decode(data).astype(float)
    channels = min(decoded.shape[2], pixels.shape[2])
    error = np.mean(decoded[..., :channels] - pixels[..., :channels], axis=(0, 1))
    return {"words": setting_words(settings), "size_bytes": len(data), "error": error}
