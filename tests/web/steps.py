"""What tests do with the web application."""

import io
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from werkzeug.datastructures import FileStorage
from werkzeug.test import stream_encode_multipart

from lean_parcel.core.original.source import Limits
from lean_parcel.work.workspace import Workspace
from tests.workspaces import settled

LIMITS = Limits(max_size_bytes=2_000_000)
AIM = {
    "size": "96",
    "density": 1,
    "limit_bytes": 1_500,
    "formats": ["jpeg", "webp"],
}


def own_page(application: Flask) -> FlaskClient:
    """The page of the server itself."""
    own = application.test_client()
    own.environ_base["HTTP_SEC_FETCH_SITE"] = "same-origin"
    return own


def upload(client: FlaskClient, data: bytes, name: str = "Röte Tasse.png", **form: str) -> Any:
    stream, _, boundary = stream_encode_multipart(
        {"photo": FileStorage(io.BytesIO(data), name), **form}, use_tempfile=False
    )
    kind = f"multipart/form-data; boundary={boundary}"
    return client.post("/api/photos", data=stream.read(), content_type=kind)


def weighed(client: FlaskClient, workspace: Workspace, data: bytes) -> dict[str, Any]:
    """An uploaded photo after its search for AIM."""
    photo_id = upload(client, data).json["id"]
    assert client.patch(f"/api/photos/{photo_id}/aim", json=AIM).status_code == 204
    settled(workspace, photo_id)
    weighing: dict[str, Any] = client.get(f"/api/photos/{photo_id}/at/0").json
    return weighing


def photos(client: FlaskClient) -> list[dict[str, Any]]:
    """The photos of all pages."""
    return [photo for page in client.get("/api/pages").json["pages"] for photo in page["photos"]]
