"""The task that measures an original that is to be passed through."""

import io

from PIL import Image

from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits
from lean_parcel.work.tasks.encoder_input import EncoderInput, reference_of


def original_likeness_task(
    encoder_input: EncoderInput, original: bytes, name: str, limits: Limits
) -> float | None:
    """The likeness of an original to its framed pixels; None where it is more than one picture.
    Raises a PhotoError."""
    with Image.open(io.BytesIO(original)) as image:
        if getattr(image, "n_frames", 1) > 1:
            return None
    pixels = open_pixels(original, name, limits, encoder_input.gamut)
    return reference_of(encoder_input).likeness(pixels)
