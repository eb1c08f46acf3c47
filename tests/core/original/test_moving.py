"""Of a picture that moves, the first frame."""

import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.errors import PhotoError
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits
from tests.builders import photo


def moving(kind: str, *frames: U8) -> bytes:
    first, *others = (Image.fromarray(frame) for frame in frames)
    target = io.BytesIO()
    options = {"lossless": True} if kind == "WEBP" else {"quality": 100, "subsampling": "4:4:4"}
    first.save(target, kind, save_all=True, append_images=others, duration=100, **options)
    return target.getvalue()


@pytest.mark.parametrize("kind", ["AVIF", "WEBP"])
def test_the_first_frame_is_opened(kind: str) -> None:
    frames = photo(64, 48, seed=1), photo(64, 48, seed=2)
    opened = open_pixels(moving(kind, *frames), f"a.{kind.lower()}", Limits())
    apart = [np.abs(opened[..., :3].astype(int) - frame).mean() for frame in frames]
    assert apart[0] < 2 < apart[1]


def test_a_moving_avif_is_held_to_the_limit_of_pixels() -> None:
    data = moving("AVIF", photo(64, 48, seed=1), photo(64, 48, seed=2))
    with pytest.raises(PhotoError):
        open_pixels(data, "a.avif", replace(Limits(), max_pixels=64 * 48 - 1))
