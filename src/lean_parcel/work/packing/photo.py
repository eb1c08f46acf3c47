"""One photo of a run: what was measured of it, and making an encode of it."""

import hashlib
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Any

from lean_parcel.core.candidates.delivery import delivered_measure
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.damage.found import Worst
from lean_parcel.core.damage.spots import worst_of
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import is_draft, settings_from, settings_values
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.metadata.embed import SegmentSizes, embedded
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.work.packing.sources import SourceFile, read_photo
from lean_parcel.work.searches.one_file import FileFit, fit_file, segments_of
from lean_parcel.work.tasks.damage import Examined, examine_task
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded, encode_task
from lean_parcel.work.tasks.framing import FramedFiles, frame_task
from lean_parcel.work.tasks.inspection import Inspected, inspect_task


@dataclass(frozen=True, slots=True, kw_only=True)
class Treating:
    """What is done to every photo of a run."""

    framing: Framing
    aim: Aim
    limits: Limits


@dataclass(frozen=True, slots=True, kw_only=True)
class Original:
    """A photo's file, and the hash of its bytes."""

    source: SourceFile
    data: bytes
    sha256: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """An encode that a photo can get, as it is handed out."""

    trial: Trial
    measured: Measured

    def values(self) -> dict[str, Any]:
        """As JSON has it."""
        return {
            "settings": settings_values(self.trial.settings),
            "width_px": self.trial.width_px,
            "height_px": self.trial.height_px,
            "size_bytes": self.measured.size_bytes,
            "likeness": self.measured.likeness,
        }

    @classmethod
    def of(cls, values: dict[str, Any]) -> "Option":
        """From JSON."""
        trial = Trial(
            settings=settings_from(values["settings"]),
            width_px=values["width_px"],
            height_px=values["height_px"],
        )
        measured = Measured(size_bytes=values["size_bytes"], likeness=values["likeness"])
        return cls(trial=trial, measured=measured)


def read(source: SourceFile, limits: Limits) -> Original:
    """A photo of a run. Raises UnreadablePhoto."""
    data = read_photo(source.path, limits)
    return Original(source=source, data=data, sha256=hashlib.sha256(data).hexdigest())


def fitted(executor: Executor, original: Original, treating: Treating, slots: int) -> FileFit:
    """The search of one photo. Raises as `fit_file` does."""
    return fit_file(
        executor,
        original.data,
        original.source.path.name,
        treating.framing,
        treating.aim,
        treating.limits,
        _ignored,
        slots=slots,
    )


def _ignored(event: object) -> None:
    """Nobody watches a single photo of a run."""


def options_of(fit: FileFit) -> list[Option]:
    """All encodes at full effort that were made on the way, but for JPEGs that lose
    transparency."""
    return [
        Option(trial=made.trial, measured=_delivered(made.trial, made.encoded, fit.sizes))
        for made in fit.made
        if not is_draft(made.trial.settings)
        and not (fit.is_transparent and made.trial.settings.format == "jpeg")
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeOfPhoto:
    """A file of one photo as it is handed out, what it is, and what its photo is."""

    data: bytes
    option: Option
    source: Source
    encoder_input: EncoderInput
    is_transparent: bool


def encoded(
    executor: Executor, original: Original, treating: Treating, trial: Trial
) -> MadeOfPhoto:
    """Makes a file of one photo. Raises a PhotoError or TaskError."""
    framing, limits = treating.framing, treating.limits
    name = original.source.path.name
    framed: FramedFiles = executor.submit(
        frame_task, original.data, name, framing, treating.aim.place, limits
    ).result()
    segments = segments_of(executor, original.data, name, framing, limits)
    encoder_input = EncoderInput(
        pixels_png=framed.pixels_png, gamut=framing.gamut, density=framed.plan.density
    )
    made: Encoded = executor.submit(encode_task, encoder_input, trial).result()
    measured = _delivered(trial, made, SegmentSizes.of(segments))
    return MadeOfPhoto(
        data=embedded(made.data, trial.settings.format, segments),
        option=Option(trial=trial, measured=measured),
        source=framed.source,
        encoder_input=encoder_input,
        is_transparent=framed.search_input.is_transparent,
    )


def worst_damage(
    executor: Executor,
    encoder_input: EncoderInput,
    trial: Trial,
    data: bytes,
    limits: Limits,
) -> Worst:
    """What is worst in a file, beside the pixels that it was made of. Raises a TaskError."""
    examined: Examined = executor.submit(
        examine_task, encoder_input, data, trial.settings, limits
    ).result()
    return worst_of(examined.damage)


def credit_of(executor: Executor, original: Original, limits: Limits) -> str:
    """Who is to be named with a photo; empty for nobody. Raises a PhotoError or TaskError."""
    name = original.source.path.name
    inspected: Inspected = executor.submit(
        inspect_task, original.data, name, Credit(), limits
    ).result()
    return inspected.credit.line


def _delivered(trial: Trial, made: Encoded, sizes: SegmentSizes) -> Measured:
    return delivered_measure(trial, made.measured, made.container_bytes, sizes)
