"""Chromium shows the same picture, with its metadata and without."""

import numpy as np
import pytest
from playwright.sync_api import Page

from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.metadata.embed import embedded, stripped
from lean_parcel.core.metadata.values import Segments
from tests.builders import cutout, photo
from tests.e2e.pixels import HEIGHT_PX, WIDTH_PX, shown
from tests.files import parsed

pytestmark = pytest.mark.e2e
_SEGMENTS = Segments(exif=parsed(b"Ada"), xmp=b"<x:xmpmeta xmlns:x='adobe:ns:meta/'/>")


@pytest.mark.parametrize(
    "settings",
    [
        JpegSettings(quality=70, chroma="4:2:0"),
        WebpSettings(quality=70),
        WebpSettings(quality=75, lossless=True),
        AvifSettings(quality=60, chroma="4:4:4"),
        AvifSettings(quality=60, chroma="4:2:0", depth=10),
        PngSettings(colours=64),
    ],
    ids=str,
)
def test_metadata_changes_nothing_that_is_shown(
    blank_page: Page, settings: EncoderSettings
) -> None:
    for pixels in (photo(WIDTH_PX, HEIGHT_PX), cutout(WIDTH_PX, HEIGHT_PX)):
        bare = encode(pixels, settings, "display-p3")
        with_some = embedded(bare, settings.format, _SEGMENTS)
        expected = shown(blank_page, bare, settings.format)
        np.testing.assert_array_equal(shown(blank_page, with_some, settings.format), expected)
        without = stripped(with_some, settings.format)
        np.testing.assert_array_equal(shown(blank_page, without, settings.format), expected)
