"""Pages."""

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.page_settings import PageSettings
from lean_parcel.core.decisions.state import Setting
from lean_parcel.core.original.source import Source
from lean_parcel.core.page.totals import Totals
from lean_parcel.store.searches import SearchState
from lean_parcel.web.responses.keys import content_key
from lean_parcel.web.responses.photo.encodes import EncodeResponse
from lean_parcel.web.responses.told import Told
from lean_parcel.work.pages.viewing import PagePhoto, PageRow, PagesView


class PagePhotoResponse(Told):
    """A photo as the pages show it: how large it stands, in which settings it has its `own`,
    its pick and by how much that is over the limit, with the reason; how many bytes are fetched of
    it in the page, the pick or a variant that a browser of today prefers; the best that its search
    has found and that meets the aim, and whether that is ready to be taken; what it `came_to` so
    far, in words; the treatment that was done to it, to which it may be an exception since; what it
    gets of the page's bytes. `thumbnail_key` changes with the thumbnail.
    """

    id: int
    name: str
    source: Source
    aim: Aim
    own: tuple[Setting, ...]
    treatment: str | None
    is_exception: bool
    weight: float
    least_likeness: float | None
    most_bytes: int | None
    css_width_px: int
    css_height_px: int
    pick: EncodeResponse | None
    fetched_bytes: int | None
    over_bytes: int
    reason: str
    best: EncodeResponse | None
    is_ready: bool
    search_state: SearchState
    search_error: str | None
    came_to: str
    thumbnail_key: str

    @classmethod
    def of(cls, shown: PagePhoto) -> "PagePhotoResponse":
        """From what the pages show."""
        aim = shown.state.aim
        return cls.of_all(
            shown,
            shown.photo,
            shown.state,
            aim.place.standing(shown.plan.box),
            shown.spot,
            treatment=shown.treatment.name if shown.treatment else None,
            fetched_bytes=shown.fetched.fetched_bytes if shown.fetched else None,
            pick=EncodeResponse.of(shown.pick, aim) if shown.pick else None,
            best=EncodeResponse.of(shown.best, aim) if shown.best else None,
            thumbnail_key=content_key(shown.photo.thumbnail_sha256),
        )


class PageRowResponse(Told):
    """A photo as its page shows it, and what the picks of that page come to."""

    page_id: int
    photo: PagePhotoResponse
    totals: Totals

    @classmethod
    def of(cls, row: PageRow) -> "PageRowResponse":
        """From what the page shows."""
        photo = PagePhotoResponse.of(row.photo)
        return cls.of_all(row, photo=photo)


class PageResponse(Told):
    """A page with its photos, in order, and what their picks come to."""

    id: int
    name: str
    budget_bytes: int | None
    settings: PageSettings
    totals: Totals
    photos: list[PagePhotoResponse]


class PagesResponse(Told):
    """All pages, and the words of what undo and redo would do."""

    pages: list[PageResponse]
    undo_words: str | None
    redo_words: str | None

    @classmethod
    def of(cls, view: PagesView) -> "PagesResponse":
        """From what the pages show."""
        return cls.of_all(
            view,
            pages=[
                PageResponse.of_all(
                    page,
                    totals=view.totals[page.id],
                    photos=[
                        PagePhotoResponse.of(view.photos[spot.photo_id]) for spot in page.spots
                    ],
                )
                for page in view.layout.pages
            ],
        )
