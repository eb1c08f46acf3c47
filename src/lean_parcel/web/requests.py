"""What the server is asked. Values of the core travel as they are; what is left out stays."""

from typing import Annotated, Any

from pydantic import BaseModel, Field

from lean_parcel.core.encode import EncoderSettings, Format
from lean_parcel.core.framing import (
    Focus,
    Gamut,
    Kernel,
    Light,
    MetadataPolicy,
    Sharpen,
    Size,
    Turn,
)
from lean_parcel.core.orientation import Box
from lean_parcel.core.place import Fit, Place


def _left_out() -> Any:
    """A factory keeps the default out of the JSON schema, so that TypeScript may leave it out."""


class AimChangeValue(BaseModel):
    """What to change of an aim; the rest stays. A height or likeness of null is
    none."""

    css_width_px: int = Field(default_factory=_left_out)
    css_height_px: int | None = Field(default_factory=_left_out)
    fit: Fit = Field(default_factory=_left_out)
    density: float = Field(default_factory=_left_out)
    limit_bytes: int = Field(default_factory=_left_out)
    likeness: float | None = Field(default_factory=_left_out)
    formats: tuple[Format, ...] = Field(default_factory=_left_out)


class FramingChangeValue(BaseModel):
    """What to change of a framing, after a turn if there is one; the rest stays. A crop of null is
    none."""

    turn: Turn = Field(default_factory=_left_out)
    straighten_deg: float = Field(default_factory=_left_out)
    crop: Box | None = Field(default_factory=_left_out)
    focus: Focus = Field(default_factory=_left_out)
    size: Size = Field(default_factory=_left_out)
    may_enlarge: bool = Field(default_factory=_left_out)
    kernel: Kernel = Field(default_factory=_left_out)
    light: Light = Field(default_factory=_left_out)
    sharpen: Sharpen = Field(default_factory=_left_out)
    background: str = Field(default_factory=_left_out)
    fills_background: bool = Field(default_factory=_left_out)
    gamut: Gamut = Field(default_factory=_left_out)
    metadata: MetadataPolicy = Field(default_factory=_left_out)


#: What SQLite can count to.
Id = Annotated[int, Field(ge=1, le=2**63 - 1)]


class PickValue(BaseModel):
    """The encode to take, or null to take the pick back."""

    encode_id: Id | None


class EncodeWishValue(BaseModel):
    """An encode to be made of a photo as it is framed, this wide or with all its pixels; or first a
    draft of it."""

    settings: Annotated[EncoderSettings, Field(discriminator="format")]
    width_px: int | None = None
    may_draft: bool = False


class GoBackValue(BaseModel):
    """The entry to make the current one."""

    entry_id: Id


class PhotoChangeValue(BaseModel):
    """Another name for a photo, or another page and position."""

    name: str = Field(default_factory=_left_out)
    page_id: int = Field(default_factory=_left_out)
    position: int = Field(default_factory=_left_out)


class NewPageValue(BaseModel):
    """The name of a new page."""

    name: str


class PageChangeValue(BaseModel):
    """Another name for a page, or another budget; null is none."""

    name: str = Field(default_factory=_left_out)
    budget_bytes: int | None = Field(default_factory=_left_out)


class PlaceValue(BaseModel):
    """A place under a name."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    place: Place


class LibraryChoiceValue(BaseModel):
    """A photo of the library in one of its sizes, and the page to put it on."""

    file: str
    width_px: int
    page_id: int


#: What the server takes.
REQUESTS: list[type[BaseModel]] = [
    AimChangeValue,
    FramingChangeValue,
    PickValue,
    EncodeWishValue,
    GoBackValue,
    PhotoChangeValue,
    NewPageValue,
    PageChangeValue,
    PlaceValue,
    LibraryChoiceValue,
]
