"""Knobs that are held: values that every encode of a format has, whatever a search tries."""

from collections.abc import Mapping
from typing import Any

from lean_parcel.core.encoding.knobs import Value, knobs_of, resolved
from lean_parcel.core.encoding.settings import (
    EncoderSettings,
    PassThrough,
    Settings,
    encoder_settings_from,
    settings_values,
)
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import FORMAT_NAMES, Format

#: Values by format and field.
HeldKnobs = Mapping[Format, Mapping[str, Value]]
#: What a search turns itself, and what belongs to the photo; the quality can be held for all that.
_FREE = ("format", "colours", "background", "lossless", "near_lossless")
#: What every format needs to be told.
_NEEDED: dict[Format, dict[str, Any]] = {
    "jpeg": {"format": "jpeg", "quality": 75, "chroma": "4:2:0"},
    "webp": {"format": "webp", "quality": 75},
    "avif": {"format": "avif", "quality": 60, "chroma": "4:2:0"},
    "png": {"format": "png", "colours": 256},
}


def check_held(held: HeldKnobs) -> None:
    """Raises UsageError `invalid_settings` for what is no knob, or no value of it, or is turned by
    the search."""
    for name, values in held.items():
        known = {knob.field for knob in knobs_of(name).knobs}
        for field in values:
            if field in _FREE or field not in known:
                raise UsageError(
                    f"{FORMAT_NAMES[name]} has no “{field}” that could be held.", "invalid_settings"
                )
        resolved(encoder_settings_from({**_NEEDED[name], **values}))


def held_of(settings: Settings, *, with_quality: bool = False) -> dict[str, Value]:
    """What of settings can be held and is not as usual; the chroma always, the quality where that
    is asked for."""
    if isinstance(settings, PassThrough):
        return {}
    usual = settings_values(encoder_settings_from(_NEEDED[settings.format]))
    return {
        field: value
        for field, value in settings_values(settings).items()
        if field not in _FREE
        and (with_quality if field == "quality" else field == "chroma" or value != usual[field])
    }


def with_held(settings: Settings, held: HeldKnobs) -> Settings:
    """Settings with the held values of their format, as the rules allow them."""
    values = held.get(settings.format)
    if not values or isinstance(settings, PassThrough):
        return settings
    made: EncoderSettings = encoder_settings_from({**settings_values(settings), **values})
    return resolved(made)
