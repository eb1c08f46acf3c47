"""Handing over by the API, and the simulated site, which has no rights."""

import io
import json
import re
import zipfile
from typing import Any

import pytest
from flask.testing import FlaskClient

from lean_parcel.core.page import page_acts
from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.web.steps import LIMITS, upload
from tests.work.delivery.steps import packed, taken

NASTY = "</title><script>parent.x=1</script><img src=x onerror=alert(1)> \"'&"


def visit(client: FlaskClient, **wanted: Any) -> dict[str, Any]:
    answer = client.post("/api/pages/1/visits", json={"window_css_px": 400, "density": 1, **wanted})
    assert answer.status_code == 200, answer.json
    value: dict[str, Any] = answer.json
    return value


def test_a_delivery_is_shown_with_names_and_code(client: FlaskClient, workspace: Workspace) -> None:
    photo_id = taken(workspace)
    shown = client.get("/api/pages/1/delivery").json
    (of_photo,) = shown["photos"]
    assert of_photo["files"][0]["path"] == "img/rote-tasse-96.webp"
    assert of_photo["old_name"] == "img/Röte Tasse.png"
    assert of_photo["code"]["html"].count("<source ") == 1
    assert (shown["running"], shown["out_folder"]) == (0, None)
    body = {"photo_ids": [photo_id], "alt_text": "A cup", "loading": "eager"}
    assert client.patch("/api/selection/code", json=body).status_code == 204
    named = {"density": 1, "format": "jpeg", "name": "Small"}
    assert client.put(f"/api/photos/{photo_id}/file-name", json=named).status_code == 204
    changes = {"name_pattern": "{name}-{hash}", "path_prefix": "/i/"}
    assert client.patch("/api/pages/1", json=changes).status_code == 204
    (of_photo,) = client.get("/api/pages/1/delivery").json["photos"]
    assert 'alt="A cup"' in of_photo["code"]["html"]
    assert "/i/img/Small.jpg" in of_photo["code"]["html"]
    assert re.fullmatch(r"img/rote-tasse-[0-9a-f]{8}\.webp", of_photo["files"][0]["path"])


def test_everything_is_downloaded_with_its_list(client: FlaskClient, workspace: Workspace) -> None:
    taken(workspace)
    answer = client.get("/api/pages/1/delivery.zip")
    assert answer.headers["Content-Disposition"] == 'attachment; filename="first-page.zip"'
    with zipfile.ZipFile(io.BytesIO(answer.data)) as archive:
        listed = json.loads(archive.read("packing-list.json"))
    assert json.loads(client.get("/api/pages/1/packing-list.json").data) == listed
    assert b"rote-tasse-96.webp" in client.get("/api/pages/1/packing-list.html").data


def test_an_archive_that_was_cut_off_is_not_taken_for_one(workspace: Workspace) -> None:
    """A disk that fills while an archive comes in leaves what no program opens."""
    taken(workspace)
    pieces = list(workspace.sending.zipped(1))
    assert len(pieces) > 4
    for count in range(1, len(pieces)):
        with pytest.raises(zipfile.BadZipFile):
            zipfile.ZipFile(io.BytesIO(b"".join(pieces[:count])))


@pytest.mark.parametrize("path", ["delivery.zip", "packing-list.json", "packing-list.html"])
def test_what_is_not_there_is_told(client: FlaskClient, path: str) -> None:
    assert client.get(f"/api/pages/1/{path}").json["code"] == "nothing_taken"
    assert client.get(f"/api/pages/9/{path}").status_code == 404
    assert client.post("/api/pages/1/delivery/folder").json["code"] == "no_out_folder"


def test_a_photo_keeps_the_folder_that_it_came_in(
    client: FlaskClient, workspace: Workspace
) -> None:
    upload(client, file(photo()), "cup.png", folder="Fotos 2026/../Küche")
    (of_photo,) = client.get("/api/pages/1/delivery").json["photos"]
    assert of_photo["old_name"] == "Fotos 2026/Küche/cup.png"


def test_references_come_in_pieces_that_make_the_text_again(
    client: FlaskClient, workspace: Workspace
) -> None:
    photo_id = taken(workspace)
    text = "<p>é\r\n<img src='img/Röte Tasse.png'>\r\n<img src='logo.png'></p>"
    body = {"texts": [{"name": "a.html", "text": text}], "as_pictures": False}
    answer = client.post("/api/pages/1/references", json=body).json
    (found,) = answer["texts"]
    (hunk,) = found["hunks"]
    assert hunk["between"] + hunk["before"] + found["rest"] == text
    assert hunk["after"] == "<img src='img/rote-tasse-48.jpg'>\r\n"
    assert (hunk["line"], hunk["photo_ids"], found["foreign"]) == (2, [photo_id], ["logo.png"])
    assert answer["photos"][0]["old_name"] == "img/Röte Tasse.png"
    long = {"texts": [{"name": "a.html", "text": "<p>" * 100_000}]}
    assert client.post("/api/pages/1/references", json=long).status_code == 200


