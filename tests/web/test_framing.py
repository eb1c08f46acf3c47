import io
from typing import Any

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from lean_parcel.work.workspace import Workspace
from tests.builders import file, numbered, patch_numbers, photo
from tests.web.steps import photos, upload, weighed
from tests.workspaces import settled


def pixels(client: FlaskClient, path: str) -> Any:
    answer = client.get(path)
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.data)))


def framed(client: FlaskClient, photo_id: int) -> Any:
    weighing = client.get(f"/api/photos/{photo_id}/at/0").json
    return pixels(client, f"/api/framed/{weighing['framed']['id']}/pixels")


def test_a_photo_is_turned_cropped_and_stepped_back(
    client: FlaskClient, workspace: Workspace
) -> None:
    photo_id = upload(client, file(numbered(6, 4, 16))).json["id"]
    path = f"/api/photos/{photo_id}"
    assert client.patch(f"{path}/aim", json={"size": "As it came"}).status_code == 204
    for change in (
        {"sharpen": {"amount_percent": 0}},
        {"turn": "right"},
        {"crop": {"left_px": 16, "top_px": 32, "width_px": 48, "height_px": 32}},
    ):
        assert client.patch(f"{path}/framing", json=change).status_code == 204
    settled(workspace, photo_id)
    assert patch_numbers(framed(client, photo_id), 16) == [[14, 8, 2], [15, 9, 3]]
    entries = client.get(f"{path}/journal").json["entries"]
    assert [entry["status"] for entry in entries] == ["done", "done", "done", "done", "current"]
    assert client.post(f"{path}/journal/undo").status_code == 204
    settled(workspace, photo_id)
    assert framed(client, photo_id).shape[:2] == (96, 64)
    entries = client.get(f"{path}/journal").json["entries"]
    assert [entry["status"] for entry in entries] == ["done", "done", "done", "current", "undone"]
    assert client.post(f"{path}/journal/redo").status_code == 204
    assert client.post(f"{path}/journal/redo").json["code"] == "nothing_to_redo"
    client.put(f"{path}/journal/current", json={"entry_id": entries[0]["id"]})
    comparison = client.get(f"{path}/journal/{entries[0]['id']}/{entries[4]['id']}").json
    assert {difference["topic"] for difference in comparison["differences"]} == {
        "Turn",
        "Crop",
        "Size",
        "Sharpen",
        "As its page",
    }
    client.patch(f"{path}/framing", json={"turn": "flip", "straighten_deg": 2})
    assert client.delete(f"{path}/framing").status_code == 204
    framing = client.get(f"{path}/at/0").json["framing"]
    assert (framing["orientation"], framing["straighten_deg"]) == (1, 0)
    settled(workspace, photo_id)


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"background": "red"}, "invalid_colour"),
        ({"straighten_deg": 40}, "invalid_angle"),
        ({"crop": {"left_px": 90, "top_px": 0, "width_px": 9, "height_px": 9}}, "invalid_crop"),
        ({"sharpen": {"amount_percent": 900}}, "invalid_sharpening"),
        ({"focus": {"x": 2, "y": 0}}, "invalid_focus"),
        ({"turn": "over"}, "invalid_request"),
        ({"kernel": "box"}, "invalid_request"),
    ],
)
def test_a_framing_that_cannot_be_changes_nothing(
    client: FlaskClient, workspace: Workspace, change: dict[str, Any], code: str
) -> None:
    before = weighed(client, workspace, file(photo()))
    answer = client.patch(f"/api/photos/{before['id']}/framing", json=change)
    assert (answer.status_code, answer.json["code"]) == (400, code)
    assert client.get(f"/api/photos/{before['id']}/at/0").json == before


def test_sharpening_is_shown_before_it_is_taken(client: FlaskClient, workspace: Workspace) -> None:
    weighing = weighed(client, workspace, file(photo()))
    path = f"/api/framed/{weighing['framed']['id']}/sharpened"
    plain = pixels(client, path)
    part = pixels(client, f"{path}?left_px=10&top_px=20&width_px=30&height_px=10")
    assert np.array_equal(part, plain[20:30, 10:40])
    crisp = pixels(client, f"{path}?amount_percent=150&radius_px=1&threshold_codes=0")
    assert crisp.std() > plain.std()
    client.patch(
        f"/api/photos/{weighing['id']}/framing",
        json={"sharpen": {"amount_percent": 150, "radius_px": 1, "threshold_codes": 0}},
    )
    settled(workspace, weighing["id"])
    assert np.array_equal(framed(client, weighing["id"]), crisp)
    assert client.get(f"{path}?amount_percent=nan").json["code"] == "invalid_sharpening"


def test_findings_tell_what_each_policy_costs(client: FlaskClient, workspace: Workspace) -> None:
    exif = Image.Exif()
    exif[0x013B] = "Ida Quillfen"
    data = file(photo(), "JPEG", exif=exif, dpi=(300, 300))
    photo_id = upload(client, data, "a.jpg").json["id"]
    settled(workspace, photo_id)
    came = client.get(f"/api/photos/{photo_id}/findings").json
    assert {"format", "pixels", "exif", "credit", "dpi"} <= {f["topic"] for f in came["findings"]}
    assert came["credit"]["author"] == "Ida Quillfen"
    costs = {choice["policy"]: choice["costs"] for choice in came["policies"]}
    assert costs["nothing"] == dict.fromkeys(("jpeg", "png", "webp", "avif"), 0)
    assert 0 < costs["credit"]["jpeg"] <= costs["everything"]["jpeg"]
    assert client.get(f"/api/photos/{photo_id}/margins").json == {"box": None}
    assert client.get(f"/api/photos/{photo_id}/preview").mimetype == "image/webp"


