"""The input of an encode, and the reference that its result is compared with.

A worker keeps the references that it prepared last, by content, since the tasks of one search all
compare with the same one, and the reduced pixels that it sent last; that changes how long a task
takes and never what it returns.
"""

from collections import OrderedDict
from dataclasses import dataclass

from lean_parcel.core.arrays import U8
from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import decode

#: One for the photo at hand and one for the one before.
_REFERENCES_KEPT = 2
#: Formats differ in how many pixels they send, and each is asked for again and again.
_REDUCED_KEPT = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class EncoderInput:
    """Framed pixels as a lossless PNG, and their gamut."""

    pixels_png: bytes
    gamut: Gamut = "srgb"


_examiners: OrderedDict[bytes, Examiner] = OrderedDict()
_reduced: OrderedDict[tuple[bytes, int, int], U8] = OrderedDict()


def reference_of(encoder_input: EncoderInput) -> Reference:
    """The prepared reference of framed pixels, one of the few kept or a new one."""
    return examiner_of(encoder_input).reference


def pixels_sent(encoder_input: EncoderInput, width_px: int, height_px: int) -> U8:
    """Framed pixels, reduced to those that an encode sends; not to be written to."""
    pixels = reference_of(encoder_input).pixels
    if pixels.shape[:2] == (height_px, width_px):
        return pixels
    key = (encoder_input.pixels_png, width_px, height_px)
    if key not in _reduced:
        _reduced[key] = reduce(pixels, width_px, height_px)
    _reduced.move_to_end(key)
    while len(_reduced) > _REDUCED_KEPT:
        _reduced.popitem(last=False)
    return _reduced[key]


def examiner_of(encoder_input: EncoderInput) -> Examiner:
    """The examiner of candidates of framed pixels, one of the few kept or a new one."""
    key = encoder_input.pixels_png
    if key not in _examiners:
        _examiners[key] = Examiner(Reference(decode(key), encoder_input.gamut))
    _examiners.move_to_end(key)
    while len(_examiners) > _REFERENCES_KEPT:
        _examiners.popitem(last=False)
    return _examiners[key]