def test_variants_are_shown_made_and_chosen(client: FlaskClient, workspace: Workspace) -> None:
    photo_id = taken(workspace)
    base = f"/api/photos/{photo_id}/at/100"
    shown = client.get(base).json
    assert (shown["density"], shown["densities"]) == (1, [2, 1])
    settings = next(e["settings"] for e in shown["encodes"] if e["settings"]["format"] == "jpeg")
    made = client.post(f"{base}/encodes", json={"settings": {**settings, "quality": 40}}).json
    pick = {"format": "jpeg", "encode_id": made["id"]}
    assert client.put(f"{base}/pick", json=pick).status_code == 204
    assert client.get(base).json["chosen_ids"] == [made["id"]]
    assert client.get(f"/api/photos/{photo_id}/at/300").status_code == 404
    assert client.delete(f"{base}/search").status_code == 204
    assert client.delete(f"/api/photos/{photo_id}/at/300/search").status_code == 404


def test_the_site_sends_what_is_delivered_and_counts_it(
    client: FlaskClient, workspace: Workspace
) -> None:
    taken(workspace, name="cup.png")
    began = visit(client)
    address = began["address"]
    page = client.get(address).get_data(as_text=True)
    assert "files/cup-48.webp" in page
    data = client.get(f"{address}files/cup-48.webp")
    assert data.content_type == "image/webp"
    (sent,) = client.get(f"/api/visits/{began['id']}").json["sent"]
    assert (sent["path"], sent["size_bytes"]) == ("cup-48.webp", len(data.data))
    assert began["plan"][0]["size_bytes"] == len(data.data)
    assert client.get(f"{address}files/../../api/pages").status_code == 404
    assert client.get(f"{address}files/packing-list.json").status_code == 404
    assert client.get("/standing/guessed/").status_code == 404


def test_the_site_has_no_rights_whatever_names_and_texts_bring(
    client: FlaskClient, workspace: Workspace
) -> None:
    photo_id = taken(workspace, name="cup.png")
    workspace.page_editing.do(page_acts.rename_photo(photo_id, NASTY))
    workspace.page_editing.do(page_acts.rename_page(1, NASTY))
    workspace.page_editing.do(page_acts.set_code((photo_id,), {"alt_text": NASTY, "sizes": NASTY}))
    packed(workspace)
    address = visit(client)["address"]
    for path in ("", "frame"):
        answer = client.get(address + path)
        page = answer.get_data(as_text=True)
        assert page.count("<script") == 1
        assert "<img src=x" not in page
        policy = answer.headers["Content-Security-Policy"]
        here = f"http://localhost/{address}"
        assert policy.startswith("sandbox allow-scripts; default-src 'none'")
        assert "allow-same-origin" not in policy
        for directive in ("img-src", "style-src", "script-src"):
            assert f"{directive} {here};" in policy
        assert "unsafe" not in policy
    whole = b"".join(workspace.sending.zipped(1))
    with zipfile.ZipFile(io.BytesIO(whole)) as archive:
        html = archive.read("packing-list.html").decode()
        assert "<script" not in html
        assert "<img src=x" not in html
        assert all(re.fullmatch(r"[a-z0-9./@_-]+", name) for name in archive.namelist())


def test_the_site_cannot_reach_the_application(workspace: Workspace) -> None:
    """Requests of a sandboxed page are those of a stranger."""
    taken(workspace)
    stranger = create_app(workspace, LIMITS).test_client()
    stranger.environ_base["HTTP_SEC_FETCH_SITE"] = "cross-site"
    stranger.environ_base["HTTP_ORIGIN"] = "null"
    assert stranger.get("/api/pages").status_code == 403
    assert stranger.get("/api/pages/1/delivery.zip").status_code == 403
    assert stranger.post("/api/pages/1/visits", json={}).status_code == 403


@pytest.mark.parametrize(
    "wanted",
    [
        {"window_css_px": 0},
        {"density": 9},
        {"chooses": "other"},
        {"line": {"kbit_s": 0, "round_trip_ms": 1}},
    ],
)
def test_visits_that_cannot_be_are_refused(
    client: FlaskClient, workspace: Workspace, wanted: dict[str, Any]
) -> None:
    taken(workspace)
    body = {"window_css_px": 400, "density": 1, **wanted}
    assert client.post("/api/pages/1/visits", json=body).status_code == 400


def test_what_may_be_another_next_time_is_kept_nowhere(
    client: FlaskClient, workspace: Workspace
) -> None:
    photo_id = taken(workspace)
    began = visit(client)
    address = began["address"]
    encode_id = workspace.viewing.photo(photo_id).encodes.candidates[0].id
    series = client.post(
        f"/api/photos/{photo_id}/eye", json={"kind": "check", "encode_id": encode_id}
    ).json
    for path in (
        "/api/pages/1/delivery.zip",
        "/api/pages/1/packing-list.json",
        "/api/pages/1/packing-list.html",
        address,
        f"{address}files/{began['plan'][0]['path']}",
        f"/api/photos/{photo_id}/encodes/{encode_id}/arriving",
        f"/api/eye/{series['id']}/0/a",
    ):
        answer = client.get(path)
        assert answer.status_code == 200, path
        assert answer.headers["Cache-Control"] == "no-store", path


def test_a_simulated_page_comes_with_what_it_looks_like_and_what_measures_it(
    client: FlaskClient, workspace: Workspace
) -> None:
    taken(workspace)
    address = visit(client)["address"]
    for name, media_type in (("site.css", "text/css"), ("site.js", "text/javascript")):
        answer = client.get(f"{address}{name}")
        assert (answer.status_code, answer.mimetype) == (200, media_type)
        assert answer.data
    assert client.get(f"{address}site.html").status_code == 404
    page, framed = client.get(address), client.get(f"{address}frame")
    assert (page.mimetype, framed.mimetype) == ("text/html", "text/html")
    assert page.data != framed.data
