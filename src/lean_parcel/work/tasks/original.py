"""The task that makes a candidate of an original that is to be passed through."""

import io

import numpy as np
from PIL import Image

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.repacking import repacked
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.errors import PhotoError
from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.embed import container_bytes, stripped
from lean_parcel.core.original.photo import is_shown_otherwise, is_stored_turned
from lean_parcel.core.original.source import Limits
from lean_parcel.work.tasks.encoder_input import EncoderInput, reference_of
from lean_parcel.work.tasks.encoding import Encoded

_SAME = 100.0


def pass_through_task(
    encoder_input: EncoderInput, original: bytes, name: str, trial: Trial, limits: Limits
) -> Encoded | None:
    """The original as it goes out, decoded again and found to have exactly the framed pixels; None
    where it has not, where it is more than one picture or browsers show it otherwise, where its
    metadata cannot be taken out, or repacking it saves nothing."""
    with Image.open(io.BytesIO(original)) as image:
        if getattr(image, "is_animated", False) and image.format != "MPO":
            return None
    if is_shown_otherwise(original, trial.settings.format):
        return None
    try:
        encoded = passed_through(original, trial)
        place = Place(size="as it came")
        framed = frame_photo(encoded.data, name, Framing(gamut=encoder_input.gamut), place, limits)
    except (ValueError, PhotoError):
        return None
    is_same = np.array_equal(framed.pixels, reference_of(encoder_input).pixels)
    return encoded if is_same else None


def passed_through(original: bytes, trial: Trial) -> Encoded:
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
        measured=Measured(size_bytes=len(data), likeness=_SAME),
        container_bytes=0 if keeps else container_bytes(data, trial.settings.format),
        encode_ms=0,
    )
