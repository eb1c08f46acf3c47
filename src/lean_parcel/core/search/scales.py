"""The scales that a search moves on: a format's quality steps in one mode, and what they cost."""

import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from lean_parcel.core.arrays import F64
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.qualities import QUALITIES
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    Chroma,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
    draft_settings,
)
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.search.curves import (
    CURVE_KNOTS,
    DAMAGE_DECAY,
    DRAFT_EXCESS,
    GRAIN_SHARES,
    MIN_QUALITY,
    START_QUALITY,
    USUAL_GRAIN,
)
from lean_parcel.core.search.ladder import Rung, SearchInput, part_trial_at, trial_at
from lean_parcel.core.search.part import has_part


@dataclass(frozen=True, slots=True)
class Scale:
    """One mode of a format: the `settings` of each of its quality steps, and the curve that
    predicts their bytes; whether a survey judges it `by_part`, and with `less_effort`; and
    whether it `is_for_all_pixels`, since another mode does no worse with fewer."""

    name: str
    qualities: Sequence[int]
    settings: Callable[[int], EncoderSettings]
    by_part: bool = False
    less_effort: bool = False
    is_for_all_pixels: bool = False

    def trial(self, step: int, rung: Rung) -> Trial:
        """The encode of a step at a pixel count."""
        return trial_at(self.settings(self.qualities[step]), rung)

    def survey_trial(self, step: int, rung: Rung) -> Trial:
        """What a survey judges a step by at a pixel count: its encode, or a draft of it, which may
        be one of a part of a large picture."""
        settings = self.settings(self.qualities[step])
        if self.less_effort:
            settings = draft_settings(settings)
        return part_trial_at(settings, rung) if self.by_part else trial_at(settings, rung)

    def first_trial(self, step: int, rung: Rung) -> Trial:
        """What a search begins with. Of a large picture with all pixels that is the whole file,
        where a part takes half as long (a palette) or the file is made anyway, while the ladder is
        measured (a JPEG)."""
        is_whole = self.by_part and self.format in ("jpeg", "png") and rung.ceiling == 100
        return self.trial(step, rung) if is_whole else self.survey_trial(step, rung)

    def draft_excess(self, step: int) -> float:
        """How many more bytes a survey's trial of a step takes than its encode, as the logarithm of
        the factor."""
        if not self.less_effort:
            return 0.0
        return float(_interpolated(DRAFT_EXCESS[self.format], [self.qualities[step]])[0])

    @property
    def damage_decay(self) -> float:
        """The power with which damage falls with bytes."""
        return DAMAGE_DECAY[self.format]

    @property
    def lowest_step(self) -> int:
        """The first step that is worth offering."""
        return bisect_left(self.qualities, MIN_QUALITY[self.format])

    @property
    def start_step(self) -> int:
        """The first step that a survey begins with."""
        return bisect_left(self.qualities, START_QUALITY[self.format])

    @property
    def format(self) -> Format:
        """The format that it is a mode of."""
        return _format_of(self.name)

    def log_sizes(self, rung: Rung) -> list[float]:
        """The expected natural logarithm of the bytes of each step at a pixel count, rising."""
        grain = math.log(rung.quick_png_size_bytes / rung.probe_size_bytes) - USUAL_GRAIN
        sizes = _curve(self.name) + grain * _grain_shares(self.format)
        log_sizes: list[float] = (
            np.maximum.accumulate(sizes) + math.log(rung.probe_size_bytes)
        ).tolist()
        return log_sizes


def _format_of(name: str) -> Format:
    """The format of a scale, with which its name begins."""
    return next(each for each in FORMATS if each == name.split()[0])


@lru_cache
def _curve(name: str) -> F64:
    """The curve at every step, between the knots: even over steps, since those of AVIF's quantiser
    are, whose qualities are not. Sharp chroma begins on the curve of WebP without."""
    knots = CURVE_KNOTS[name.removesuffix(" sharp")]
    qualities = QUALITIES[_format_of(name)]
    steps = [qualities.index(knot) for knot in knots]
    return np.interp(range(len(qualities)), steps, list(knots.values()))


@lru_cache
def _grain_shares(name: Format) -> F64:
    """Which share of a photo's grain shows in its bytes, at every quality."""
    return _interpolated(GRAIN_SHARES[name], QUALITIES[name])


def _interpolated(knots: dict[int, float], at: Sequence[int]) -> F64:
    return np.interp(at, list(knots), list(knots.values()))


def jpeg_scale(chroma: Chroma, background: str) -> Scale:
    """JPEG qualities in one chroma mode."""
    return Scale(
        f"jpeg {chroma}",
        QUALITIES["jpeg"],
        lambda quality: JpegSettings(quality=quality, chroma=chroma, background=background),
    )


