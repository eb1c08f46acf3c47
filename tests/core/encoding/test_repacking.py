import io
from typing import Any

import numpy as np
import pytest
import pyvips
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from lean_parcel.core.encoding.repacking import repacked
from lean_parcel.core.formats import Format
from lean_parcel.core.picture.gamut import profile_of
from tests.builders import cutout, file, photo


def saved(kind: str, **options: Any) -> bytes:
    pixels = cutout(120, 80) if kind == "PNG" else photo(120, 80)
    return file(pixels, kind, **options)


def decoded(data: bytes) -> np.ndarray[Any, Any]:
    """By libvips, which neither encoder uses."""
    return np.asarray(pyvips.Image.new_from_buffer(data, "").numpy())


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("jpeg", saved("JPEG", quality=93)),
        ("jpeg", saved("JPEG", quality=80, subsampling=0)),
        ("jpeg", file(photo(120, 80)[..., 0], "JPEG", quality=90)),
        ("png", saved("PNG", compress_level=1)),
        ("png", file(photo(120, 80), "PNG", compress_level=1)),
    ],
)
def test_pixels_are_the_same_bit_by_bit_in_fewer_bytes(name: Format, data: bytes) -> None:
    packed = repacked(data, name)
    assert len(packed) < len(data)
    np.testing.assert_array_equal(decoded(packed), decoded(data))
    assert repacked(data, name) == packed


def test_what_was_packed_well_is_not_packed_again() -> None:
    for name, kind in (("jpeg", "JPEG"), ("png", "PNG")):
        once = repacked(saved(kind), name)  # type: ignore[arg-type]
        with pytest.raises(ValueError, match="nothing is saved"):
            repacked(once, name)  # type: ignore[arg-type]


def test_a_profile_stays() -> None:
    profile = profile_of("display-p3")
    for name, kind in (("jpeg", "JPEG"), ("png", "PNG")):
        packed = repacked(saved(kind, icc_profile=profile), name)  # type: ignore[arg-type]
        with Image.open(io.BytesIO(packed)) as image:
            assert image.info["icc_profile"] == profile


def test_other_formats_are_refused() -> None:
    with pytest.raises(ValueError, match="webp"):
        repacked(saved("WEBP"), "webp")


@settings(max_examples=60, deadline=None)
@given(at=st.floats(0, 1), name=st.sampled_from(["jpeg", "png"]), cuts=st.booleans())
def test_damaged_files_are_refused_or_keep_their_pixels(at: float, name: str, cuts: bool) -> None:
    data = saved(name.upper())
    index = int(at * (len(data) - 1))
    rest = b"" if cuts else bytes([data[index] ^ 0x55]) + data[index + 1 :]
    damaged = data[:index] + rest
    try:
        packed = repacked(damaged, name)  # type: ignore[arg-type]
    except ValueError:
        return
    with Image.open(io.BytesIO(packed)) as one, Image.open(io.BytesIO(damaged)) as other:
        np.testing.assert_array_equal(np.asarray(one.convert("RGBA")), other.convert("RGBA"))
