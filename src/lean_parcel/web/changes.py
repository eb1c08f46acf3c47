"""The stream of changes: server-sent events that name the photos a page has to look at again."""

from collections.abc import Iterator

from flask import Blueprint, Response

from lean_parcel.web.answers import ChangesValue
from lean_parcel.web.photos import workspace
from lean_parcel.work.changes import Changes

routes = Blueprint("changes", __name__)
#: A comment is sent after this long without a change, which finds pages that have gone.
_QUIET_S = 10.0


@routes.get("/api/changes")
def stream() -> Response:
    """Photos that change from now on, as they change."""
    return Response(
        _events(workspace().changes),
        mimetype="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )


def _events(changes: Changes) -> Iterator[str]:
    seen, _ = changes.wait(-1, 0)
    yield ": listening\n\n"
    while not changes.is_closed:
        seen, changed = changes.wait(seen, _QUIET_S)
        if changed:
            photo_ids = [photo_id for photo_id in changed if photo_id is not None]
            yield f"data: {ChangesValue(photo_ids=photo_ids).model_dump_json()}\n\n"
        else:
            yield ": quiet\n\n"
