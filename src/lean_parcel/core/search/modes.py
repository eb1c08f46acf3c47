"""The modes of each format that a search compares: a new mode is a line in this table, and one in
`calibrated`, which `benchmarks/calibrate_search.py` prints."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.knobs import Value
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
from lean_parcel.core.formats import Format
from lean_parcel.core.search.ladder import Rung, SearchInput, part_trial_at, trial_at

#: With transparency, effort 6 takes twenty times as long for 5 % fewer bytes (1.5 megapixels of the
#: demo's cut-out: 5.4 s against 0.26 s).
_WEBP_EFFORT, _WEBP_EFFORT_WITH_ALPHA = 6, 5


@dataclass(frozen=True, slots=True)
class Mode:
    """A way of a format to encode: the `settings` of each of its `qualities`, rising."""

    name: str
    format: Format
    qualities: Sequence[int]
    settings: Callable[[int], EncoderSettings]

    def trial(self, step: int, rung: Rung) -> Trial:
        """The encode of a step at a pixel count."""
        return trial_at(self.settings(self.qualities[step]), rung)

    def part_trial(self, step: int, rung: Rung, *, with_less_effort: bool) -> Trial:
        """The draft of a part of that, with less effort where that tells of it."""
        settings = self.settings(self.qualities[step])
        return part_trial_at(draft_settings(settings) if with_less_effort else settings, rung)


def modes_of(name: Format, search_input: SearchInput, background: str) -> list[Mode]:
    """The modes of a format. Those that differ in how they treat colour only are one for a grey
    photo."""
    steps = QUALITIES[name]
    match name:
        case "jpeg":
            modes = [
                Mode("jpeg 4:2:0", name, steps, lambda q: _jpeg(q, "4:2:0", background)),
                Mode("jpeg 4:4:4", name, steps, lambda q: _jpeg(q, "4:4:4", background)),
                Mode("jpeg adaptive", name, steps, lambda q: _adaptive_jpeg(q, background)),
            ]
        case "avif":
            modes = [
                Mode("avif 4:2:0", name, steps, lambda q: AvifSettings(quality=q, chroma="4:2:0")),
                Mode("avif 4:4:4", name, steps, lambda q: AvifSettings(quality=q, chroma="4:4:4")),
            ]
        case "webp":
            effort = _WEBP_EFFORT_WITH_ALPHA if search_input.is_transparent else _WEBP_EFFORT
            modes = [
                Mode("webp", name, steps, lambda q: WebpSettings(quality=q, effort=effort)),
                Mode(
                    "webp sharp",
                    name,
                    steps,
                    lambda q: WebpSettings(quality=q, effort=effort, sharp_chroma=True),
                ),
            ]
        case "png":
            modes = [Mode("png", name, steps, lambda colours: PngSettings(colours=colours))]
    lossy = modes[:1] if search_input.is_grey else modes
    return [*lossy, *_LOSSLESS.get(name, ())]


def with_held_quality(modes: Sequence[Mode], held: Mapping[str, Value]) -> Sequence[Mode]:
    """Modes of a format of which the quality is held, where it is: those that have one, at it."""
    quality = held.get("quality")
    if not isinstance(quality, int):
        return modes
    return [replace(each, qualities=(quality,)) for each in modes if len(each.qualities) > 1]


_LOSSLESS: dict[Format, tuple[Mode, ...]] = {
    "webp": (
        Mode("webp lossless", "webp", (75,), lambda q: WebpSettings(quality=q, lossless=True)),
    ),
    "png": (Mode("png lossless", "png", (0,), lambda _: PngSettings(colours=None)),),
}


def may_draft(name: Format, search_input: SearchInput) -> bool:
    """Whether a draft with less effort tells of its encode. Of line art and lettering libaom makes
    something else at such a speed: 11 of likeness in the place of 90."""
    return name != "avif" or not search_input.is_sharp


def _jpeg(quality: int, chroma: Chroma, background: str) -> JpegSettings:
    return JpegSettings(quality=quality, chroma=chroma, background=background)


def _adaptive_jpeg(quality: int, background: str) -> JpegSettings:
    return JpegSettings(
        quality=quality,
        chroma="4:2:0",
        adaptive=True,
        trellis=False,
        deringing=False,
        table=0,
        background=background,
    )
