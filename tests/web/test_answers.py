"""Every answer that the page reads, of the demo, as recorded."""

from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient

from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import bring_files, open_weighed
from lean_parcel.web.app import create_app
from lean_parcel.work.workspace import Workspace
from tests.executors import InlineExecutor
from tests.recorded import Recorded
from tests.web.steps import own_page

OF_ALL = ("pages", "treatments", "places", "library", "terms", "knobs")
OF_PAGES = ("delivery", "batch")
OF_PHOTOS = ("/at/0", "/at/0/forecasts", "/row", "/findings", "/journal", "/at/100", "/at/200")


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[FlaskClient]:
    path = tmp_path_factory.mktemp("demo") / "w.sqlite3"
    open_weighed(path)
    workspace = Workspace(path, InlineExecutor(), Limits())
    bring_files(workspace)
    yield own_page(create_app(workspace, Limits()))
    workspace.close()


def answer(client: FlaskClient, path: str, **sent: Any) -> Any:
    """What is answered with its status; to something sent, where something is."""
    response = client.post(f"/api/{path}", **sent) if sent else client.get(f"/api/{path}")
    told = response.json
    if response.status_code >= 400:
        told.pop("request_id")
    return {"status": response.status_code, "answer": told}


@pytest.mark.parametrize("path", OF_ALL)
def test_of_the_workspace(demo: FlaskClient, path: str, recorded: Recorded) -> None:
    recorded(answer(demo, path))


@pytest.mark.parametrize("path", OF_PAGES)
def test_of_a_page(demo: FlaskClient, path: str, recorded: Recorded) -> None:
    recorded({page: answer(demo, f"pages/{page}/{path}") for page in (1, 2)})


@pytest.mark.parametrize("photo_id", [1, 5, 7])
def test_of_a_photo(demo: FlaskClient, photo_id: int, recorded: Recorded) -> None:
    recorded({path: answer(demo, f"photos/{photo_id}{path}") for path in OF_PHOTOS})


def test_of_the_encodes_of_a_photo(demo: FlaskClient, recorded: Recorded) -> None:
    photo_id = 1
    weighing = demo.get(f"/api/photos/{photo_id}/at/0").json
    told = {}
    for encode in weighing["encodes"]:
        of = f"photos/{photo_id}/encodes/{encode['id']}"
        told[of] = {path: answer(demo, f"{of}/{path}") for path in ("damage", "arrival")}
    recorded(told)


@pytest.mark.parametrize("objective", ["worst", "all"])
def test_of_a_balance(demo: FlaskClient, objective: str, recorded: Recorded) -> None:
    wishes = ({}, {"spend_bytes": 420_000}, {"least_likeness": 80})
    told = [answer(demo, "pages/1/balance", json={"objective": objective, **w}) for w in wishes]
    recorded(told)


TEXTS = {
    "index.html": """<link rel="preload" as="image" href="img/dusk-window.jpg">
<img src="img/dusk-window.jpg" alt="old" class="wide"><img src='opening-hours.jpg' width=400>""",
    "site.css": ".door { background: url(img/red-cup-blue-door.jpg) }",
    "notes.md": "![A shop](./old-shopfront.jpg) and [the bottle](bottle-cutout.png)",
    "slides.js": "const first = 'img/speckled-glaze.jpg', other = 'img/unknown.jpg';",
}


@pytest.mark.parametrize("as_pictures", [False, True])
def test_of_references(demo: FlaskClient, as_pictures: bool, recorded: Recorded) -> None:
    texts = [{"name": name, "text": text} for name, text in TEXTS.items()]
    wanted = {"texts": texts, "as_pictures": as_pictures}
    recorded(answer(demo, "pages/1/references", json=wanted))


@pytest.mark.parametrize("what", ["aims", "sizes"])
def test_of_what_is_typed(demo: FlaskClient, what: str, recorded: Recorded) -> None:
    typed = ("200 kB", "1.5MB", "95 KiB", "80", "hard to spot", "12 apples", "", "0", "-3 kB")
    recorded({text: answer(demo, f"typed-{what}", json={"text": text}) for text in typed})


def test_the_table_of_a_batch_is_a_file(demo: FlaskClient) -> None:
    answer = demo.get("/api/pages/2/batch.csv")
    assert answer.mimetype == "text/csv"
    assert answer.headers["Content-Disposition"] == 'attachment; filename="firing-day.csv"'
    assert answer.headers["Cache-Control"] == "no-store"
    assert answer.text.startswith("photo,old bytes,new bytes")
