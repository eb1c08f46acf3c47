"""The task that makes and measures a candidate of an original that is to be passed through."""

import io

from PIL import Image

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.repacking import repacked
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.metadata.embed import container_bytes, stripped
from lean_parcel.core.original.photo import is_stored_turned, open_pixels
from lean_parcel.core.original.source import Limits
from lean_parcel.work.tasks.encoder_input import EncoderInput, reference_of
from lean_parcel.work.tasks.encoding import Encoded


def pass_through_task(
    encoder_input: EncoderInput, original: bytes, name: str, trial: Trial, limits: Limits
) -> Encoded | None:
    """The original as it goes out, with its likeness to its framed pixels; None where it is more
    than one picture, where its metadata cannot be taken out, or repacking it saves nothing. Raises
    a PhotoError."""
    with Image.open(io.BytesIO(original)) as image:
        if getattr(image, "is_animated", False) and image.format != "MPO":
            return None
    pixels = open_pixels(original, name, limits, encoder_input.gamut)
    likeness = reference_of(encoder_input).likeness(pixels)
    try:
        return passed_through(original, trial, likeness)
    except ValueError:
        return None


def passed_through(original: bytes, trial: Trial, likeness: float) -> Encoded:
    """The original as it goes out. Raises ValueError where its metadata cannot be taken out: that
    of an AVIF of an unknown build, or of a picture that is stored turned, and only its metadata
    says so; and where repacking it saves nothing."""
    assert isinstance(trial.settings, PassThrough)
    keeps = trial.settings.keeps_metadata
    if not keeps and is_stored_turned(original):
        raise ValueError("the picture is stored turned")
    data = original if keeps else stripped(original, trial.settings.format)
    if trial.settings.repacked:
        data = repacked(data, trial.settings.format)
    return Encoded(
        data=data,
        measured=Measured(size_bytes=len(data), likeness=likeness),
        container_bytes=0 if keeps else container_bytes(data, trial.settings.format),
        encode_ms=0,
    )
