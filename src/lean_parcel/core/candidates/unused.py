"""Why a candidate leaves part of its limit unused."""

from collections.abc import Mapping
from dataclasses import replace

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.encoding.qualities import neighbour
from lean_parcel.core.encoding.settings import (
    EncoderSettings,
    PassThrough,
    PngSettings,
    WebpSettings,
    setting_words,
)
from lean_parcel.core.likeness.levels import NO_CHANGE
from lean_parcel.core.size import format_size

#: The share of a limit that may be left without a word.
_UNTOLD = 0.05


def why_unused(candidate: Candidate, made: Mapping[Trial, Measured], limit_bytes: int) -> str:
    """A sentence on why a candidate leaves more than a twentieth of its limit, given all that was
    measured; empty where it does not, or does not fit."""
    size_bytes = candidate.measured.size_bytes
    if not (1 - _UNTOLD) * limit_bytes > size_bytes:
        return ""
    left = f"{format_size(limit_bytes - size_bytes)} of the limit are left: "
    settings = candidate.trial.settings
    if isinstance(settings, PassThrough) or _is_lossless(settings):
        return left + "nothing is lost that they could bring back."
    following = neighbour(settings, 1)
    if following is None:
        return left + "the quality is at its highest."
    measured = made.get(replace(candidate.trial, settings=following))
    if measured and measured.size_bytes > limit_bytes:
        words = setting_words(following).split(",")[0]
        return left + f"the next step, {words}, takes {format_size(measured.size_bytes)}."
    if candidate.measured.likeness >= NO_CHANGE:
        return left + "what they could gain would not be seen."
    return left + "nothing that was tried used them better."


def _is_lossless(settings: EncoderSettings) -> bool:
    if isinstance(settings, WebpSettings):
        return settings.lossless
    return isinstance(settings, PngSettings) and settings.colours is None
