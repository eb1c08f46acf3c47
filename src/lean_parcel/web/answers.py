"""What the server answers. Values of the core travel as they are.

The OpenAPI document and the TypeScript types are generated from here (see `openapi`).
"""

from typing import Literal

from pydantic import BaseModel

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import Format, Settings
from lean_parcel.core.findings import Finding
from lean_parcel.core.framing import (
    Framing,
    MetadataPolicy,
    Sharpen,
)
from lean_parcel.core.frontier import frontier, knee
from lean_parcel.core.journal import Difference
from lean_parcel.core.knobs import FormatKnobs
from lean_parcel.core.metadata import Credit
from lean_parcel.core.orientation import Box
from lean_parcel.core.outcome import Enough
from lean_parcel.core.photo import Source
from lean_parcel.core.totals import Totals
from lean_parcel.demo import LibraryPhoto
from lean_parcel.store.encodes import Encode
from lean_parcel.store.inspections import Inspection
from lean_parcel.store.journal import Entry
from lean_parcel.store.places import NamedPlace
from lean_parcel.work.pages import PagePhoto, PagesView
from lean_parcel.work.workspace import Comparison, Weighing


class EncodeValue(BaseModel):
    """One encode: a point of the chart."""

    id: int
    settings: Settings
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


class MadeValue(BaseModel):
    """An encode that was asked for, or a draft of it."""

    encode: EncodeValue
    is_draft: bool


class PhotoValue(BaseModel):
    """A photo as the pages show it: the pixels it is framed to, its pick, and the best within its
    limit found so far; `thumbnail_key` changes with the thumbnail."""

    id: int
    name: str
    source: Source
    aim: Aim
    width_px: int
    height_px: int
    pick: EncodeValue | None
    best: EncodeValue | None
    search_state: Literal["running", "done", "stopped", "failed"]
    thumbnail_key: str

    @classmethod
    def of(cls, name: str, shown: PagePhoto) -> "PhotoValue":
        """From what the pages give."""
        return cls.model_validate(
            {
                "id": shown.photo.id,
                "name": name,
                "source": shown.photo.source,
                "aim": shown.state.aim,
                "width_px": shown.plan.width_px,
                "height_px": shown.plan.height_px,
                "pick": EncodeValue.of(shown.pick) if shown.pick else None,
                "best": EncodeValue.of(shown.best) if shown.best else None,
                "search_state": shown.search_state,
                "thumbnail_key": shown.photo.thumbnail_sha256[:12],
            }
        )


class PageValue(BaseModel):
    """A page with its photos, in order, and what their picks come to."""

    id: int
    name: str
    budget_bytes: int | None
    totals: Totals
    photos: list[PhotoValue]


class PagesValue(BaseModel):
    """All pages, and the words of what undo and redo would do."""

    pages: list[PageValue]
    undo_words: str | None
    redo_words: str | None

    @classmethod
    def of(cls, view: PagesView) -> "PagesValue":
        """From what the pages give."""
        return cls(
            pages=[
                PageValue(
                    id=page.id,
                    name=page.name,
                    budget_bytes=page.budget_bytes,
                    totals=view.totals[page.id],
                    photos=[
                        PhotoValue.of(spot.name, view.photos[spot.photo_id]) for spot in page.spots
                    ],
                )
                for page in view.layout.pages
            ],
            undo_words=view.undo_words,
            redo_words=view.redo_words,
        )


class FramedValue(BaseModel):
    """The photo as it is framed."""

    id: int
    width_px: int
    height_px: int
    is_transparent: bool


class PlanValue(BaseModel):
    """What the framing comes to: the part of the turned picture that is kept, whose size is given,
    the pixels it becomes, how many times fewer they are a side, and the sharpening in effect."""

    turned_width_px: int
    turned_height_px: int
    box: Box
    width_px: int
    height_px: int
    reduction: float
    sharpen: Sharpen


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


class KneeValue(BaseModel):
    """The encode from which on more bytes gain little, and the likeness that twice of them gain."""

    encode_id: int
    gain_per_doubling: float


