"""Routes of what is handed over of a page."""

from flask import Blueprint, Response

from lean_parcel.core.packing.names import safe_folder
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import ReferencesRequest, VisitRequest
from lean_parcel.web.responses.page.delivery import (
    DeliveryResponse,
    OldPhotoResponse,
    ReferencesResponse,
    TextResponse,
    VisitResponse,
    WrittenResponse,
)
from lean_parcel.web.served import workspace
from lean_parcel.work.delivery.packing_list import (
    HTML_NAME,
    LIST_NAME,
    packing_list_html,
    packing_list_json,
)
from lean_parcel.work.pages.batch_table import batch_csv

routes = JsonRoutes("delivery", "/api/pages")
visits = JsonRoutes("visits", "/api/visits")
downloads = Blueprint("downloads", __name__, url_prefix="/api/pages")
#: Texts of a site are longer than other requests.
_MOST_TEXT_BYTES = 10_000_000


@routes.route("get", "/<int:page_id>/delivery")
def show_delivery(page_id: int) -> DeliveryResponse:
    """What is handed over of a page."""
    out = workspace().sending.out
    delivery = workspace().planning.page(page_id)
    return DeliveryResponse.of(delivery, str(out) if out else None)


@routes.route("post", "/<int:page_id>/delivery/folder")
def write_delivery(page_id: int) -> WrittenResponse:
    """Writes the delivery below the folder that the server was given."""
    return WrittenResponse.of(workspace().sending.written(page_id))


@routes.route("post", "/<int:page_id>/references", most_bytes=_MOST_TEXT_BYTES)
def find_references(page_id: int, wanted: ReferencesRequest) -> ReferencesResponse:
    """Finds references to the originals of a page in texts, and what would take their place."""
    delivery = workspace().planning.page(page_id)
    photos = [(photo, old) for photo in delivery.photos if (old := photo.old)]
    olds = [old for _, old in photos]
    prefix, ids = delivery.page.path_prefix, [photo.photo.id for photo, _ in photos]
    texts = [(each.name, each.text) for each in wanted.texts]
    found = workspace().references.find(texts, olds, prefix, as_pictures=wanted.as_pictures)
    return ReferencesResponse(
        texts=[
            TextResponse.of(each.name, each.text, repointed, ids)
            for each, repointed in zip(wanted.texts, found, strict=True)
        ],
        photos=[
            OldPhotoResponse(
                id=photo.photo.id,
                old_name=f"{old.folder}/{old.name}" if old.folder else old.name,
                size_bytes=old.size_bytes,
            )
            for photo, old in photos
        ],
    )


@routes.route("post", "/<int:page_id>/visits")
def begin_visit(page_id: int, wanted: VisitRequest) -> VisitResponse:
    """Begins a visit of the files of a page in the simulated site."""
    visit = workspace().visits.begin(
        page_id,
        window_css_px=wanted.window_css_px,
        density=wanted.density,
        chooses=wanted.chooses,
        line=wanted.line,
    )
    return VisitResponse.of(visit)


@visits.route("get", "/<int:visit_id>")
def show_visit(visit_id: int) -> VisitResponse:
    """A visit, with what was sent so far."""
    return VisitResponse.of(workspace().visits.by_id(visit_id))


@downloads.get("/<int:page_id>/delivery.zip")
def download_all(page_id: int) -> Response:
    """Everything that is handed over of a page, as a zip that is made while it is sent."""
    pieces = workspace().sending.zipped(page_id)
    return _attachment(Response(pieces, mimetype="application/zip"), _name(page_id, ".zip"))


@downloads.get(f"/<int:page_id>/{LIST_NAME}")
def download_list(page_id: int) -> Response:
    """The packing list for machines."""
    listed = workspace().sending.listed(page_id)
    response = Response(packing_list_json(listed), mimetype="application/json")
    return _attachment(response, LIST_NAME)


@downloads.get(f"/<int:page_id>/{HTML_NAME}")
def download_readable_list(page_id: int) -> Response:
    """The packing list for people."""
    listed = workspace().sending.listed(page_id)
    return _attachment(Response(packing_list_html(listed), mimetype="text/html"), HTML_NAME)


@downloads.get("/<int:page_id>/batch.csv")
def download_batch(page_id: int) -> Response:
    """What came of the photos of a page's batch, as a table."""
    batch = workspace().batches.view(page_id)
    rows = workspace().page_viewing.rows(batch.photo_ids if batch else ())
    table = Response(batch_csv(rows.values()), mimetype="text/csv")
    return _attachment(table, _name(page_id, ".csv"))


def _name(page_id: int, ending: str) -> str:
    page = workspace().page_viewing.layout().page(page_id)
    return f"{safe_folder(page.name.replace('/', ' ')) or 'page'}{ending}"


def _attachment(response: Response, name: str) -> Response:
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    response.headers["Cache-Control"] = "no-store"
    return response
