"""The quality steps of each format that differ: what a search and a marker move along."""

from dataclasses import replace
from typing import Literal

from lean_parcel.core.encoding.settings import (
    EncoderSettings,
    PassThrough,
    PngSettings,
    Settings,
    WebpSettings,
)
from lean_parcel.core.formats import Format


def quantiser(quality: int) -> int:
    """The one of aom's 64 quantisers that libavif uses for a quality.

    >>> quantiser(100), quantiser(60), quantiser(0)
    (0, 25, 63)
    """
    return ((100 - quality) * 63 + 50) // 100


def _avif_qualities() -> tuple[int, ...]:
    """The lowest quality of each of aom's 64 quantisers."""
    first: dict[int, int] = {}
    for quality in range(101):
        first.setdefault(quantiser(quality), quality)
    return tuple(first.values())


def _palette_lengths() -> tuple[int, ...]:
    """Numbers of colours, an eighth apart: about 4 % of bytes, as the quality steps of the
    others."""
    counts = [2]
    while counts[-1] < 256:
        counts.append(min(256, counts[-1] + max(1, counts[-1] // 8)))
    return tuple(counts)


#: Quality steps, rising; of PNG the numbers of colours in a palette.
QUALITIES: dict[Format, tuple[int, ...]] = {
    "jpeg": tuple(range(1, 101)),
    "webp": tuple(range(101)),
    "avif": _avif_qualities(),
    "png": _palette_lengths(),
}


def quality_of(settings: Settings) -> int | None:
    """The step that settings are at; None of what is lossless, and of an original."""
    match settings:
        case PngSettings():
            return settings.colours
        case PassThrough() | WebpSettings(lossless=True):
            return None
        case _:
            return settings.quality


def at_quality(settings: EncoderSettings, quality: int) -> EncoderSettings:
    """Settings at another step."""
    if isinstance(settings, PngSettings):
        return replace(settings, colours=quality)
    return replace(settings, quality=quality)


def neighbour(settings: EncoderSettings, by: Literal[1, -1]) -> EncoderSettings | None:
    """Settings one step of quality above or below; None beyond the last, and without steps."""
    at = quality_of(settings)
    steps = QUALITIES[settings.format][::by]
    beyond = (step for step in steps if at is not None and (step - at) * by > 0)
    step = next(beyond, None)
    return None if step is None else at_quality(settings, step)
