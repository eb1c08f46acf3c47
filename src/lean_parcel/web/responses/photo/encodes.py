"""Encodes."""

import base64
from collections.abc import Mapping

from pydantic import BaseModel

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.glimpse import Glimpse
from lean_parcel.core.encoding.settings import PassThrough, Settings, is_draft, setting_words
from lean_parcel.core.formats import FORMAT_NAMES, MEDIA_TYPES, Format
from lean_parcel.core.likeness.levels import likeness_sentence, likeness_words
from lean_parcel.core.picture.box import Box
from lean_parcel.core.search.forecast import ForecastPoint, QualityStep
from lean_parcel.store.encodes import Encode
from lean_parcel.web.responses.keys import content_key
from lean_parcel.web.responses.photo.damage import WorstResponse
from lean_parcel.web.responses.told import Told
from lean_parcel.work.photos.comparing import PinnedView


class EncodeResponse(Told):
    """One encode: a point of the chart. `is_original` is the original, passed through;
    `is_draft` what less effort than usual was made for; `file_key` that of its file."""

    id: int
    file_key: str
    name: str
    settings: Settings
    setting_words: str
    width_px: int
    height_px: int
    size_bytes: int
    likeness: float
    likeness_words: str
    likeness_sentence: str
    meets_aim: bool
    is_original: bool
    is_draft: bool
    encode_ms: float
    worst: WorstResponse | None

    @classmethod
    def of(cls, encode: Encode, aim: Aim) -> "EncodeResponse":
        """From a row, and the aim of its photo."""
        trial, measured = encode.trial, encode.measured
        return cls.of_all(
            encode,
            trial,
            measured,
            file_key=content_key(encode.file_sha256),
            name=_name(trial),
            setting_words=setting_words(trial.settings),
            likeness_words=likeness_words(measured.likeness),
            likeness_sentence=likeness_sentence(measured.likeness),
            meets_aim=aim.is_met_by(measured.size_bytes, measured.likeness),
            is_original=trial.is_pass_through,
            is_draft=is_draft(trial.settings),
            worst=WorstResponse.of(encode.worst) if encode.worst else None,
        )


class PinnedResponse(BaseModel):
    """An encode that a photo is compared with, and whether it shows the same part of it."""

    encode: EncodeResponse
    shows_the_same: bool

    @classmethod
    def of(cls, pinned: PinnedView) -> "PinnedResponse":
        """From what the workspace shows."""
        encode = EncodeResponse.of(pinned.encode, pinned.aim)
        return cls(encode=encode, shows_the_same=pinned.shows_the_same)


def _name(trial: Trial) -> str:
    if isinstance(trial.settings, PassThrough):
        return "Repacked" if trial.settings.repacked else "Original"
    return FORMAT_NAMES[trial.settings.format]


class FileNameResponse(BaseModel):
    """The name under which an encode is saved."""

    name: str


class ArrivalResponse(BaseModel):
    """The bytes of a file as it is handed out; and those after which all of it can be shown for
    the first time, where it comes in coarse and sharpens."""

    size_bytes: int
    first_picture_bytes: int | None


class GlimpseResponse(BaseModel):
    """The part of an encode that is looked at, as a file of its own, a `data` URL; and where it
    lies among the pixels that the encode sends. It is a draft."""

    box: Box
    url: str

    @classmethod
    def of(cls, glimpse: Glimpse) -> "GlimpseResponse":
        """From what tuning gives."""
        data = base64.b64encode(glimpse.data).decode()
        return cls(box=glimpse.box, url=f"data:{MEDIA_TYPES[glimpse.format]};base64,{data}")


class QualityStepsResponse(BaseModel):
    """What settings come to at each step of quality, rising."""

    steps: tuple[QualityStep, ...]


class ForecastResponse(BaseModel):
    """What other aims would come to in a format: a curve by rising bytes."""

    format: Format
    name: str
    points: tuple[ForecastPoint, ...]


class ForecastsResponse(BaseModel):
    """The same in all formats."""

    formats: list[ForecastResponse]

    @classmethod
    def of(cls, forecasts: Mapping[Format, tuple[ForecastPoint, ...]]) -> "ForecastsResponse":
        """From what the workspace expects."""
        return cls(
            formats=[
                ForecastResponse(format=each, name=FORMAT_NAMES[each], points=points)
                for each, points in forecasts.items()
            ]
        )
