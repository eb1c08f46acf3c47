"""The tasks that make and measure an encode, that estimate one by a part, and that show a part."""

import time
from dataclasses import dataclass

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.glimpse import Glimpse, glimpse
from lean_parcel.core.encoding.settings import PassThrough, background_of
from lean_parcel.core.metadata.embed import container_bytes
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.core.search.ladder import PartTrial, SearchInput
from lean_parcel.core.search.sizing import measured_input
from lean_parcel.work.tasks.encoder_input import (
    EncoderInput,
    part_of,
    pixels_sent,
    reference_of,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Encoded:
    """A file without metadata, what was measured of it, the bytes that its container grows by with
    the first metadata, and the milliseconds its encoder took."""

    data: bytes
    measured: Measured
    container_bytes: int
    encode_ms: float


def encode_task(encoder_input: EncoderInput, trial: Trial) -> Encoded:
    """Encodes framed pixels, decodes the file again, and measures it in its place."""
    reference = reference_of(encoder_input)
    sent = pixels_sent(encoder_input, trial.width_px, trial.height_px)
    start = time.perf_counter()
    data = encode(sent, trial.settings, encoder_input.gamut)
    encode_ms = (time.perf_counter() - start) * 1000
    likeness = reference.likeness(decode(data), background_of(trial.settings))
    measured = Measured(size_bytes=len(data), likeness=likeness)
    return Encoded(
        data=data,
        measured=measured,
        container_bytes=container_bytes(data, trial.settings.format),
        encode_ms=encode_ms,
    )


def weigh_part_task(encoder_input: EncoderInput, trial: PartTrial) -> Measured:
    """What a draft of a part estimates of the whole."""
    assert not isinstance(trial.settings, PassThrough)
    sent = pixels_sent(encoder_input, trial.width_px, trial.height_px)
    return part_of(encoder_input).weigh(sent, trial.settings, trial.rung)


def glimpse_task(encoder_input: EncoderInput, trial: Trial, box: Box) -> Glimpse:
    """The glimpse of a box of the pixels that a trial sends."""
    assert not isinstance(trial.settings, PassThrough)
    sent = pixels_sent(encoder_input, trial.width_px, trial.height_px)
    return glimpse(sent, trial.settings, box, encoder_input.gamut)


def measure_ladder_task(encoder_input: EncoderInput, first: SearchInput) -> SearchInput:
    """What a search needs to know beyond the first encode: see `measured_input`."""
    return measured_input(reference_of(encoder_input), first)
