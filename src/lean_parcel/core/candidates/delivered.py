"""What is handed out of an encode under the state that holds: its picture with the metadata that
the policy lets through, which is put in only then."""

from dataclasses import replace

from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.settings import JpegSettings, PassThrough
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.metadata.embed import SegmentSizes, added_bytes, embedded, exchanged
from lean_parcel.core.metadata.policy import MetadataPolicy
from lean_parcel.core.metadata.values import Segments


def trial_under(trial: Trial, framing: Framing, *, is_transparent: bool) -> Trial:
    """What a trial becomes under another metadata policy and background: transparency is filled
    with that colour, and only "everything" lets an original go out to the byte."""
    settings = trial.settings
    match settings:
        case JpegSettings() if is_transparent:
            return replace(trial, settings=replace(settings, background=framing.background))
        case PassThrough():
            keeps = framing.metadata == "everything" and not settings.repacked
            return replace(trial, settings=replace(settings, keeps_metadata=keeps))
        case _:
            return trial


def delivered_measure(
    trial: Trial, bare: Measured, container_bytes: int, sizes: SegmentSizes
) -> Measured:
    """What a file without metadata weighs when it is handed out."""
    if _is_as_it_came(trial):
        return bare
    added = added_bytes(trial.settings.format, sizes, container_bytes)
    return replace(bare, size_bytes=bare.size_bytes + added)


def delivered_file(trial: Trial, data: bytes, segments: Segments, policy: MetadataPolicy) -> bytes:
    """The file that is handed out. Raises ValueError for an original that may not go out as it is,
    and is an AVIF of an unknown build."""
    if not _is_as_it_came(trial):
        return embedded(data, trial.settings.format, segments)
    return data if policy == "everything" else exchanged(data, trial.settings.format, segments)


def _is_as_it_came(trial: Trial) -> bool:
    return isinstance(trial.settings, PassThrough) and trial.settings.keeps_metadata
