"""Routes of a photo's journal."""

from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import GoBackRequest
from lean_parcel.web.responses.journal import ComparisonResponse, JournalResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("journal", "/api/photos/<int:photo_id>/journal")


@routes.route("get", "")
def show_journal(photo_id: int) -> JournalResponse:
    """Every step on a photo."""
    return JournalResponse.of(workspace().viewing.journal(photo_id))


@routes.route("post", "/undo")
def undo(photo_id: int) -> None:
    """Takes the last step back."""
    workspace().deciding.undo(photo_id)


@routes.route("post", "/redo")
def redo(photo_id: int) -> None:
    """Does a step again."""
    workspace().deciding.redo(photo_id)


@routes.route("put", "/current")
def go_back(photo_id: int, entry: GoBackRequest) -> None:
    """Makes any entry the current one."""
    workspace().deciding.go_back_to(photo_id, entry.entry_id)


@routes.route("get", "/<int:first_id>/<int:second_id>")
def compare(photo_id: int, first_id: int, second_id: int) -> ComparisonResponse:
    """What differs between two entries."""
    found = workspace().comparing.states(photo_id, first_id, second_id)
    return ComparisonResponse(differences=list(found))
