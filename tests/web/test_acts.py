"""What each act changes of what is shown, as recorded: a page is filled, treated, balanced, undone
and packed, in small pictures."""

import json
from typing import Any

from flask.testing import FlaskClient

from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.recorded import Recorded, leaves
from tests.web.steps import AIM, photos, upload
from tests.workspaces import all_settled

#: What is another in each run: how long things took, and in which order they ended.
_PASSING = ("encode_ms", "request_id", "made_at", "begun_at", "encode_id", "_so_far_id", "best/id",
            "pick/id", "pick", "pick_id", "encode/id")  # fmt: skip
#: What of a photo is decided by people; the rest is told of other photos.
_DECIDED = ("aim", "framing", "plan", "pick", "can_undo", "can_redo", "marks", "search")
_BOTH = [21, 22]
#: Acts as they are sent; `$21` is the best encode of that photo.
ACTS: list[tuple[str, str, Any]] = [
    ("patch", "pages/1", {"name": "Spring", "budget_bytes": 4_000}),
    ("patch", "selection/aim", {"photo_ids": _BOTH, "changes": AIM}),
    ("put", "photos/21/pick", {"encode_id": "$21"}),
    ("patch", "photos/21/framing", {"turn": "right", "crop": None, "kernel": "mitchell"}),
    ("post", "photos/21/journal/undo", None),
    ("patch", "photos/22", {"name": "The bottle"}),
    ("patch", "selection/code", {"photo_ids": _BOTH, "alt_text": "A cup", "loading": "eager"}),
    ("patch", "selection/shares", {"photo_ids": [22], "weight": 2, "most_bytes": 2_500}),
    ("post", "selection/picks", {"photo_ids": _BOTH}),
    ("post", "pages/1/balance", {"objective": "all", "spend_bytes": 2_600}),
    ("patch", "pages/1", {"name_pattern": "{name}-{format}", "path_prefix": "/img/"}),
    ("put", "photos/21/file-name", {"density": 1, "format": "webp", "name": "first"}),
    ("post", "treatments/kept", {"photo_id": 21, "name": "Small", "encode_id": "$21"}),
    ("post", "selection/treatment", {"photo_ids": [22], "treatment_id": 1}),
    ("delete", "pages/1/batch", None),
    ("post", "places", {"name": "Card", "place": {"size": "48 × 32"}}),
    ("put", "photos/21/reason", {"reason": "It opens the page"}),
    ("put", "photos/21/marks", {"marks": []}),
    ("post", "pages", {"name": "Autumn"}),
    ("post", "selection/move", {"photo_ids": [21], "page_id": 2}),
    ("post", "pages/undo", None),
    ("patch", "photos/21", {"page_id": 1, "position": 1}),
    ("post", "selection/removal", {"photo_ids": [22]}),
    ("delete", "pages/2", None),
    ("post", "selection/page-settings", {"photo_ids": _BOTH, "settings": ["size"]}),
    ("patch", "pages/1", {"settings": {"limit_bytes": 7_000, "formats": None}}),
    ("put", "photos/21/page-settings", None),
    ("put", "treatments/5", {"$treatment": 5}),
    ("delete", "treatments/5", None),
    ("delete", "places/6", None),
    ("post", "room/reclaim", {"forgets_removed": True}),
]


def test_what_acts_change(client: FlaskClient, workspace: Workspace, recorded: Recorded) -> None:
    told: list[Any] = []
    for name, data in (("Cup.png", file(photo())), ("bottle.png", file(cutout()))):
        told.append(upload(client, data, name).json)
    before = shown(client, workspace)
    told.append(before)
    for method, path, sent in ACTS:
        sent = _filled_in(client, sent)
        response = client.open(f"/api/{path}", method=method.upper(), json=sent)
        now = shown(client, workspace)
        told.append(
            {
                "act": f"{method} {path}",
                "status": response.status_code,
                "answer": _lasting(response.json),
                "changed": dict(sorted(now.items() - before.items())),
                "gone": sorted(before.keys() - now.keys()),
            }
        )
        before = now
    recorded(told)


def shown(client: FlaskClient, workspace: Workspace) -> dict[str, Any]:
    """All that is shown, once everything has come to its end: each value by its way there."""
    on_pages = [photo["id"] for photo in photos(client)]
    all_settled(workspace)
    paths = ["pages", "treatments", "places", "pages/1/batch", "pages/1/delivery"]
    paths += [f"photos/{each}/journal" for each in on_pages]
    told = {path: client.get(f"/api/{path}").json for path in paths}
    for each in on_pages:
        view = client.get(f"/api/photos/{each}/at/0").json
        told[f"photos/{each}"] = {name: view.get(name) for name in _DECIDED}
    return _lasting(told)


def _lasting(told: Any) -> dict[str, Any]:
    """Each value by its way there, but for those that are another in each run."""
    return {at[1:]: str(value) for at, value in leaves(told) if not at.endswith(_PASSING)}


def _filled_in(client: FlaskClient, sent: Any) -> Any:
    if isinstance(sent, dict) and "$treatment" in sent:
        kept = client.get("/api/treatments").json["treatments"]
        (own,) = [each["file"] for each in kept if each["id"] == sent["$treatment"]]
        return {**own, "name": "Smaller"}
    text = json.dumps(sent)
    for photo_id in _BOTH:
        if f'"${photo_id}"' in text:
            best = client.get(f"/api/photos/{photo_id}/at/0").json["encodes"][0]["id"]
            text = text.replace(f'"${photo_id}"', str(best))
    return json.loads(text)
