import io
import re
from typing import Any

import pytest
from flask.testing import FlaskClient
from PIL import Image

from lean_parcel.core.errors import (
    BytesChanged,
    LeanParcelError,
    NotFoundError,
    StorageError,
    Superseded,
    TaskCrashed,
    TooManyBytes,
    UnsupportedPhoto,
    UsageError,
)
from lean_parcel.core.formats import FORMAT_NAMES, FORMATS
from lean_parcel.core.likeness.levels import likeness_words
from lean_parcel.web.app import create_app
from lean_parcel.web.openapi import document
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.web.steps import AIM, LIMITS, photos, upload, weighed
from tests.workspaces import settled


def test_a_photo_is_added_weighed_taken_and_saved(
    client: FlaskClient, workspace: Workspace
) -> None:
    weighing = weighed(client, workspace, file(photo()))
    photo_id, best = weighing["id"], weighing["candidate_ids"][0]
    assert weighing["search"]["state"] == "done"
    framed = weighing["framed"]
    assert (framed["width_px"], framed["height_px"]) == (96, 64)
    assert not framed["is_transparent"]
    encode = next(e for e in weighing["encodes"] if e["id"] == best)
    assert encode["size_bytes"] <= 1_500
    pick = client.put(f"/api/photos/{photo_id}/pick", json={"encode_id": best})
    assert pick.status_code == 204
    assert client.get("/api/pages").json["pages"][0]["photos"][0]["pick"] == encode
    saved = client.get(f"/api/photos/{photo_id}/encodes/{best}/download")
    assert len(saved.data) == encode["size_bytes"]
    kind = encode["settings"]["format"]
    suffix = "jpg" if kind == "jpeg" else kind
    assert f"filename=rote-tasse-96.{suffix}" in saved.headers["Content-Disposition"]
    assert saved.mimetype == f"image/{kind}"
    assert client.get(f"/api/encodes/{best}/file").data == saved.data


def test_the_damage_of_a_candidate_is_told_and_shown(
    client: FlaskClient, workspace: Workspace
) -> None:
    weighing = weighed(client, workspace, file(photo()))
    path = f"/api/photos/{weighing['id']}/encodes/{weighing['candidate_ids'][0]}/damage"
    damage = client.get(path).json
    kinds = {kind["kind"] for kind in client.get("/api/terms").json["damage_kinds"]}
    assert set(damage["strengths"]) == kinds
    assert damage["verdict"]
    spot = damage["spots"][0]
    assert spot["box"]["left_px"] + spot["box"]["width_px"] <= 96
    picture = client.get(f"{path}/{spot['kind']}")
    with Image.open(io.BytesIO(picture.data)) as image:
        assert image.size == (12, 8)
        assert image.getextrema()[3][1] > 0
    assert client.get(f"{path}/rust").status_code == 404
    assert client.get(f"/api/photos/{weighing['id']}/encodes/999/damage").status_code == 404
    other_id = next(e["id"] for e in weighing["encodes"] if e["id"] != weighing["candidate_ids"][0])
    told = client.get(path.replace("damage", f"against/{other_id}")).json
    assert {told["lighter_id"], told["heavier_id"]} == {weighing["candidate_ids"][0], other_id}
    assert "more" in told["sentence"]
    assert client.get(path.replace("damage", "name")).json["name"].startswith("rote-tasse-96.")
    mark = {"box": {"left_px": 0, "top_px": 0, "width_px": 20, "height_px": 20}, "matters": True}
    marks = f"/api/photos/{weighing['id']}/marks"
    assert client.put(marks, json={"marks": [mark]}).status_code == 204
    assert client.get(f"/api/photos/{weighing['id']}/at/0").json["marks"] == [mark]
    assert any(spot["is_marked"] for spot in client.get(path).json["spots"])


