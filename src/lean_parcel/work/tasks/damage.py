"""The tasks that look for damage: in an encode of framed pixels, or in one file beside another."""

from dataclasses import dataclass

from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.damage.found import Damage
from lean_parcel.core.damage.spots import TroubleSpot, trouble_spots
from lean_parcel.core.encoding.settings import PassThrough, Settings, background_of
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.work.tasks.encoder_input import EncoderInput, examiner_of


@dataclass(frozen=True, slots=True)
class Examined:
    """The damage of an encode, and its mean FLIP, 0 for identical."""

    damage: Damage
    flip: float


def examine_task(
    encoder_input: EncoderInput, file: bytes, settings: Settings, limits: Limits
) -> Examined:
    """What is found in an encode beside the framed pixels. Raises a PhotoError for an original,
    passed through, that cannot be opened."""
    examiner, background = examiner_of(encoder_input), None
    if isinstance(settings, PassThrough):
        pixels = open_pixels(file, f"original.{settings.format}", limits, encoder_input.gamut)
    else:
        pixels, background = decode(file), background_of(settings)
    return Examined(examiner.examine(pixels, background), examiner.flip(pixels, background))


def damage_task(
    reference: bytes, reference_name: str, candidate: bytes, candidate_name: str, limits: Limits
) -> tuple[Damage, list[TroubleSpot]]:
    """The damage and the trouble spots of one file beside another of the same shape. Raises a
    PhotoError or UsageError."""
    original = Reference(open_pixels(reference, reference_name, limits))
    found = Examiner(original).examine(open_pixels(candidate, candidate_name, limits))
    return found, trouble_spots(found, original.size_px)


def likeness_task(
    reference: bytes, reference_name: str, candidate: bytes, candidate_name: str, limits: Limits
) -> float:
    """The likeness of one file to another of the same shape. Raises a PhotoError or UsageError."""
    original = open_pixels(reference, reference_name, limits)
    return Reference(original).likeness(open_pixels(candidate, candidate_name, limits))