class WeighingValue(BaseModel):
    """A photo with all that its screens show; candidates are ids of encodes, best first, and the
    frontier is the best that was measured for any bytes."""

    id: int
    name: str
    page_id: int
    source: Source
    aim: Aim
    framing: Framing
    plan: PlanValue
    can_undo: bool
    can_redo: bool
    framed: FramedValue | None
    search: SearchValue
    encodes: list[EncodeValue]
    candidate_ids: list[int]
    frontier_ids: list[int]
    knee: KneeValue | None
    outcome: str
    enough: Enough | None
    pick_id: int | None

    @classmethod
    def of(cls, weighing: Weighing) -> "WeighingValue":
        """From what the workspace gives."""
        photo, state, framed = weighing.photo, weighing.state, weighing.framed
        made = [encode for encode in weighing.encodes if not encode.trial.is_kept]
        points = [encode.measured for encode in made]
        bend = knee(points)
        return cls(
            id=photo.id,
            name=weighing.name,
            page_id=weighing.page_id,
            source=photo.source,
            aim=state.aim,
            framing=state.framing,
            plan=_plan_value(weighing),
            can_undo=weighing.can_undo,
            can_redo=weighing.can_redo,
            framed=None
            if framed is None
            else FramedValue(
                id=framed.id,
                width_px=framed.subject.rungs[0].width_px,
                height_px=framed.subject.rungs[0].height_px,
                is_transparent=framed.subject.is_transparent,
            ),
            search=SearchValue.model_validate(weighing.search, from_attributes=True),
            encodes=[EncodeValue.of(encode) for encode in weighing.encodes],
            candidate_ids=[encode.id for encode in weighing.candidates],
            frontier_ids=[made[index].id for index in frontier(points)],
            knee=None
            if bend is None
            else KneeValue(encode_id=made[bend.index].id, gain_per_doubling=bend.gain_per_doubling),
            outcome=weighing.outcome,
            enough=weighing.enough,
            pick_id=state.picked_encode_id,
        )


def _plan_value(weighing: Weighing) -> PlanValue:
    plan = weighing.plan
    turned_width_px, turned_height_px = weighing.turned_size_px
    return PlanValue(
        turned_width_px=turned_width_px,
        turned_height_px=turned_height_px,
        box=plan.box,
        width_px=plan.width_px,
        height_px=plan.height_px,
        reduction=plan.reduction,
        sharpen=plan.sharpen,
    )


class PolicyCostValue(BaseModel):
    """The bytes that a metadata policy adds to a file of each format."""

    policy: MetadataPolicy
    costs: dict[Format, int]


class FindingsValue(BaseModel):
    """What came in with a photo."""

    findings: list[Finding]
    credit: Credit
    policies: list[PolicyCostValue]

    @classmethod
    def of(cls, findings: tuple[Finding, ...], inspection: Inspection) -> "FindingsValue":
        """From what the workspace gives."""
        return cls(
            findings=list(findings),
            credit=inspection.credit,
            policies=[
                PolicyCostValue(policy=choice.policy, costs=choice.costs)
                for choice in inspection.choices
            ],
        )


class MarginsValue(BaseModel):
    """What lies inside the empty margins, in the turned picture; null without any."""

    box: Box | None


class EntryValue(BaseModel):
    """A step of a journal: the `current` one, one that led to it (`done`), or one that does not
    (`undone`)."""

    id: int
    words: str
    made_at: str
    status: Literal["done", "current", "undone"]


class JournalValue(BaseModel):
    """A photo's journal, oldest first."""

    entries: list[EntryValue]

    @classmethod
    def of(cls, entries: list[Entry], current: Entry) -> "JournalValue":
        """From rows."""
        by_id = {entry.id: entry for entry in entries}
        line = {current.id}
        at = current
        while at.parent_id is not None:
            at = by_id[at.parent_id]
            line.add(at.id)

        def status(entry: Entry) -> Literal["done", "current", "undone"]:
            if entry.id == current.id:
                return "current"
            return "done" if entry.id in line else "undone"

        return cls(
            entries=[
                EntryValue(id=e.id, words=e.words, made_at=e.made_at, status=status(e))
                for e in entries
            ]
        )


class ComparisonValue(BaseModel):
    """Two entries of a journal: what differs, and their framed pixels where they were made."""

    differences: list[Difference]
    framed_ids: tuple[int | None, ...]

    @classmethod
    def of(cls, comparison: Comparison) -> "ComparisonValue":
        """From what the workspace gives."""
        return cls(differences=list(comparison.differences), framed_ids=comparison.framed_ids)


class PlacesValue(BaseModel):
    """Places to choose from."""

    places: list[NamedPlace]


class AddedValue(BaseModel):
    """The id of what was stored."""

    id: int


class KnobsValue(BaseModel):
    """What can be turned in each format."""

    formats: tuple[FormatKnobs, ...]


class LibraryValue(BaseModel):
    """What the picture library offers."""

    name: str
    photos: list[LibraryPhoto]


class ChangesValue(BaseModel):
    """Photos that changed; the pages may have, too."""

    photo_ids: list[int]


class ErrorValue(BaseModel):
    """What went wrong: a stable code, a sentence, and the request's id for the log."""

    code: str
    message: str
    request_id: str


#: What the server gives.
ANSWERS: list[type[BaseModel]] = [
    PagesValue,
    WeighingValue,
    FindingsValue,
    MarginsValue,
    JournalValue,
    ComparisonValue,
    PlacesValue,
    AddedValue,
    LibraryValue,
    MadeValue,
    KnobsValue,
    ChangesValue,
    ErrorValue,
]