def test_only_an_address_with_the_hash_of_its_content_is_kept_for_ever(
    client: FlaskClient, workspace: Workspace
) -> None:
    weighing = weighed(client, workspace, file(photo()))
    framed, encode = weighing["framed"], weighing["encodes"][0]
    listed = photos(client)[0]
    for path, key in (
        (f"/api/encodes/{encode['id']}/file", encode["file_key"]),
        (f"/api/framed/{framed['id']}/pixels", framed["pixels_key"]),
        (f"/api/framed/{framed['id']}/sharpened", framed["pixels_key"]),
        (f"/api/photos/{listed['id']}/thumbnail", listed["thumbnail_key"]),
    ):
        assert client.get(f"{path}?key={key}").cache_control.max_age == 31_536_000, path
        for other in (path, f"{path}?key={'0' * 16}"):
            assert client.get(other).cache_control.no_cache, other


def test_the_framed_original_is_sent_losslessly_and_the_source_untouched(
    client: FlaskClient, workspace: Workspace
) -> None:
    data = file(cutout())
    weighing = weighed(client, workspace, data)
    framed = client.get(f"/api/framed/{weighing['framed']['id']}/pixels").data
    assert Image.open(io.BytesIO(framed)).tobytes() == cutout().tobytes()
    assert client.get(f"/api/photos/{weighing['id']}/original").data == data
    assert client.get(f"/api/photos/{weighing['id']}/thumbnail").mimetype == "image/webp"


@pytest.mark.parametrize(
    ("data", "name", "status", "code"),
    [
        (b"", "nothing.png", 422, "photo_empty"),
        (b"words", "words.txt", 422, "photo_unsupported"),
        (file(photo())[:3_000], "a.png", 422, "photo_truncated"),
        (file(photo()) + b"\0" * 2_000_000, "heavy.png", 413, "photo_too_many_bytes"),
        (b"\0" * 3_100_000, "huge.png", 413, "photo_too_many_bytes"),
    ],
)
def test_a_bad_upload_is_refused_with_its_code_and_stores_nothing(
    client: FlaskClient, data: bytes, name: str, status: int, code: str
) -> None:
    answer = upload(client, data, name)
    assert (answer.status_code, answer.json["code"]) == (status, code)
    assert answer.json["message"]
    assert photos(client) == []


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"limit_bytes": 0}, "invalid_size"),
        ({"limit_bytes": "many"}, "invalid_request"),
        ({"size": "0"}, "invalid_dimensions"),
        ({"size": "wide"}, "invalid_dimensions"),
        ({"density": 5}, "invalid_density"),
        ({"formats": ["bmp"]}, "invalid_request"),
    ],
)
def test_a_bad_aim_changes_nothing(
    client: FlaskClient, workspace: Workspace, change: dict[str, Any], code: str
) -> None:
    before = weighed(client, workspace, file(photo()))
    answer = client.patch(f"/api/photos/{before['id']}/aim", json=change)
    assert (answer.status_code, answer.json["code"]) == (400, code)
    assert client.get(f"/api/photos/{before['id']}/at/0").json == before


@pytest.mark.parametrize(
    ("method", "path"),
    [
        ("get", "/api/photos/7/at/0"),
        ("patch", "/api/photos/7/aim"),
        ("get", "/api/photos/7/thumbnail"),
        ("get", "/api/encodes/7/file"),
        ("get", "/api/framed/7/pixels"),
        ("get", "/api/framed/7/sharpened"),
        ("patch", "/api/photos/7"),
        ("get", "/api/photos/7/findings"),
        ("get", "/api/photos/7/at/0/forecasts"),
        ("get", "/api/photos/7/margins"),
        ("post", "/api/photos/7/journal/undo"),
        ("delete", "/api/pages/7"),
        ("delete", "/api/places/77"),
        ("delete", "/api/photos/7/at/0/search"),
        ("get", "/api/nowhere"),
    ],
)
def test_what_is_not_there_is_said_in_json(client: FlaskClient, method: str, path: str) -> None:
    body = {**AIM, "name": "Jug"}
    answer = client.open(path, method=method.upper(), json=body)
    assert (answer.status_code, answer.json["code"]) == (404, "not_found")


def test_an_unforeseen_fault_gives_no_detail_away(workspace: Workspace) -> None:
    app = create_app(workspace, LIMITS)

    @app.get("/broken")
    def broken() -> None:
        raise RuntimeError("secret path")

    answer = app.test_client().get("/broken")
    assert (answer.status_code, answer.json["code"]) == (500, "internal")
    assert "secret" not in answer.text


