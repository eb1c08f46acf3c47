"""Routes of the balance of a page, and of its batch."""

from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import BalancePicksRequest, BalanceRequest
from lean_parcel.web.responses.page.balance import BalanceResponse, BatchResponse
from lean_parcel.web.served import workspace
from lean_parcel.work.pages.balancing import BalanceWish

routes = JsonRoutes("balance", "/api/pages/<int:page_id>")


def _wish(request: BalanceRequest) -> BalanceWish:
    return BalanceWish(
        objective=request.objective,
        least_likeness=request.least_likeness,
        spend_bytes=request.spend_bytes,
    )


@routes.route("post", "/balance")
def show_balance(page_id: int, wanted: BalanceRequest) -> BalanceResponse:
    """What each photo would get of the bytes of a page; nothing changes."""
    return BalanceResponse.of(workspace().balancing.view(page_id, _wish(wanted)))


@routes.route("post", "/balance/encodes")
def measure_balance(page_id: int, wanted: BalanceRequest) -> None:
    """Begins to make the encodes that a balance misses."""
    workspace().balancing.measure(page_id, _wish(wanted))


@routes.route("delete", "/balance/encodes")
def stop_measuring(page_id: int) -> None:
    """Ends the making of encodes for a balance."""
    workspace().balancing.stop(page_id)


@routes.route("put", "/balance/picks")
def take_balance(page_id: int, wanted: BalancePicksRequest) -> None:
    """Takes the encodes of a balance, as it was shown, as one step."""
    picks = {pick.photo_id: pick.encode_id for pick in wanted.picks}
    workspace().balancing.take(page_id, picks)


@routes.route("get", "/batch")
def show_batch(page_id: int) -> BatchResponse:
    """How far the batch of a page is."""
    return BatchResponse.of(workspace().batches.view(page_id))


@routes.route("post", "/batch/stop")
def stop_batch(page_id: int) -> None:
    """Ends the searches of a batch that run."""
    workspace().batches.stop(page_id)


@routes.route("post", "/batch/resume")
def resume_batch(page_id: int) -> None:
    """Goes on with a batch that was stopped."""
    workspace().batches.resume(page_id)


@routes.route("delete", "/batch")
def end_batch(page_id: int) -> None:
    """Forgets the batch of a page."""
    workspace().batches.end(page_id)
