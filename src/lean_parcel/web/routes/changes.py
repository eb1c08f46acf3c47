"""The stream of changes: server-sent events that name what a page has to fetch again."""

from flask import Blueprint, Response

from lean_parcel.web.streams import STREAM_TYPE

routes = Blueprint("changes", __name__)


@routes.get("/api/changes")
def stream() -> Response:
    """What changes from now on, as it changes: the head here, the rest by `streams`."""
    return Response(
        iter([": listening\n\n"]),
        mimetype=STREAM_TYPE,
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )
