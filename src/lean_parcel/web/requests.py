"""What is sent to the server. Values of the core travel as they are."""

from typing import Annotated, Any

from pydantic import BaseModel, FailFast, Field

from lean_parcel.core.balance.allocation import Objective
from lean_parcel.core.decisions.aim import MAX_LIKENESS
from lean_parcel.core.decisions.marks import MAX_MARKS, Mark
from lean_parcel.core.decisions.page_settings import SETTINGS
from lean_parcel.core.decisions.state import Setting
from lean_parcel.core.decisions.variants import MAX_DENSITIES, DensityLimit, VariantRule
from lean_parcel.core.encoding.held import HeldKnobs
from lean_parcel.core.encoding.settings import EncoderSettings
from lean_parcel.core.eye.blind import Side
from lean_parcel.core.eye.outcome import RoundsKind
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.dimensions import MAX_SIDE_PX
from lean_parcel.core.framing.framing import Focus, Turn
from lean_parcel.core.framing.place import DENSITIES, Place
from lean_parcel.core.metadata.policy import MetadataPolicy
from lean_parcel.core.packing.handed import FetchPriority, Loading
from lean_parcel.core.page.layout import MAX_WEIGHT
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.resample import Kernel, Light
from lean_parcel.core.picture.sharpen import Sharpen
from lean_parcel.core.size import MAX_BYTES
from lean_parcel.web.api import MAX_ID
from lean_parcel.web.bounds import between
from lean_parcel.work.delivery.visits import Chooses, Line

#: Photos that something is done to at once.
MOST_SELECTED = 1_000
#: Texts in which references are replaced at once.
MOST_TEXTS = 200


def _left_out() -> Any:
    """The default of a field that may be left out. A factory keeps it out of the JSON schema, so
    that the field is optional in TypeScript."""


def given(change: BaseModel) -> dict[str, Any]:
    """The fields that a request gave, by name, and those of requests in it."""
    values = {name: getattr(change, name) for name in change.model_fields_set}
    return {
        name: given(value) if isinstance(value, BaseModel) else value
        for name, value in values.items()
    }


def _between(least: float, most: float) -> Any:
    """Bounds that the core enforces, with words of its own; here they are only documented."""
    return Field(json_schema_extra={**between(least, most)})


class VariantsChangeRequest(BaseModel):
    """What to change of the variants; the rest stays. Formats of null are that of the pick, and one
    that opens everywhere."""

    densities: Annotated[tuple[float, ...], FailFast(), Field(max_length=MAX_DENSITIES)] = Field(
        default_factory=_left_out
    )
    formats: tuple[Format, ...] | None = Field(default_factory=_left_out)
    rule: VariantRule = Field(default_factory=_left_out)
    limits: Annotated[tuple[DensityLimit, ...], FailFast(), Field(max_length=MAX_DENSITIES)] = (
        Field(default_factory=_left_out)
    )


class AimChangeRequest(BaseModel):
    """What to change of an aim; the rest stays. A limit or likeness of null is
    none, formats of null are those that suit the picture, fewer pixels of null are by the size."""

    size: str = Field(default_factory=_left_out)
    density: Annotated[float, _between(*DENSITIES)] = Field(default_factory=_left_out)
    pixel_by_pixel: bool = Field(default_factory=_left_out)
    limit_bytes: Annotated[int, _between(1, MAX_BYTES)] | None = Field(default_factory=_left_out)
    likeness: Annotated[float, _between(0, MAX_LIKENESS)] | None = Field(default_factory=_left_out)
    formats: Annotated[tuple[Format, ...] | None, Field(max_length=len(FORMATS))] = Field(
        default_factory=_left_out
    )
    fewer_pixels: bool | None = Field(default_factory=_left_out)
    held: HeldKnobs = Field(default_factory=_left_out)
    variants: VariantsChangeRequest = Field(default_factory=_left_out)