def test_photos_are_laid_out_on_pages(client: FlaskClient, workspace: Workspace) -> None:
    one = upload(client, file(photo()), "one.png").json["id"]
    page_id = client.post("/api/pages", json={"name": "Journal"}).json["id"]
    two = upload(client, file(photo(seed=2)), "two.png", page_id=str(page_id)).json["id"]
    client.patch(f"/api/photos/{one}", json={"name": "Jug"})
    client.patch(f"/api/photos/{one}", json={"page_id": page_id, "position": 0})
    client.patch(f"/api/pages/{page_id}", json={"name": "Firing day", "budget_bytes": 9_000})
    pages = client.get("/api/pages").json["pages"]
    assert [page["name"] for page in pages] == ["First page", "Firing day"]
    assert [shown["name"] for shown in pages[1]["photos"]] == ["Jug", "two.png"]
    best = settled(workspace, one).encodes.candidates[0]
    client.put(f"/api/photos/{one}/pick", json={"encode_id": best.id})
    totals = client.get("/api/pages").json["pages"][1]["totals"]
    assert totals["fetched_bytes"] == best.measured.size_bytes
    assert totals["left_bytes"] == 9_000 - best.measured.size_bytes
    client.delete(f"/api/photos/{two}")
    assert [shown["id"] for shown in photos(client)] == [one]
    assert client.get(f"/api/photos/{two}/at/0").status_code == 404
    assert client.get("/api/pages").json["undo_words"] == "Removed a photo"
    client.post("/api/pages/undo")
    client.post("/api/pages/undo")
    assert client.get("/api/pages").json["redo_words"] == "Budget"
    client.post("/api/pages/redo")
    assert client.get("/api/pages").json["pages"][1]["budget_bytes"] == 9_000
    assert client.delete("/api/pages/1").status_code == 204
    assert client.delete(f"/api/pages/{page_id}").json["code"] == "last_page"
    for photo_id in (one, two):
        settled(workspace, photo_id)


def test_places_are_kept(client: FlaskClient) -> None:
    shelf = {"name": "Shelf", "place": {"size": "300", "density": 1.5}}
    place_id = client.post("/api/places", json=shelf).json["id"]
    client.put(f"/api/places/{place_id}", json={**shelf, "name": "Sill"})
    assert client.get("/api/places").json["places"][-1]["name"] == "Sill"
    wrong = {"name": "Shelf", "place": {"size": "0"}}
    assert client.post("/api/places", json=wrong).json["code"] == "invalid_dimensions"
    assert client.post("/api/places", json={**shelf, "name": ""}).status_code == 400
    assert client.delete(f"/api/places/{place_id}").status_code == 204
    assert len(client.get("/api/places").json["places"]) == 5


def test_encodes_are_made_by_hand(client: FlaskClient, workspace: Workspace) -> None:
    weighing = weighed(client, workspace, file(photo()))
    path = f"/api/photos/{weighing['id']}/at/0/encodes"
    formats = client.get("/api/knobs").json["formats"]
    assert [each["format"] for each in formats] == ["jpeg", "webp", "avif", "png"]
    wish = {"settings": {"format": "webp", "quality": 33, "sharp_chroma": True}}
    made = client.post(path, json=wish).json
    assert made["settings"]["sharp_chroma"] is True
    assert made in client.get(f"/api/photos/{weighing['id']}/at/0").json["encodes"]
    data = client.get(f"/api/encodes/{made['id']}/file").data
    assert len(data) == made["size_bytes"]
    assert client.post(path, json=wish).json == made
    along = f"/api/photos/{weighing['id']}/at/0/quality-steps"
    measured = [each for each in client.post(along, json=wish).json["steps"] if each["is_measured"]]
    told = {"step": 33, "size_bytes": made["size_bytes"], "likeness": made["likeness"]}
    assert {**told, "is_measured": True} in measured
    box = {"left_px": 0, "top_px": -9, "width_px": 10**30, "height_px": 20}
    glimpses = f"/api/photos/{weighing['id']}/at/0/glimpses"
    seen = client.post(glimpses, json={**wish, "width_px": 90, "box": box}).json
    assert seen["url"].startswith("data:image/webp;base64,UklGR")
    assert (seen["box"]["top_px"], seen["box"]["width_px"]) == (0, 90)
    for settings, code in (
        ({"format": "webp", "quality": 300}, "invalid_settings"),
        ({"format": "gif", "quality": 3}, "invalid_request"),
        ({"format": "jpeg", "quality": 3, "chroma": "4:1:1"}, "invalid_request"),
    ):
        answer = client.post(path, json={"settings": settings})
        assert (answer.status_code, answer.json["code"]) == (400, code)


@pytest.mark.parametrize(
    ("asked", "shown"),
    [
        ("", (96, 64)),
        ("?width_px=40&height_px=30&left_px=10&top_px=20", (40, 30)),
        ("?width_px=0&height_px=-5", (1, 1)),
        ("?width_px=99999&height_px=20", (96, 20)),
        ("?left_px=90&top_px=60", (6, 4)),
    ],
)
def test_a_part_lies_in_the_picture_and_has_a_pixel_at_least(
    client: FlaskClient, workspace: Workspace, asked: str, shown: tuple[int, int]
) -> None:
    framed = weighed(client, workspace, file(photo()))["framed"]
    answer = client.get(f"/api/framed/{framed['id']}/sharpened{asked}")
    assert answer.status_code == 200, answer.text
    with Image.open(io.BytesIO(answer.data)) as part:
        assert part.size == shown


def test_a_page_without_a_batch_says_so(client: FlaskClient) -> None:
    assert client.get("/api/pages/1/batch").json == {
        "words": None,
        "begun_at": None,
        "state": "done",
        "photo_ids": [],
        "ended": 0,
        "failed": 0,
        "left_s": None,
    }
