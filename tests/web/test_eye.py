"""Blind rounds, as the page asks for them."""

import re

import pytest
from flask.testing import FlaskClient

from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.web.steps import weighed


@pytest.mark.parametrize(
    ("kind", "about"),
    [("check", "the original"), ("choice", "nearer|equally often"), ("threshold", "likeness")],
)
def test_each_kind_of_rounds_is_begun_and_answered(
    client: FlaskClient, workspace: Workspace, kind: str, about: str
) -> None:
    shown = weighed(client, workspace, file(photo()))
    by_format = {e["settings"]["format"]: e["id"] for e in shown["encodes"]}
    wanted = {"kind": kind, "encode_id": by_format["jpeg"]}
    if kind == "choice":
        wanted["other_id"] = by_format["webp"]
    begun = client.post(f"/api/photos/{shown['id']}/eye", json=wanted)
    assert begun.status_code == 200, begun.json
    series = begun.json
    assert (series["kind"], series["round"], series["outcome"]) == (kind, 0, None)
    while series["outcome"] is None:
        answer = {"round": series["round"], "side": "a"}
        series = client.post(f"/api/eye/{series['id']}/answers", json=answer).json
    assert re.search(about, series["outcome"]["words"])
    again = client.post(f"/api/eye/{series['id']}/answers", json=answer)
    assert again.status_code >= 400