class FramingChangeRequest(BaseModel):
    """What to change of a framing, after a turn if there is one; the rest stays. A crop of null is
    none."""

    turn: Turn = Field(default_factory=_left_out)
    straighten_deg: float = Field(default_factory=_left_out)
    crop: Box | None = Field(default_factory=_left_out)
    focus: Focus = Field(default_factory=_left_out)
    may_enlarge: bool = Field(default_factory=_left_out)
    kernel: Kernel = Field(default_factory=_left_out)
    light: Light = Field(default_factory=_left_out)
    sharpen: Sharpen = Field(default_factory=_left_out)
    background: str = Field(default_factory=_left_out)
    fills_background: bool = Field(default_factory=_left_out)
    gamut: Gamut = Field(default_factory=_left_out)
    metadata: MetadataPolicy = Field(default_factory=_left_out)


Id = Annotated[int, Field(ge=1, le=MAX_ID)]


class PickRequest(BaseModel):
    """The encode to take, or null to put the pick back; and why, where it is over the limit."""

    encode_id: Id | None
    reason: str = ""


class VariantPickRequest(BaseModel):
    """The encode to hand over at a density in a format, or null for the best that is found."""

    format: Format
    encode_id: Id | None


class ReasonRequest(BaseModel):
    """Why a pick stands over its limit."""

    reason: str


class MarksRequest(BaseModel):
    """All marked areas of a photo, in place of those before."""

    marks: Annotated[tuple[Mark, ...], FailFast(), Field(max_length=MAX_MARKS)]


class EncodeRequest(BaseModel):
    """An encode to make of a photo as it is framed, this wide or with all its pixels."""

    settings: Annotated[EncoderSettings, Field(discriminator="format")]
    width_px: int | None = None


class GlimpseRequest(EncodeRequest):
    """An encode, and which box of the framed pixels is to be seen of it."""

    box: Box


class EyeRequest(BaseModel):
    """Blind rounds to begin: with one encode, with another one to choose from, or over all of its
    format, from ruin or from good."""

    kind: RoundsKind
    encode_id: Id
    other_id: Id | None = None
    from_ruin: bool = True


class AnswerRequest(BaseModel):
    """The answer of a round."""

    round: Annotated[int, Field(ge=0, le=MAX_ID)]
    side: Side


class ReclaimRequest(BaseModel):
    """Whether photos that are on no page go too, which undo cannot bring back then."""

    forgets_removed: bool = False


class TypedRequest(BaseModel):
    """A size or a likeness as somebody typed it."""

    text: Annotated[str, Field(max_length=100)]


class AccessRequest(BaseModel):
    """The access token of the server."""

    token: Annotated[str, Field(max_length=300)]


class GoBackRequest(BaseModel):
    """The entry to make the current one."""

    entry_id: Id


class PhotoChangeRequest(BaseModel):
    """Another name for a photo, or another page and position."""

    name: str = Field(default_factory=_left_out)
    page_id: Id = Field(default_factory=_left_out)
    position: Annotated[int, Field(ge=0, le=MAX_ID)] = Field(default_factory=_left_out)


class NewPageRequest(BaseModel):
    """The name of a new page."""

    name: str


class PageSettingsChangeRequest(BaseModel):
    """What to change of the settings of a page; the rest stays. A limit or likeness of null is
    none, formats of null are those that suit each picture."""

    size: str = Field(default_factory=_left_out)
    density: Annotated[float, _between(*DENSITIES)] = Field(default_factory=_left_out)
    limit_bytes: Annotated[int, _between(1, MAX_BYTES)] | None = Field(default_factory=_left_out)
    likeness: Annotated[float, _between(0, MAX_LIKENESS)] | None = Field(default_factory=_left_out)
    formats: Annotated[tuple[Format, ...] | None, Field(max_length=len(FORMATS))] = Field(
        default_factory=_left_out
    )
    metadata: MetadataPolicy = Field(default_factory=_left_out)


class PageChangeRequest(BaseModel):
    """Another name for a page, another budget, or none with null; or other settings, another
    pattern for the names of its files, or another path for page code."""

    name: str = Field(default_factory=_left_out)
    budget_bytes: Annotated[int, _between(1, MAX_BYTES)] | None = Field(default_factory=_left_out)
    settings: PageSettingsChangeRequest = Field(default_factory=_left_out)
    name_pattern: str = Field(default_factory=_left_out)
    path_prefix: str = Field(default_factory=_left_out)


