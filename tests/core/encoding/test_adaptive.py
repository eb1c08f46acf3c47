"""JPEG with adaptive quantisation."""

import io

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.knobs import resolved
from lean_parcel.core.encoding.settings import JpegSettings, draft_settings, is_draft
from lean_parcel.core.errors import UsageError
from lean_parcel.core.picture.serialisation import decode
from tests.builders import cutout, photo

ADAPTIVE = resolved(JpegSettings(quality=80, chroma="4:4:4", adaptive=True))


def test_what_its_encoder_cannot_do_is_ruled_out() -> None:
    assert isinstance(ADAPTIVE, JpegSettings)
    assert (ADAPTIVE.chroma, ADAPTIVE.trellis, ADAPTIVE.table) == ("4:2:0", False, 0)
    assert draft_settings(ADAPTIVE) == ADAPTIVE
    assert not is_draft(ADAPTIVE)


def test_other_scans_change_no_pixel_and_save_bytes() -> None:
    one_scan = JpegSettings(quality=80, chroma="4:2:0", adaptive=True, progressive=False)
    pixels = photo(300, 200)
    data, plain = encode(pixels, ADAPTIVE), encode(pixels, one_scan)
    assert len(data) < len(plain)
    np.testing.assert_array_equal(decode(data), decode(plain))
    assert encode(pixels, ADAPTIVE) == data
    with Image.open(io.BytesIO(data)) as image:
        assert image.info["progressive"]


def test_transparency_is_filled_and_any_size_is_taken() -> None:
    for width_px, height_px in ((1, 1), (7, 33), (64, 2)):
        assert decode(encode(cutout(width_px, height_px), ADAPTIVE)).shape == (
            height_px,
            width_px,
            3,
        )


def test_a_quality_that_there_is_not_is_refused() -> None:
    with pytest.raises(UsageError):
        resolved(JpegSettings(quality=0, chroma="4:2:0", adaptive=True))
