"""Routes of pages."""

from lean_parcel.core.page import page_acts
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import NewPageRequest, PageChangeRequest, given
from lean_parcel.web.responses.outcomes import AddedResponse
from lean_parcel.web.responses.page.pages import PagesResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("pages", "/api/pages")


@routes.route("get", "")
def list_pages() -> PagesResponse:
    """All pages with their photos."""
    return PagesResponse.of(workspace().page_viewing.pages())


@routes.route("post", "")
def add_page(page: NewPageRequest) -> AddedResponse:
    """Adds a page."""
    layout = workspace().page_editing.do(page_acts.add_page(page.name))
    return AddedResponse(id=layout.pages[-1].id)


@routes.route("patch", "/<int:page_id>")
def change_page(page_id: int, change: PageChangeRequest) -> None:
    """Names a page, or sets its budget, settings, file names or path."""
    if "name" in change.model_fields_set:
        workspace().page_editing.do(page_acts.rename_page(page_id, change.name))
    if "settings" in change.model_fields_set:
        settings = given(change.settings)
        workspace().page_editing.do(page_acts.change_settings(page_id, settings))
    delivery = given(change).keys() & {"name_pattern", "path_prefix"}
    if delivery:
        changes = {name: getattr(change, name) for name in delivery}
        workspace().page_editing.do(page_acts.set_delivery(page_id, changes))
    if "budget_bytes" in change.model_fields_set:
        workspace().page_editing.do(page_acts.set_budget(page_id, change.budget_bytes))


@routes.route("delete", "/<int:page_id>")
def remove_page(page_id: int) -> None:
    """Removes a page with its photos."""
    workspace().page_editing.do(page_acts.remove_page(page_id))


@routes.route("post", "/undo")
def undo() -> None:
    """Takes the last act on the pages back."""
    workspace().page_editing.undo()


@routes.route("post", "/redo")
def redo() -> None:
    """Does an act on the pages again."""
    workspace().page_editing.redo()