PhotoIds = Annotated[tuple[Id, ...], FailFast(), Field(min_length=1, max_length=MOST_SELECTED)]


class SelectionRequest(BaseModel):
    """Photos to do something to."""

    photo_ids: PhotoIds


class FollowRequest(SelectionRequest):
    """The settings in which photos are to follow their pages; without any, all of them."""

    settings: Annotated[tuple[Setting, ...], FailFast(), Field(max_length=len(SETTINGS))] = Field(
        default_factory=lambda: SETTINGS
    )


class TreatRequest(SelectionRequest):
    """The treatment to do; to exceptions to it too, unless they are to be spared."""

    treatment_id: Id
    spares_exceptions: bool = False


class SelectionAimRequest(SelectionRequest):
    """What to change of the aims of photos."""

    changes: AimChangeRequest


class SharesRequest(SelectionRequest):
    """What photos get of the bytes of their pages; null is no bound."""

    weight: Annotated[float, _between(0, MAX_WEIGHT)] = Field(default_factory=_left_out)
    least_likeness: Annotated[float, _between(0, MAX_LIKENESS)] | None = Field(
        default_factory=_left_out
    )
    most_bytes: Annotated[int, _between(1, MAX_BYTES)] | None = Field(default_factory=_left_out)


class CodeRequest(SelectionRequest):
    """How photos stand in page code; an alternative text of null is not written yet, a credit of
    null is the one that the photo brought."""

    alt_text: str | None = Field(default_factory=_left_out)
    credit: str | None = Field(default_factory=_left_out)
    loading: Loading = Field(default_factory=_left_out)
    fetch_priority: FetchPriority = Field(default_factory=_left_out)
    sizes: str = Field(default_factory=_left_out)


class FileNameRequest(BaseModel):
    """The name of a file, or null for the one by the page's pattern."""

    density: Annotated[float, _between(*DENSITIES)]
    format: Format
    name: str | None


class TextRequest(BaseModel):
    """A text of a site, and the name of its file, which tells its language."""

    name: Annotated[str, Field(max_length=300)]
    text: str


class ReferencesRequest(BaseModel):
    """Texts in which to replace references; an `img` becomes a `picture` where that is wanted."""

    texts: Annotated[
        tuple[TextRequest, ...], FailFast(), Field(min_length=1, max_length=MOST_TEXTS)
    ]
    as_pictures: bool = False


class VisitRequest(BaseModel):
    """A visit to the simulated site: the window, the density of the screen, and whether the browser
    chooses formats by `picture`, or a server by what it accepts; over a slow line where one is
    given."""

    window_css_px: Annotated[int, Field(ge=1, le=MAX_SIDE_PX)]
    density: Annotated[float, Field(ge=DENSITIES[0], le=DENSITIES[1])]
    chooses: Chooses = "picture"
    line: Line | None = None


class MoveRequest(SelectionRequest):
    """The page to move photos to."""

    page_id: Id


class KeepTreatmentRequest(BaseModel):
    """A photo to keep as a treatment under a name: with the knobs of an encode held, and with what
    depends on the single picture, where that is asked for."""

    photo_id: Id
    name: str
    encode_id: Id | None = None
    with_quality: bool = False
    with_single: bool = False


class BalanceRequest(BaseModel):
    """What a page's bytes are spent for; without `spend_bytes` its budget, or what its picks
    weigh."""

    objective: Objective = "worst"
    least_likeness: Annotated[float, Field(ge=0, le=MAX_LIKENESS)] = 0.0
    spend_bytes: Annotated[int, Field(ge=1, le=MAX_BYTES)] | None = None


class PhotoPick(BaseModel):
    """An encode for a photo."""

    photo_id: Id
    encode_id: Id


class BalancePicksRequest(BaseModel):
    """The encodes of a balance, as it was shown."""

    picks: Annotated[
        tuple[PhotoPick, ...], FailFast(), Field(min_length=1, max_length=MOST_SELECTED)
    ]


class PlaceRequest(BaseModel):
    """A place under a name."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    place: Place


class LibraryChoiceRequest(BaseModel):
    """A photo of the library in one of its sizes, and the page to put it on."""

    file: str
    width_px: int
    page_id: Id