@pytest.mark.parametrize("path", ["/", "/api/pages", "/api/photos/9", "/nowhere"])
def test_every_answer_forbids_what_is_not_ours(client: FlaskClient, path: str) -> None:
    headers = client.get(path).headers
    said = dict(
        line.strip().split(" ", 1) for line in headers["Content-Security-Policy"].split(";")
    )
    assert said == {
        "default-src": "'none'",
        **dict.fromkeys(
            ("script-src", "style-src", "font-src", "connect-src", "frame-src", "base-uri"),
            "'self'",
        ),
        "img-src": "'self' blob: data:",
        "form-action": "'none'",
        "frame-ancestors": "'none'",
    }
    assert headers["X-Content-Type-Options"] == "nosniff"
    assert headers["Referrer-Policy"] == "no-referrer"
    assert headers["Cross-Origin-Resource-Policy"] == "same-origin"
    assert headers["Cache-Control"] == "no-cache"


@pytest.mark.parametrize(
    ("error", "status", "code"),
    [
        (UsageError("no", "x"), 400, "x"),
        (NotFoundError("no"), 404, "not_found"),
        (Superseded("no"), 409, "superseded"),
        (TooManyBytes("no"), 413, "photo_too_many_bytes"),
        (UnsupportedPhoto("no"), 422, "photo_unsupported"),
        (TaskCrashed("no"), 422, "task_crashed"),
        (StorageError("The disk is full.", "disk_full"), 503, "disk_full"),
        (BytesChanged("no"), 503, "bytes_changed"),
    ],
    ids=lambda value: type(value).__name__,
)
def test_every_kind_of_error_has_its_status_and_code(
    workspace: Workspace, error: LeanParcelError, status: int, code: str
) -> None:
    app = create_app(workspace, LIMITS)

    @app.get("/raises")
    def raises() -> None:
        raise error

    answer = app.test_client().get("/raises")
    assert (answer.status_code, answer.json["code"]) == (status, code)
    assert answer.json["message"] == error.message


def test_an_upload_may_have_what_a_photo_may_and_no_more(client: FlaskClient) -> None:
    largest = file(photo())
    filled = largest + b"\0" * (LIMITS.max_size_bytes - len(largest))
    assert upload(client, filled, "full.png").status_code == 201
    answer = upload(client, filled + b"\0", "over.png")
    assert (answer.status_code, answer.json["code"]) == (413, "photo_too_many_bytes")


def test_other_sites_may_not_change_the_workspace(client: FlaskClient) -> None:
    data = {"photo": (io.BytesIO(file(photo())), "a.png")}
    answer = client.post("/api/photos", data=data, headers={"Origin": "http://other.example"})
    assert answer.status_code == 403
    assert photos(client) == []


def test_the_library_sends_sizes_with_their_credit(
    client: FlaskClient, workspace: Workspace
) -> None:
    library = client.get("/api/library").json
    assert len(library["photos"]) == 11
    offered = next(p for p in library["photos"] if p["file"] == "old-shopfront.jpg")
    choice = {"file": offered["file"], "width_px": offered["widths_px"][0], "page_id": 1}
    photo_id = client.post("/api/library", json=choice).json["id"]
    workspace.deciding.stop_search(photo_id)
    weighing = client.get(f"/api/photos/{photo_id}/at/0").json
    assert (weighing["name"], weighing["source"]["width_px"]) == (offered["title"], 800)
    assert client.get(f"/api/photos/{photo_id}/findings").json["credit"] == offered["credit"]
    thumbnail = client.get(f"/api/library/{offered['file']}/thumbnail")
    assert max(Image.open(io.BytesIO(thumbnail.data)).size) == 160
    for wrong in ({"file": "../x"}, {"width_px": 801}, {"page_id": 9}):
        assert client.post("/api/library", json={**choice, **wrong}).status_code == 404


