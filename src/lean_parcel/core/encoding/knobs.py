"""Every setting that can be changed, per format: its name, its values, one line of explanation.

Which settings exclude each other is told once, as Rules: the page disables what a rule forbids and
says why, and `resolved` replaces forbidden values by allowed ones.
"""

from dataclasses import dataclass
from typing import Literal

from lean_parcel.core.encoding.settings import (
    EncoderSettings,
    encoder_settings_from,
    settings_values,
)
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import FORMAT_NAMES, Format

Value = int | float | bool | str | None
#: What a knob trades bytes for.
Group = Literal["detail", "colour", "loading", "time"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """A value to choose, what it is called, and the encoder's own `term` for it, if it has one."""

    value: Value
    text: str
    term: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Knob:
    """A field of a format's settings. It has `options` to choose from, or a range from `least` to
    `most` in `step`s, besides null where that has a `none_text`. What is `for_alpha` matters to
    transparent photos only."""

    field: str
    group: Group
    label: str
    hint: str
    options: tuple[Option, ...] = ()
    least: float = 0
    most: float = 0
    step: float = 1
    none_text: str = ""
    for_alpha: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """While `field` has one of `values`, `target` has to be one of `allowed`; otherwise it becomes
    the first of them."""

    field: str
    values: tuple[Value, ...]
    target: str
    allowed: tuple[Value, ...]
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatKnobs:
    """All knobs of a format, and the rules between them."""

    format: Format
    knobs: tuple[Knob, ...]
    rules: tuple[Rule, ...]


def _switch(field: str, group: Group, label: str, hint: str) -> Knob:
    options = (Option(value=True, text="On"), Option(value=False, text="Off"))
    return Knob(field=field, group=group, label=label, hint=hint, options=options)


def _options(*pairs: tuple[Value, str]) -> tuple[Option, ...]:
    return tuple(Option(value=value, text=text) for value, text in pairs)


def _range(
    field: str,
    group: Group,
    label: str,
    hint: str,
    least: float,
    most: float,
    step: float = 1,
) -> Knob:
    return Knob(field=field, group=group, label=label, hint=hint, least=least, most=most, step=step)


_CHROMA = Knob(
    field="chroma",
    group="colour",
    label="Chroma",
    hint="4:2:0 keeps a quarter of the colour samples, 4:2:2 half of them, 4:4:4 all: for red or"
    " blue edges and lettering",
    options=_options(("4:2:0", "4:2:0"), ("4:2:2", "4:2:2"), ("4:4:4", "4:4:4")),
)
_ADAPTIVE = "Adaptive quantisation is made by another encoder, which cannot do this."
_TURBO = "4:2:2 is made by another encoder, which cannot do this."
_DEEP = "10 and 12 bits are made through another library, which cannot do this."
_EXACT = "Without loss there is nothing for this to do."
_MOZJPEG_ONLY: tuple[tuple[str, tuple[Value, ...]], ...] = (
    ("trellis", (False,)),
    ("deringing", (False,)),
    ("table", (0,)),
)
_QUALITY = "How finely detail is kept; bytes rise steeply above 90"
_JPEG = FormatKnobs(
    format="jpeg",
    knobs=(
        _range("quality", "detail", "Quality", _QUALITY, 1, 100),
        _CHROMA,
        _switch(
            "adaptive",
            "detail",
            "Adaptive quantisation",
            "Finer where damage would be seen, coarser where it would not",
        ),
        _switch(
            "progressive", "loading", "Progressive", "Comes in coarse, then sharpens; often smaller"
        ),
        _switch(
            "trellis", "detail", "Trellis", "Looks for the cheapest way to say nearly the same"
        ),
        _switch("deringing", "detail", "Deringing", "Less noise around dark lines on white"),
        Knob(
            field="table",
            group="detail",
            label="Gives up first",
            hint="Which detail is given up first (read off the tables at quality 50)",
            options=(
                Option(value=0, text="Fine detail and colour", term="Annex K"),
                Option(value=1, text="All detail alike", term="Flat"),
                Option(value=2, text="Fine detail, less colour", term="Tuned for MS-SSIM"),
                Option(value=3, text="Finest detail", term="Robidoux"),
                Option(value=4, text="Fine detail, smooth areas last", term="Tuned for PSNR-HVS-M"),
                Option(
                    value=5,
                    text="Finest detail, smooth areas last",
                    term="Klein, Silverstein, Carney 1992",
                ),
                Option(
                    value=6, text="Nearly all fine detail", term="Watson, Taylor, Borthwick 1997"
                ),
                Option(value=7, text="Little fine detail", term="Ahumada, Watson, Peterson 1993"),
                Option(value=8, text="Some fine detail", term="Peterson, Ahumada, Watson 1993"),
            ),
        ),
        _range(
            "smoothing_px",
            "detail",
            "Smoothing",
            "Blurs by this many pixels before encoding: trades detail for bytes",
            0,
            2,
            0.1,
        ),
    ),
    rules=(
        *(
            Rule(field="adaptive", values=(True,), target=target, allowed=allowed, reason=_ADAPTIVE)
            for target, allowed in (("chroma", ("4:2:0",)), *_MOZJPEG_ONLY)
        ),
        *(
            Rule(field="chroma", values=("4:2:2",), target=target, allowed=allowed, reason=_TURBO)
            for target, allowed in _MOZJPEG_ONLY
        ),
    ),
)
_LOSSY_ONLY: tuple[tuple[str, Value], ...] = (
    ("sharp_chroma", False),
    ("deblock", False),
    ("alpha_quality", 100),
)
_WEBP = FormatKnobs(
    format="webp",
    knobs=(
        _range("quality", "detail", "Quality", f"{_QUALITY}; lossless, how hard it tries", 0, 100),
        _switch("lossless", "detail", "Lossless", "Every pixel exact; for drawings and screens"),
        _switch(
            "near_lossless",
            "detail",
            "Near-lossless",
            "Bends pixels a little so that they pack better",
        ),
        _range("effort", "time", "Effort", "More time for fewer bytes", 0, 6),
        _switch(
            "sharp_chroma", "colour", "Sharp chroma", "Minds colour edges; WebP has 4:2:0 only"
        ),
        _switch(
            "deblock", "detail", "Deblocking", "Tries filter strengths against visible blocks; slow"
        ),
        Knob(
            field="alpha_quality",
            group="colour",
            label="Alpha quality",
            hint="How exactly transparency is kept; 100 is exact",
            most=100,
            for_alpha=True,
        ),
    ),
    rules=(
        Rule(
            field="lossless",
            values=(True,),
            target="near_lossless",
            allowed=(False,),
            reason=_EXACT,
        ),
        *(
            Rule(field=field, values=(True,), target=target, allowed=(allowed,), reason=_EXACT)
            for field in ("lossless", "near_lossless")
            for target, allowed in _LOSSY_ONLY
        ),
    ),
)
_DEEP_ONLY: tuple[tuple[str, tuple[Value, ...]], ...] = (
    ("chroma", ("4:4:4", "4:2:0")),
    ("denoise", (0,)),
    ("alpha_quality", (None,)),
)
_AVIF = FormatKnobs(
    format="avif",
    knobs=(
        _range("quality", "detail", "Quality", f"{_QUALITY}; 64 steps differ", 0, 100),
        _CHROMA,
        Knob(
            field="depth",
            group="colour",
            label="Bits",
            hint="Finer steps inside the file: less banding in smooth skies",
            options=_options((8, "8"), (10, "10"), (12, "12")),
        ),
        _range("speed", "time", "Speed", "Quicker, for some more bytes", 0, 10),
        _range(
            "denoise",
            "detail",
            "Film grain synthesis",
            "Takes grain out; the browser makes it",
            0,
            50,
            5,
        ),
        Knob(
            field="alpha_quality",
            group="colour",
            label="Alpha quality",
            hint="How exactly transparency is kept",
            most=100,
            none_text="As the colours",
            for_alpha=True,
        ),
    ),
    rules=tuple(
        Rule(field="depth", values=(10, 12), target=target, allowed=allowed, reason=_DEEP)
        for target, allowed in _DEEP_ONLY
    ),
)
_PNG = FormatKnobs(
    format="png",
    knobs=(
        Knob(
            field="colours",
            group="colour",
            label="Palette",
            hint="How many colours are kept",
            least=2,
            most=256,
            none_text="Lossless",
        ),
        _range(
            "dither",
            "colour",
            "Dither",
            "Scatters the colours that are left, against bands",
            0,
            1,
            0.1,
        ),
        _range("bits", "colour", "Bits kept", "Fewer levels of each colour pack better", 1, 8),
        _range(
            "effort", "time", "Effort", "More time for a lossless optimisation at the end", 0, 6
        ),
    ),
    rules=(Rule(field="colours", values=(None,), target="dither", allowed=(1.0,), reason=_EXACT),),
)
KNOBS: tuple[FormatKnobs, ...] = (_JPEG, _WEBP, _AVIF, _PNG)


def knobs_of(name: Format) -> FormatKnobs:
    """The knobs of one format."""
    return next(each for each in KNOBS if each.format == name)


def resolved(settings: EncoderSettings) -> EncoderSettings:
    """Settings that keep every rule: a forbidden value becomes the first allowed one. Raises
    UsageError `invalid_settings` for a value that a knob does not have."""
    knobs = knobs_of(settings.format)
    values = settings_values(settings)
    for knob in knobs.knobs:
        if not _has(knob, values[knob.field]):
            raise UsageError(
                f"{knob.label} cannot be {values[knob.field]} in {FORMAT_NAMES[settings.format]}.",
                "invalid_settings",
            )
    for rule in knobs.rules:
        if values[rule.field] in rule.values and values[rule.target] not in rule.allowed:
            values[rule.target] = rule.allowed[0]
    return encoder_settings_from(values)


def _has(knob: Knob, value: Value) -> bool:
    if knob.options:
        return any(value == option.value for option in knob.options)
    if value is None:
        return bool(knob.none_text)
    return isinstance(value, int | float) and knob.least <= value <= knob.most
