"""Encoder settings as plain values, to be stored, compared and sent to a worker.

No encoder is imported here.
"""

from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal

from lean_parcel.core.formats import Format

Chroma = Literal["4:2:0", "4:2:2", "4:4:4"]


@dataclass(frozen=True, slots=True, kw_only=True)
class JpegSettings:
    """MozJPEG, by default progressive with trellis quantisation; with chroma 4:2:2, which libvips
    does not offer, libjpeg-turbo; with `adaptive` quantisation, which is finer where that is seen,
    jpegli, at 4:2:0. `quality` 1 to 100; `table` 0 to 8, MozJPEG's quantisation tables;
    `smoothing_px` the sigma of a Gaussian before encoding; `background` fills transparency, as sRGB
    hex."""

    quality: int
    chroma: Chroma
    adaptive: bool = False
    progressive: bool = True
    trellis: bool = True
    deringing: bool = True
    table: int = 3
    smoothing_px: float = 0.0
    background: str = "#ffffff"
    format: Literal["jpeg"] = "jpeg"


@dataclass(frozen=True, slots=True, kw_only=True)
class WebpSettings:
    """libwebp. `quality` 0 to 100: of a lossy file; of a lossless one it is the effort, and from 75
    to 100 saves under 5 % for six times the time; of a near-lossless one how near. `effort` 0 to
    6; `alpha_quality` 0 to 100, lossless at 100."""

    quality: int
    lossless: bool = False
    near_lossless: bool = False
    effort: int = 6
    sharp_chroma: bool = False
    deblock: bool = False
    alpha_quality: int = 100
    format: Literal["webp"] = "webp"


@dataclass(frozen=True, slots=True, kw_only=True)
class AvifSettings:
    """libaom: through libavif at 8 bits a sample, through libheif at 10 and 12. `quality` 0 to 100,
    64 of which differ; `speed` 0 to 10 (quick); `alpha_quality` None is that of the colours;
    `denoise` 0 to 50 removes grain, which the browser synthesises again."""

    quality: int
    chroma: Chroma
    speed: int = 6
    depth: Literal[8, 10, 12] = 8
    alpha_quality: int | None = None
    denoise: int = 0
    format: Literal["avif"] = "avif"


@dataclass(frozen=True, slots=True, kw_only=True)
class PngSettings:
    """PNG with a palette of `colours` (2 to 256), dithered by 0 to 1, or lossless where `colours`
    is None; `bits` 1 to 8 of each sample are kept before that. `effort` is that of the
    lossless optimisation at the end: 0 (quick) to 6."""

    colours: int | None
    dither: float = 1.0
    bits: int = 8
    effort: int = 2
    format: Literal["png"] = "png"


@dataclass(frozen=True, slots=True, kw_only=True)
class PassThrough:
    """Nothing is encoded: the original goes out in its own format, to the byte, or with other
    metadata; or `repacked`, which is with other metadata too, and not a pixel is changed."""

    format: Format
    keeps_metadata: bool = True
    repacked: bool = False
    pass_through: Literal[True] = True


EncoderSettings = JpegSettings | WebpSettings | AvifSettings | PngSettings
Settings = EncoderSettings | PassThrough
#: Raised where the same settings make other files than before. Of originals, 2 is decoded again as
#: it goes out; of JPEG and AVIF, 2 leaves out the chroma of grey.
_PASS_THROUGH_VERSION = 2
_VERSIONS: dict[Format, int] = {"jpeg": 2, "png": 1, "webp": 1, "avif": 2}
_SETTINGS: dict[str, Callable[..., EncoderSettings]] = {
    "jpeg": JpegSettings,
    "webp": WebpSettings,
    "avif": AvifSettings,
    "png": PngSettings,
}


def encoder_version(settings: Settings) -> int:
    """The version of what the settings are told to: part of the key of an encode that is kept."""
    return (
        _PASS_THROUGH_VERSION if isinstance(settings, PassThrough) else _VERSIONS[settings.format]
    )


def settings_from(values: dict[str, Any]) -> Settings:
    """Settings from the plain values that `settings_values` gives."""
    return PassThrough(**values) if values.get("pass_through") else encoder_settings_from(values)


def encoder_settings_from(values: dict[str, Any]) -> EncoderSettings:
    """Encoder settings from the plain values that `settings_values` gives."""
    return _SETTINGS[values["format"]](**values)


def settings_values(settings: Settings) -> dict[str, Any]:
    """The plain values of settings, `format` first."""
    values = asdict(settings)
    return {"format": values.pop("format"), **values}


def setting_words(settings: Settings) -> str:
    """What matters of settings, for people: `quality 62, chroma 4:2:0`."""
    match settings:
        case JpegSettings() if settings.adaptive:
            return f"quality {settings.quality}, adaptive quantisation"
        case JpegSettings():
            return f"quality {settings.quality}, chroma {settings.chroma}"
        case AvifSettings():
            return f"quality {settings.quality}, chroma {settings.chroma}, speed {settings.speed}"
        case WebpSettings() if settings.lossless:
            return "lossless"
        case WebpSettings():
            return f"quality {settings.quality}" + (
                ", sharp chroma" if settings.sharp_chroma else ""
            )
        case PngSettings():
            return f"{settings.colours} colours" if settings.colours else "lossless"
        case PassThrough() if settings.repacked:
            return "repacked without loss"
        case PassThrough():
            return "as it came" if settings.keeps_metadata else "its own picture"


def has_drafts(settings: Settings) -> bool:
    """Whether less effort gives about the same file sooner. A palette's bytes depend on the
    optimisation at the end, and adaptive quantisation is as quick as a draft. WebP at quality 100
    takes 1.2 to 1.8 times the bytes with less effort, by picture."""
    match settings:
        case JpegSettings():
            return not settings.adaptive
        case WebpSettings():
            return settings.lossless or settings.quality < 100
        case AvifSettings():
            return True
        case PngSettings() | PassThrough():
            return False


def draft_settings(settings: EncoderSettings) -> EncoderSettings:
    """Settings of a draft, a cheap encode that looks nearly the same for a few more bytes; the same
    where there are none.

    AVIF goes to speed 8: at 9 libaom leaves out tools that 4:4:4 depends on, and modes compare
    differently.
    """
    if not has_drafts(settings):
        return settings
    match settings:
        case JpegSettings():
            return replace(settings, progressive=False)
        case WebpSettings():
            return replace(settings, effort=min(settings.effort, 2))
        case AvifSettings():
            return replace(settings, speed=max(settings.speed, 8))
    return settings


def slow_settings(settings: EncoderSettings) -> EncoderSettings:
    """The slowest settings that are worth the time of a worker which has nothing else to do, see
    docs/metrics.md; the same where there is nothing to gain."""
    match settings:
        case AvifSettings():
            return replace(settings, speed=min(settings.speed, 4))
        case WebpSettings():
            return replace(settings, effort=6)
        case PngSettings():
            return replace(settings, effort=max(settings.effort, 3))
        case JpegSettings():
            return settings


def is_draft(settings: Settings) -> bool:
    """Whether settings are those of a draft, for which there is more effort to be made."""
    if isinstance(settings, PassThrough) or not has_drafts(settings):
        return False
    return settings == draft_settings(settings)


def on_background(settings: EncoderSettings, background: str) -> EncoderSettings:
    """Settings that fill transparency with this colour, in a format without alpha."""
    if isinstance(settings, JpegSettings):
        return replace(settings, background=background)
    return settings


def background_of(settings: Settings) -> str | None:
    """The colour that transparency is filled with; None where the format keeps alpha."""
    return settings.background if isinstance(settings, JpegSettings) else None