def test_room_is_told_and_given_back(client: FlaskClient, workspace: Workspace) -> None:
    photo_id = upload(client, file(photo())).json["id"]
    settled(workspace, photo_id)
    client.patch(f"/api/photos/{photo_id}/framing", json={"turn": "left"})
    settled(workspace, photo_id)
    client.delete(f"/api/photos/{photo_id}")
    before = client.get("/api/room").json
    assert min(before.values()) > 0
    assert client.post("/api/room/reclaim", json={"forgets_removed": False}).status_code == 204
    assert client.post("/api/pages/undo").status_code == 204
    client.delete(f"/api/photos/{photo_id}")
    assert client.post("/api/room/reclaim", json={"forgets_removed": True}).status_code == 204
    assert client.post("/api/pages/undo").json["code"] == "nothing_to_undo"
    assert client.get(f"/api/photos/{photo_id}/at/0").status_code == 404
    after = client.get("/api/room").json
    assert (after["free_bytes"], after["removed_bytes"]) == (0, 0)


def test_the_document_describes_every_json_route(workspace: Workspace) -> None:
    bytes_and_events = {"files", "downloads", "changes"}
    routes = {
        (method.lower(), re.sub(r"<int:(\w+)>", r"{\1}", rule.rule))
        for rule in create_app(workspace, LIMITS).url_map.iter_rules()
        if rule.rule.startswith("/api") and rule.endpoint.split(".")[0] not in bytes_and_events
        for method in (rule.methods or set()) - {"HEAD", "OPTIONS"}
    }
    described = {(method, path) for path, item in document()["paths"].items() for method in item}
    assert routes == described


def test_the_document_says_that_a_body_is_needed() -> None:
    bodies = [
        (method, path, operation["requestBody"]["required"])
        for path, item in document()["paths"].items()
        for method, operation in item.items()
        if "requestBody" in operation
    ]
    assert len(bodies) > 20
    assert [each for each in bodies if not each[2]] == []


def test_words_and_choices_are_told_by_the_server(client: FlaskClient) -> None:
    terms = client.get("/api/terms").json
    assert [each["name"] for each in terms["formats"]] == ["JPEG", "PNG", "WebP", "AVIF"]
    assert [each["format"] for each in terms["formats"] if each["is_universal"]] == ["jpeg", "png"]
    assert terms["likeness_levels"][1] == {"least": 80.0, "words": "hard to spot"}
    assert {each["format"] for each in client.get("/api/knobs").json["formats"]} == set(FORMATS)


def test_an_encode_comes_with_its_words_and_whether_it_meets_the_aim(
    client: FlaskClient, workspace: Workspace
) -> None:
    weighing = weighed(client, workspace, file(photo()))
    by_id = {encode["id"]: encode for encode in weighing["encodes"]}
    for encode in by_id.values():
        assert encode["meets_aim"] == (encode["size_bytes"] <= 1_500)
        assert encode["likeness_words"] == likeness_words(encode["likeness"])
        assert encode["name"] == FORMAT_NAMES[encode["settings"]["format"]]
    assert weighing["default_id"] == weighing["candidate_ids"][0]
    assert {edge["format"] for edge in weighing["edges"]} >= {"jpeg", "webp"}
    for progress in weighing["search"]["formats"]:
        assert by_id[progress["best_so_far_id"]]["meets_aim"]


def test_what_is_larger_than_a_photo_may_be_is_not_read(
    client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def read(*_: object) -> None:
        raise AssertionError("it was read")

    monkeypatch.setattr("lean_parcel.work.photos.adding.Adding.add_photo", read)
    for size_bytes in (LIMITS.max_size_bytes + 1_100_000, 10**15):
        answer = client.post(
            "/api/photos",
            data=b"--x\r\n",
            content_type="multipart/form-data; boundary=x",
            environ_overrides={"CONTENT_LENGTH": str(size_bytes)},
        )
        assert (answer.status_code, answer.json["code"]) == (413, "photo_too_many_bytes")


def test_photos_stand_in_the_order_in_which_they_were_dropped_not_that_of_their_arrival(
    client: FlaskClient,
) -> None:
    for name, order in (("second.png", "20"), ("third.png", "30"), ("first.png", "10")):
        assert upload(client, file(photo(seed=int(order))), name, order=order).status_code == 201
    (page,) = client.get("/api/pages").json["pages"]
    assert [each["name"] for each in page["photos"]] == ["first.png", "second.png", "third.png"]
