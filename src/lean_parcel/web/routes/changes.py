"""The stream of changes: server-sent events that name what a page has to fetch again."""

from collections.abc import Iterator

from flask import Blueprint, Response

from lean_parcel.web.responses.changes import ChangesResponse
from lean_parcel.web.served import workspace
from lean_parcel.work.changes import Changes

routes = Blueprint("changes", __name__)
#: A comment is sent after this long without a change, which detects pages that were closed.
_QUIET_S = 10.0


@routes.get("/api/changes")
def stream() -> Response:
    """What changes from now on, as it changes."""
    return Response(
        _events(workspace().changes),
        mimetype="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )


def _events(changes: Changes) -> Iterator[str]:
    seen = changes.wait(-1, 0).version
    yield ": listening\n\n"
    while not changes.is_closed:
        news = changes.wait(seen, _QUIET_S)
        seen = news.version
        if news.is_empty:
            yield ": quiet\n\n"
        else:
            changed = ChangesResponse(photo_ids=list(news.photo_ids), has_pages=news.has_pages)
            yield f"data: {changed.model_dump_json()}\n\n"
