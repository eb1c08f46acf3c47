"""Pages."""

from pydantic import BaseModel

from lean_parcel.core.decisions.aim import Aim, PageAim
from lean_parcel.core.original.source import Source
from lean_parcel.core.page.totals import Totals
from lean_parcel.store.searches import SearchState
from lean_parcel.web.responses.keys import content_key
from lean_parcel.web.responses.photo.encodes import EncodeResponse
from lean_parcel.work.pages.viewing import PagePhoto, PageRow, PagesView


class PagePhotoResponse(BaseModel):
    """A photo as the pages show it: the pixels it is framed to, its pick and by how much that is
    over the limit, with the reason, and the best that its search has found and that meets the aim;
    the treatment that was done to it, to which it may be an exception since;
    what it gets of the page's bytes; `thumbnail_key` changes with the thumbnail."""

    id: int
    name: str
    source: Source
    aim: Aim
    follows_page: bool
    treatment: str | None
    is_exception: bool
    weight: float
    least_likeness: float | None
    most_bytes: int | None
    width_px: int
    height_px: int
    pick: EncodeResponse | None
    over_bytes: int
    reason: str
    best: EncodeResponse | None
    search_state: SearchState
    search_error: str | None
    thumbnail_key: str

    @classmethod
    def of(cls, shown: PagePhoto) -> "PagePhotoResponse":
        """From what the pages show."""
        aim, spot = shown.state.aim, shown.spot
        return cls(
            id=shown.photo.id,
            name=shown.name,
            source=shown.photo.source,
            aim=aim,
            follows_page=shown.follows_page,
            treatment=shown.treatment.name if shown.treatment else None,
            is_exception=shown.is_exception,
            weight=spot.weight,
            least_likeness=spot.least_likeness,
            most_bytes=spot.most_bytes,
            width_px=shown.plan.width_px,
            height_px=shown.plan.height_px,
            pick=EncodeResponse.of(shown.pick, aim) if shown.pick else None,
            over_bytes=shown.over_bytes,
            reason=shown.state.reason,
            best=EncodeResponse.of(shown.best, aim) if shown.best else None,
            search_state=shown.search_state,
            search_error=shown.search_error,
            thumbnail_key=content_key(shown.photo.thumbnail_sha256),
        )


class PageRowResponse(BaseModel):
    """A photo as its page shows it, and what the picks of that page come to."""

    page_id: int
    photo: PagePhotoResponse
    totals: Totals

    @classmethod
    def of(cls, row: PageRow) -> "PageRowResponse":
        """From what the page shows."""
        photo = PagePhotoResponse.of(row.photo)
        return cls(page_id=row.page_id, photo=photo, totals=row.totals)


class PageResponse(BaseModel):
    """A page with its photos, in order, and what their picks come to."""

    id: int
    name: str
    budget_bytes: int | None
    default: PageAim | None
    totals: Totals
    photos: list[PagePhotoResponse]


class PagesResponse(BaseModel):
    """All pages, and the words of what undo and redo would do."""

    pages: list[PageResponse]
    undo_words: str | None
    redo_words: str | None

    @classmethod
    def of(cls, view: PagesView) -> "PagesResponse":
        """From what the pages show."""
        return cls(
            pages=[
                PageResponse(
                    id=page.id,
                    name=page.name,
                    budget_bytes=page.budget_bytes,
                    default=page.default,
                    totals=view.totals[page.id],
                    photos=[
                        PagePhotoResponse.of(view.photos[spot.photo_id]) for spot in page.spots
                    ],
                )
                for page in view.layout.pages
            ],
            undo_words=view.undo_words,
            redo_words=view.redo_words,
        )
