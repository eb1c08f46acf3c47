"""One photo."""

from pydantic import BaseModel

from lean_parcel.core.candidates.enough import Enough
from lean_parcel.core.candidates.frontier import LinePoint
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.marks import Mark
from lean_parcel.core.eye.outcome import Outcome
from lean_parcel.core.formats import FORMAT_NAMES, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen
from lean_parcel.store.searches import FormatState, SearchState
from lean_parcel.web.responses.keys import content_key
from lean_parcel.web.responses.photo.encodes import EncodeResponse
from lean_parcel.web.responses.told import Told
from lean_parcel.work.photos.viewing import (
    CloseCallView,
    PhotoView,
    SecondOpinionView,
)


class FramedResponse(Told):
    """The photo as it is framed; `pixels_key` is that of its pixels, of which `density` are judged
    as a CSS pixel."""

    id: int
    pixels_key: str
    width_px: int
    height_px: int
    density: float
    is_transparent: bool


class PlanResponse(Told):
    """What the framing comes to: the `box` of the turned picture, whose size is given, the pixels
    it becomes, how many times fewer they are a side, and the sharpening in effect; how large it
    stands, and a `smaller` size to stand at; whether the size cuts it to a box, and whether a file
    may have fewer pixels."""

    turned_width_px: int
    turned_height_px: int
    box: Box
    width_px: int
    height_px: int
    reduction: float
    sharpen: Sharpen
    css_width_px: int
    css_height_px: int
    smaller: str
    is_covered: bool
    may_have_fewer_pixels: bool


class FormatProgressResponse(Told):
    """How far the search is in one format, and the best encode so far that meets the aim."""

    format: Format
    name: str
    state: FormatState
    encodes: int
    error_message: str | None
    best_so_far_id: int | None


class SearchResponse(Told):
    """The latest search for a photo."""

    state: SearchState
    limit_bytes: int | None
    error_message: str | None
    formats: list[FormatProgressResponse]


class EdgeResponse(BaseModel):
    """The frontier of one format: its encodes that no other of it beats, by rising bytes."""

    format: Format
    name: str
    encode_ids: list[int]


class ImprovedResponse(BaseModel):
    """A candidate that was found while the photo was looked at, and the one that it is offered in
    the place of."""

    encode_id: int
    before_id: int


class PhotoResponse(Told):
    """A photo with all that its screens show.

    Candidates are ids of encodes, best first. The stage begins with the `default`. Where the limit
    ruins the picture, as far as is known, `rescue` would do. `edges` are the best that was measured
    of each format for any bytes, the `frontier` is the line that they make. What is picked is
    handed over; what is chosen of that, by a person. Variants are at the `densities`; a `density`
    of 0 is the photo as it is taken.
    """

    id: int
    name: str
    page_id: int
    source: Source
    aim: Aim
    framing: Framing
    plan: PlanResponse
    can_undo: bool
    can_redo: bool
    framed: FramedResponse | None
    search: SearchResponse
    encodes: list[EncodeResponse]
    candidate_ids: list[int]
    default_id: int | None
    improved: list[ImprovedResponse]
    frontier: tuple[LinePoint, ...]
    edges: list[EdgeResponse]
    knee_id: int | None
    summary: str
    next_level: Enough | None
    rescue: Enough | None
    close_call: CloseCallView | None
    second_opinion: SecondOpinionView | None
    picked_ids: list[int]
    chosen_ids: list[int]
    density: float
    densities: list[float]
    marks: tuple[Mark, ...]
    outcomes: tuple[Outcome, ...]
    own_threshold: Outcome | None

    @classmethod
    def of(cls, view: PhotoView) -> "PhotoResponse":
        """From what the workspace shows."""
        state, encodes = view.state, view.encodes
        return cls.of_all(
            view,
            view.photo,
            state,
            encodes,
            plan=PlanResponse.of_all(
                view.plan,
                state.aim.place.standing(view.plan.box),
                turned_width_px=view.turned_size_px[0],
                turned_height_px=view.turned_size_px[1],
                smaller=state.aim.place.smaller(view.plan.box),
                may_have_fewer_pixels=state.aim.may_have_fewer_pixels,
                is_covered=state.aim.place.dimensions.is_covered,
            ),
            framed=_framed(view),
            search=SearchResponse.of_all(view.search, formats=_formats(view)),
            encodes=[EncodeResponse.of(encode, state.aim) for encode in encodes.made],
            improved=[
                ImprovedResponse(encode_id=encode_id, before_id=before_id)
                for encode_id, before_id in encodes.improved.items()
            ],
            edges=[
                EdgeResponse(format=name, name=FORMAT_NAMES[name], encode_ids=list(ids))
                for name, ids in encodes.edge_ids.items()
            ],
        )


def _framed(view: PhotoView) -> FramedResponse | None:
    if view.framed is None:
        return None
    search_input = view.framed.search_input
    pixels_key = content_key(view.framed.pixels_sha256)
    return FramedResponse.of_all(
        view.framed, search_input, search_input.rungs[0], pixels_key=pixels_key
    )


def _formats(view: PhotoView) -> list[FormatProgressResponse]:
    best = view.encodes.best_so_far_ids
    return [
        FormatProgressResponse.of_all(
            each, name=FORMAT_NAMES[each.format], best_so_far_id=best.get(each.format)
        )
        for each in view.search.formats
    ]
