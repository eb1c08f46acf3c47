"""What travels between browser and server. Values of the core travel as they are.

The OpenAPI document and the TypeScript types are generated from here (see `openapi`).
"""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import Format, Settings
from lean_parcel.core.photo import Source
from lean_parcel.demo import Sample
from lean_parcel.store.encodes import Encode
from lean_parcel.store.photos import Photo
from lean_parcel.work.workspace import Weighing


class EncodeValue(BaseModel):
    """One encode: a point of the chart."""

    id: int
    settings: Annotated[Settings, Field(discriminator="format")]
    width_px: int
    height_px: int
    size_bytes: int
    likeness: float
    encode_ms: float

    @classmethod
    def of(cls, encode: Encode) -> "EncodeValue":
        """From a row."""
        return cls(
            id=encode.id,
            settings=encode.trial.settings,
            width_px=encode.trial.width_px,
            height_px=encode.trial.height_px,
            size_bytes=encode.measured.size_bytes,
            likeness=encode.measured.likeness,
            encode_ms=encode.encode_ms,
        )


class PhotoValue(BaseModel):
    """A photo as the list shows it."""

    id: int
    name: str
    source: Source
    aim: Aim
    pick: EncodeValue | None

    @classmethod
    def of(cls, photo: Photo, pick: Encode | None) -> "PhotoValue":
        """From a row and its pick's."""
        return cls(
            id=photo.id,
            name=photo.name,
            source=photo.source,
            aim=photo.aim,
            pick=EncodeValue.of(pick) if pick else None,
        )


class PhotosValue(BaseModel):
    """All photos."""

    photos: list[PhotoValue]


class FramingValue(BaseModel):
    """The original in its place."""

    id: int
    width_px: int
    height_px: int
    is_transparent: bool


class FormatProgressValue(BaseModel):
    """How far the search is in one format."""

    format: Format
    state: Literal["running", "done", "failed"]
    encodes: int
    error_message: str | None


class SearchValue(BaseModel):
    """The latest search for a photo."""

    state: Literal["running", "done", "stopped", "failed"]
    limit_bytes: int
    error_message: str | None
    formats: list[FormatProgressValue]


class WeighingValue(BaseModel):
    """A photo with all that its screen shows; candidates are ids of encodes, best first."""

    id: int
    name: str
    source: Source
    aim: Aim
    framing: FramingValue | None
    search: SearchValue
    encodes: list[EncodeValue]
    candidate_ids: list[int]
    pick_id: int | None

    @classmethod
    def of(cls, weighing: Weighing) -> "WeighingValue":
        """From what the workspace gives."""
        photo, framing, search = weighing.photo, weighing.framing, weighing.search
        return cls(
            id=photo.id,
            name=photo.name,
            source=photo.source,
            aim=photo.aim,
            framing=None
            if framing is None
            else FramingValue(
                id=framing.id,
                width_px=framing.subject.rungs[0].width_px,
                height_px=framing.subject.rungs[0].height_px,
                is_transparent=framing.subject.is_transparent,
            ),
            search=SearchValue.model_validate(search, from_attributes=True),
            encodes=[EncodeValue.of(encode) for encode in weighing.encodes],
            candidate_ids=[encode.id for encode in weighing.candidates],
            pick_id=photo.picked_encode_id,
        )


def _left_out() -> None:
    """A factory keeps the default out of the JSON schema, so that TypeScript may leave it out."""


class AimChangeValue(BaseModel):
    """What to change of an aim; the rest stays."""

    css_width_px: int | None = Field(default_factory=_left_out)
    density: float | None = Field(default_factory=_left_out)
    limit_bytes: int | None = Field(default_factory=_left_out)
    background: str | None = Field(default_factory=_left_out)
    formats: tuple[Format, ...] | None = Field(default_factory=_left_out)


class PickValue(BaseModel):
    """The encode to take, or null to take the pick back."""

    encode_id: int | None


class AddedValue(BaseModel):
    """The id of a photo that was stored."""

    id: int


class SamplesValue(BaseModel):
    """The demo photos."""

    samples: list[Sample]


class SampleNameValue(BaseModel):
    """A demo photo to open."""

    file: str


class ChangesValue(BaseModel):
    """Photos that changed."""

    photo_ids: list[int]


class ErrorValue(BaseModel):
    """What went wrong: a stable code, a sentence, and the request's id for the log."""

    code: str
    message: str
    request_id: str


#: What the server takes, and what it gives.
REQUESTS: list[type[BaseModel]] = [AimChangeValue, PickValue, SampleNameValue]
ANSWERS: list[type[BaseModel]] = [
    PhotosValue,
    WeighingValue,
    AddedValue,
    SamplesValue,
    ChangesValue,
    ErrorValue,
]