def adaptive_scale(background: str) -> Scale:
    """JPEG qualities with adaptive quantisation."""

    def settings(quality: int) -> JpegSettings:
        return JpegSettings(
            quality=quality,
            chroma="4:2:0",
            adaptive=True,
            trellis=False,
            deringing=False,
            table=0,
            background=background,
        )

    return Scale("jpeg adaptive", QUALITIES["jpeg"], settings)


#: With transparency, effort 6 takes twenty times as long for 5 % fewer bytes (1.5 megapixels of the
#: demo's cut-out: 5.4 s against 0.26 s).
_WEBP_EFFORT, _WEBP_EFFORT_WITH_ALPHA = 6, 5


def webp_scale(*, sharp_chroma: bool = False, is_transparent: bool = False) -> Scale:
    """Lossy WebP qualities, with or without sharp chroma, which takes about 2.5 times as long
    and won from -1 to 11 points of likeness at equal bytes on the demo photos; with fewer pixels
    it lost 3 at most, but once 9, and won up to 36 (640 pairs, a quarter of pictures by others)."""
    effort = _WEBP_EFFORT_WITH_ALPHA if is_transparent else _WEBP_EFFORT
    return Scale(
        "webp sharp" if sharp_chroma else "webp",
        QUALITIES["webp"],
        lambda quality: WebpSettings(quality=quality, effort=effort, sharp_chroma=sharp_chroma),
    )


def avif_scale(chroma: Chroma) -> Scale:
    """AVIF qualities, one for each quantiser, in one chroma mode."""
    return Scale(
        f"avif {chroma}",
        QUALITIES["avif"],
        lambda quality: AvifSettings(quality=quality, chroma=chroma),
    )


def palette_scale() -> Scale:
    """PNG palettes by their number of colours."""
    return Scale("png", QUALITIES["png"], lambda colours: PngSettings(colours=colours))


#: The settings of a lossless file, in the formats where one is worth trying.
LOSSLESS: dict[Format, EncoderSettings] = {
    "webp": WebpSettings(quality=75, lossless=True),
    "png": PngSettings(colours=None),
}
#: The same in a hurry; a PNG takes up to a sixth more bytes so (eight pictures).
LOSSLESS_DRAFTS: dict[Format, EncoderSettings] = {
    "webp": draft_settings(LOSSLESS["webp"]),
    "png": PngSettings(colours=None, effort=0),
}
#: The fewest bytes to expect of it, as a fraction of a quickly deflated PNG. The lowest seen were
#: 0.28 (WebP at its highest effort) and 0.30 (PNG), for a scanned drawing.
LOSSLESS_FLOOR = 0.2


def may_draft(name: Format, search_input: SearchInput) -> bool:
    """Whether a draft with less effort tells of its encode. Of line art and lettering libaom makes
    something else at such a speed: 11 of likeness in the place of 90."""
    return name != "avif" or not search_input.is_sharp


def scales_of(
    name: Format, search_input: SearchInput, background: str, *, with_drafts: bool = False
) -> list[Scale]:
    """The modes of a format that a search compares. They differ in how they treat colour, so a grey
    photo has one only. A large picture is surveyed by a part, with less effort where that tells;
    any other by encodes that count, or `with_drafts` where less effort tells."""
    modes = _modes_of(name, search_input, background)
    compared = modes[:1] if search_input.is_grey else modes
    by_part = _may_have_part(search_input) and search_input.is_measured
    tells = name in DRAFT_EXCESS and may_draft(name, search_input)
    less_effort = tells and (by_part or with_drafts)
    return [replace(mode, by_part=by_part, less_effort=less_effort) for mode in compared]


def _modes_of(name: Format, search_input: SearchInput, background: str) -> list[Scale]:
    """The modes of a format, the one first that a survey begins with."""
    match name:
        case "jpeg":
            usual, fine = (jpeg_scale(chroma, background) for chroma in ("4:2:0", "4:4:4"))
            adaptive = adaptive_scale(background)
            is_large = _may_have_part(search_input) and not search_input.is_grey
            return [adaptive, usual, fine] if is_large else [usual, fine, adaptive]
        case "avif":
            return [avif_scale("4:2:0"), avif_scale("4:4:4")]
        case "webp":
            is_transparent = search_input.is_transparent
            for_all_pixels = not (search_input.is_grey or _may_have_part(search_input))
            usual = webp_scale(is_transparent=is_transparent)
            sharp = webp_scale(sharp_chroma=True, is_transparent=is_transparent)
            return [replace(usual, is_for_all_pixels=for_all_pixels), sharp]
        case "png":
            return [palette_scale()]


def _may_have_part(search_input: SearchInput) -> bool:
    """Whether a picture is drafted by a part once its ladder is measured."""
    return not search_input.is_transparent and has_part(search_input.rungs[0])
