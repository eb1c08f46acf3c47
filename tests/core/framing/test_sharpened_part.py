import io

import pytest
from PIL import Image

from lean_parcel.core.framing.sharpened_part import sharpened_part
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.gamut import profile_of
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.picture.sharpen import Sharpen
from tests.builders import photo


@pytest.mark.parametrize("profile", [profile_of("display-p3"), b""], ids=["P3", "none"])
def test_a_part_keeps_the_profile_of_its_picture(profile: bytes) -> None:
    box = Box(left_px=10, top_px=5, width_px=30, height_px=20)
    part = sharpened_part(lossless_png(photo(), profile), Sharpen(amount_percent=100), box)
    with Image.open(io.BytesIO(part)) as image:
        assert image.size == (30, 20)
        assert image.info.get("icc_profile", b"") == profile
