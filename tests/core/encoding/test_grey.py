"""Grey pictures carry no chroma."""

import io

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
)
from lean_parcel.core.picture.serialisation import decode
from tests.builders import photo

GREY = np.repeat(photo(120, 80)[..., :1], 3, axis=2)
SETTINGS: list[EncoderSettings] = [
    *(JpegSettings(quality=85, chroma=chroma) for chroma in ("4:2:0", "4:2:2", "4:4:4")),  # type: ignore[arg-type]
    *(AvifSettings(quality=85, chroma=chroma) for chroma in ("4:2:0", "4:4:4")),  # type: ignore[arg-type]
    PngSettings(colours=None),
]


@pytest.mark.parametrize("settings", SETTINGS, ids=str)
def test_one_channel_is_stored_and_grey_comes_back(settings: EncoderSettings) -> None:
    data = encode(GREY, settings)
    with Image.open(io.BytesIO(data)) as image:
        assert image.mode == "L"
    back = decode(data).astype(float)
    assert (back[..., :1] == back).all()
    assert abs((back - GREY).mean()) < 0.25
    coloured = GREY.copy()
    coloured[0, 0, 2] ^= 1
    assert len(data) <= len(encode(coloured, settings))


def test_grey_needs_no_profile_since_it_is_the_same_in_every_gamut() -> None:
    for settings in SETTINGS:
        assert encode(GREY, settings, "display-p3") == encode(GREY, settings)
