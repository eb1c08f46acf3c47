"""Every step of searches, as recorded: along curves that are known, and of pictures."""

from collections.abc import Sequence
from dataclasses import fields, replace

import pytest

from lean_parcel.core.arrays import U8
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import settings_values
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.picture.serialisation import lossless_png
from lean_parcel.core.search.ladder import PartTrial, SearchInput
from lean_parcel.core.search.protocol import FormatSearch
from lean_parcel.core.search.search import search_in_format
from lean_parcel.core.search.sizing import first_input
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import encode_task, measure_ladder_task
from tests.builders import cutout, demo_pixels
from tests.core.search.fake_encoder import SEARCH_INPUT, Encoder, carry_out, fake_encoder, large
from tests.recorded import Recorded


def _with_ceilings(*ceilings: float) -> SearchInput:
    full, *fewer = SEARCH_INPUT.rungs
    reduced = (replace(rung, ceiling=at) for rung, at in zip(fewer, ceilings, strict=True))
    return replace(SEARCH_INPUT, rungs=(full, *reduced))


CURVES: dict[str, tuple[SearchInput, Encoder]] = {
    "known": (SEARCH_INPUT, fake_encoder),
    "transparent": (replace(SEARCH_INPUT, is_transparent=True), fake_encoder),
    "grey": (replace(SEARCH_INPUT, is_grey=True), fake_encoder),
    "one_size": (replace(SEARCH_INPUT, rungs=SEARCH_INPUT.rungs[:1]), fake_encoder),
    "sharp": (_with_ceilings(60, 50, 40, 30), fake_encoder),
    "soft": (_with_ceilings(98, 92, 80, 70), fake_encoder),
    "large": large(4),
}
PLACE = Place(size="1000")
AIMS = (
    Aim(place=PLACE, limit_bytes=900),
    Aim(place=PLACE, limit_bytes=72_000),
    Aim(place=PLACE, likeness=45.0),
    Aim(place=PLACE, likeness=80.0),
    Aim(place=PLACE, limit_bytes=26_000, likeness=90.0),
)


@pytest.mark.parametrize("of", CURVES)
def test_along_curves(of: str, recorded: Recorded) -> None:
    recorded({name: _traces(name, *CURVES[of], AIMS) for name in FORMATS})


@pytest.mark.parametrize(
    "pixels",
    [
        demo_pixels("kiln-night.jpg", 200),
        demo_pixels("bowl-sketch-scan.jpg", 180),
        cutout(150, 110),
    ],
    ids=["photo", "line_art", "cutout"],
)
def test_of_pictures(pixels: U8, recorded: Recorded) -> None:
    png = lossless_png(pixels)
    encoder_input = EncoderInput(pixels_png=png)
    of = measure_ladder_task(encoder_input, first_input(pixels, len(png)))

    def encoder(trial: Trial) -> Measured:
        return encode_task(encoder_input, trial).measured

    half = of.rungs[0].probe_size_bytes // 2
    chosen = (Aim(place=PLACE, limit_bytes=half), Aim(place=PLACE, likeness=75))
    traces = {name: _traces(name, of, encoder, chosen) for name in FORMATS}
    recorded({"ladder": of, **traces})


def _traces(
    name: Format, of: SearchInput, encoder: Encoder, chosen: Sequence[Aim]
) -> dict[str, object]:
    return {
        f"at most {aim.limit_bytes} B, likeness {aim.likeness}": _trace(
            search_in_format(name, of, aim, "#ffffff"), encoder
        )
        for aim in chosen
    }


def _trace(search: FormatSearch, encoder: Encoder) -> dict[str, object]:
    found, made = carry_out(search, encoder)
    return {
        "steps": [f"{_words(trial)}: {measured.size_bytes} B" for trial, measured in made.items()],
        "found": _words(found.trial),
        "likeness": found.measured.likeness,
        "meets the aim": found.meets_aim,
    }


def _words(trial: Trial) -> str:
    """A trial, and what is unusual of its settings."""
    usual = {field.name: field.default for field in fields(trial.settings)}
    values = settings_values(trial.settings).items()
    told = [f"{name} {value}" for name, value in values if value != usual[name]]
    part = "part of " if isinstance(trial, PartTrial) else ""
    return f"{part}{trial.width_px}x{trial.height_px}, {', '.join(told)}"
