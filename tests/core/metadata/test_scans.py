import io

import pytest
from PIL import Image, ImageFile

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import JpegSettings, WebpSettings
from lean_parcel.core.metadata.scans import first_picture_bytes
from tests.builders import photo


def test_the_first_picture_of_a_progressive_jpeg_is_whole_and_coarse(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    pixels = photo(320, 240)
    data = encode(pixels, JpegSettings(quality=80, chroma="4:2:0", progressive=True))
    size_bytes = first_picture_bytes(data)
    assert size_bytes
    assert size_bytes < 0.5 * len(data)
    monkeypatch.setattr(ImageFile, "LOAD_TRUNCATED_IMAGES", True)
    with Image.open(io.BytesIO(data[:size_bytes])) as image:
        bottom = image.crop((0, 200, 320, 240)).getextrema()
    assert all(low != high for low, high in bottom)


def test_what_comes_in_from_the_top_has_none() -> None:
    pixels = photo(64, 48)
    baseline = encode(pixels, JpegSettings(quality=80, chroma="4:2:0", progressive=False))
    assert first_picture_bytes(baseline) is None
    assert first_picture_bytes(encode(pixels, WebpSettings(quality=80))) is None
    progressive = encode(pixels, JpegSettings(quality=80, chroma="4:2:0", progressive=True))
    for length in range(0, len(progressive), 37):
        first_picture_bytes(progressive[:length])


def test_scans_that_claim_more_than_they_have_say_nothing() -> None:
    pixels = photo(64, 48)
    data = encode(pixels, JpegSettings(quality=80, chroma="4:2:0", progressive=True))
    at = data.index(b"\xff\xda") + 4
    assert first_picture_bytes(data[:at] + b"\xff" + data[at + 1 :]) is None
