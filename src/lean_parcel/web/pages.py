"""Routes of pages, and of the places that photos stand in."""

from flask import Blueprint, Response, request

from lean_parcel.core.knobs import KNOBS
from lean_parcel.web.answers import AddedValue, KnobsValue, PagesValue, PlacesValue
from lean_parcel.web.photos import answer, workspace
from lean_parcel.web.requests import NewPageValue, PageChangeValue, PlaceValue

routes = Blueprint("pages", __name__, url_prefix="/api")


@routes.get("/pages")
def list_pages() -> Response:
    """All pages with their photos."""
    return answer(PagesValue.of(workspace().pages.view()))


@routes.post("/pages")
def add_page() -> tuple[Response, int]:
    """A page more."""
    page = NewPageValue.model_validate_json(request.get_data())
    return answer(AddedValue(id=workspace().pages.add_page(page.name))), 201


@routes.patch("/pages/<int:page_id>")
def change_page(page_id: int) -> tuple[str, int]:
    """Names a page, or sets its budget."""
    change = PageChangeValue.model_validate_json(request.get_data())
    if "name" in change.model_fields_set:
        workspace().pages.rename_page(page_id, change.name)
    if "budget_bytes" in change.model_fields_set:
        workspace().pages.set_budget(page_id, change.budget_bytes)
    return "", 204


@routes.delete("/pages/<int:page_id>")
def remove_page(page_id: int) -> tuple[str, int]:
    """A page less, with its photos."""
    workspace().pages.remove_page(page_id)
    return "", 204


@routes.post("/pages/undo")
def undo() -> tuple[str, int]:
    """Takes the last act on the pages back."""
    workspace().pages.undo()
    return "", 204


@routes.post("/pages/redo")
def redo() -> tuple[str, int]:
    """Takes an act on the pages again."""
    workspace().pages.redo()
    return "", 204


@routes.get("/knobs")
def list_knobs() -> Response:
    """What can be turned in each format."""
    return answer(KnobsValue(formats=KNOBS))


@routes.get("/places")
def list_places() -> Response:
    """Places to choose from."""
    return answer(PlacesValue(places=workspace().pages.list_places()))


@routes.post("/places")
def add_place() -> tuple[Response, int]:
    """A place more."""
    value = PlaceValue.model_validate_json(request.get_data())
    return answer(AddedValue(id=workspace().pages.add_place(value.name, value.place))), 201


@routes.put("/places/<int:place_id>")
def change_place(place_id: int) -> tuple[str, int]:
    """Another name and other numbers for a place."""
    value = PlaceValue.model_validate_json(request.get_data())
    workspace().pages.change_place(place_id, value.name, value.place)
    return "", 204


@routes.delete("/places/<int:place_id>")
def remove_place(place_id: int) -> tuple[str, int]:
    """A place less."""
    workspace().pages.remove_place(place_id)
    return "", 204
