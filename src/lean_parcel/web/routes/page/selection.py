"""Routes of what is done to a selection of photos."""

from lean_parcel.core.page import page_acts
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import (
    CodeRequest,
    FollowRequest,
    MoveRequest,
    SelectionAimRequest,
    SelectionRequest,
    SharesRequest,
    TreatRequest,
    given,
)
from lean_parcel.web.responses.outcomes import CountResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("selection", "/api/selection")


@routes.route("post", "/treatment")
def treat(chosen: TreatRequest) -> None:
    """Does a treatment to photos, and weighs them as a batch."""
    workspace().selections.treat(
        chosen.photo_ids, chosen.treatment_id, spares_exceptions=chosen.spares_exceptions
    )


@routes.route("patch", "/aim")
def change_aims(chosen: SelectionAimRequest) -> None:
    """Gives photos aims of their own."""
    workspace().selections.change_aims(chosen.photo_ids, given(chosen.changes))


@routes.route("post", "/page-settings")
def follow_page(chosen: FollowRequest) -> None:
    """Lets photos follow settings of their pages, or all of them."""
    workspace().selections.follow_page(chosen.photo_ids, chosen.settings)


@routes.route("patch", "/shares")
def change_shares(chosen: SharesRequest) -> None:
    """Changes what photos get of the bytes of their pages."""
    changes = {name: value for name, value in given(chosen).items() if name != "photo_ids"}
    workspace().selections.change_shares(chosen.photo_ids, changes)


@routes.route("patch", "/code")
def change_code(chosen: CodeRequest) -> None:
    """Changes how photos stand in page code."""
    changes = {name: value for name, value in given(chosen).items() if name != "photo_ids"}
    workspace().page_editing.do(page_acts.set_code(chosen.photo_ids, changes))


@routes.route("post", "/move")
def move(chosen: MoveRequest) -> None:
    """Moves photos to the end of a page."""
    workspace().selections.move(chosen.photo_ids, chosen.page_id)


@routes.route("post", "/removal")
def remove(chosen: SelectionRequest) -> None:
    """Takes photos off their pages."""
    workspace().selections.remove(chosen.photo_ids)


@routes.route("post", "/picks")
def take(chosen: SelectionRequest) -> CountResponse:
    """Takes the best of photos without a pick where it meets the aim."""
    return CountResponse(count=workspace().selections.take(chosen.photo_ids))


@routes.route("post", "/weighing")
def weigh(chosen: SelectionRequest) -> None:
    """Weighs photos as a batch."""
    workspace().selections.weigh(chosen.photo_ids)
