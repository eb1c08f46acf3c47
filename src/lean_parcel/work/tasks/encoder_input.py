"""The input of an encode, and the reference that its result is compared with.

A worker keeps the references that it prepared last, by content, since the tasks of one search all
compare with the same one, and the reduced pixels that it sent last; that changes how long a task
takes and never what it returns.
"""

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

from lean_parcel.core.arrays import U8
from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.core.search.part import Part

_Key = TypeVar("_Key")
_Value = TypeVar("_Value")
#: One for the photo at hand and one for the one before.
_REFERENCES_KEPT = 2
#: Formats differ in how many pixels they send, and each is asked for again and again.
_REDUCED_KEPT = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class EncoderInput:
    """Framed pixels as a lossless PNG, their gamut, and how many are judged as a CSS pixel."""

    pixels_png: bytes
    gamut: Gamut = "srgb"
    density: float = 1.0


_examiners: OrderedDict[EncoderInput, Examiner] = OrderedDict()
_parts: OrderedDict[EncoderInput, Part] = OrderedDict()
_reduced: OrderedDict[tuple[bytes, int, int], U8] = OrderedDict()


def reference_of(encoder_input: EncoderInput) -> Reference:
    """The prepared reference of framed pixels, one of the few kept or a new one."""
    return examiner_of(encoder_input).reference


def pixels_sent(encoder_input: EncoderInput, width_px: int, height_px: int) -> U8:
    """Framed pixels, reduced to those that an encode sends; not to be written to."""
    pixels = reference_of(encoder_input).pixels
    if pixels.shape[:2] == (height_px, width_px):
        return pixels
    key = encoder_input.pixels_png, width_px, height_px
    return _kept(_reduced, key, _REDUCED_KEPT, lambda: reduce(pixels, width_px, height_px))


def examiner_of(encoder_input: EncoderInput) -> Examiner:
    """The examiner of candidates of framed pixels, one of the few kept or a new one."""
    return _kept(
        _examiners, encoder_input, _REFERENCES_KEPT, lambda: Examiner(_reference(encoder_input))
    )


def _reference(encoder_input: EncoderInput) -> Reference:
    pixels = decode(encoder_input.pixels_png)
    return Reference(pixels, encoder_input.gamut, encoder_input.density)


def part_of(encoder_input: EncoderInput) -> Part:
    """The part of framed pixels by which they are drafted, one of the few kept or a new one."""
    reference = reference_of(encoder_input)
    return _kept(_parts, encoder_input, _REFERENCES_KEPT, lambda: Part(reference))


def _kept(
    values: OrderedDict[_Key, _Value], key: _Key, most: int, make: Callable[[], _Value]
) -> _Value:
    """A value by its key, made where it is not there; those used longest ago are let go."""
    if key not in values:
        values[key] = make()
    values.move_to_end(key)
    while len(values) > most:
        values.popitem(last=False)
    return values[key]
