"""Streams of changes on an event loop: many of them starve nobody, and one ends with its page."""

import asyncio
import json
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from flask.testing import FlaskClient

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.errors import StorageError
from lean_parcel.core.framing.place import Place
from lean_parcel.store.encodes import Encode
from lean_parcel.web.app import create_app
from lean_parcel.web.streams import AsgiApp, Message, on_event_loop
from lean_parcel.work.photos.files import Files
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.web.steps import LIMITS
from tests.work.delivery.steps import taken
from tests.workspaces import settled

_MORE_THAN_THREADS = 60


class Connection:
    """A request on its way: what was sent to the page so far, and a page that can go away."""

    def __init__(self, app: AsgiApp, path: str, host: str = "localhost", query: str = "") -> None:
        self._gone = asyncio.Event()
        self._has_asked = False
        self.sent: asyncio.Queue[Message] = asyncio.Queue()
        scope: dict[str, Any] = {
            "type": "http",
            "http_version": "1.1",
            "method": "GET",
            "path": path,
            "query_string": query.encode(),
            "headers": [(b"host", host.encode())],
        }
        self.answering = asyncio.ensure_future(app(scope, self._receive, self.sent.put))

    async def _receive(self) -> Message:
        if not self._has_asked:
            self._has_asked = True
            return {"type": "http.request", "body": b""}
        await self._gone.wait()
        return {"type": "http.disconnect"}

    async def next(self) -> Message:
        return await asyncio.wait_for(self.sent.get(), 10)

    def go_away(self) -> None:
        self._gone.set()


def on_a_loop(story: Coroutine[Any, Any, None]) -> None:
    """Runs a coroutine in a thread of its own: this one may have a loop already."""
    with ThreadPoolExecutor(1) as thread:
        thread.submit(asyncio.run, story).result(timeout=60)


async def listening(app: AsgiApp) -> Connection:
    """A page that listens."""
    connection = Connection(app, "/api/changes")
    assert (await connection.next())["status"] == 200
    assert (await connection.next())["body"] == b": listening\n\n"
    return connection


def test_a_body_that_comes_in_chunks_is_read(workspace: Workspace) -> None:
    async def upload() -> None:
        app = on_event_loop(create_app(workspace, LIMITS), workspace.changes)
        head = b'--x\r\nContent-Disposition: form-data; name="photo"; filename="a.png"\r\n\r\n'
        body = head + file(photo()) + b"\r\n--x--\r\n"
        chunks = [body[at : at + 1_000] for at in range(0, len(body), 1_000)]
        sent: list[Message] = []

        async def receive() -> Message:
            return {"type": "http.request", "body": chunks.pop(0), "more_body": bool(chunks)}

        async def send(message: Message) -> None:
            sent.append(message)

        headers = {
            b"host": b"localhost",
            b"sec-fetch-site": b"same-origin",
            b"transfer-encoding": b"chunked",
            b"content-type": b"multipart/form-data; boundary=x",
        }
        scope = {
            "type": "http",
            "http_version": "1.1",
            "method": "POST",
            "path": "/api/photos",
            "query_string": b"",
            "headers": list(headers.items()),
        }
        await app(scope, receive, send)
        assert sent[0]["status"] == 201

    on_a_loop(upload())
    assert len(workspace.page_viewing.pages().photos) == 1


def test_more_streams_than_threads_leave_room_for_others(workspace: Workspace) -> None:
    async def many() -> None:
        app = on_event_loop(create_app(workspace, LIMITS), workspace.changes)
        pages = [await listening(app) for _ in range(_MORE_THAN_THREADS)]
        other_page = Connection(app, "/api/pages")
        assert (await other_page.next())["status"] == 200
        await other_page.answering
        workspace.changes.announce_photo(7)
        for page in pages:
            event = json.loads((await page.next())["body"].decode().removeprefix("data: "))
            assert event == {"photo_ids": [7], "has_pages": False}
            page.go_away()
        await asyncio.wait_for(asyncio.gather(*(page.answering for page in pages)), 10)

    on_a_loop(many())


def test_streams_end_with_the_server(workspace: Workspace) -> None:
    async def one() -> None:
        app = on_event_loop(create_app(workspace, LIMITS), workspace.changes)
        page = await listening(app)
        workspace.changes.close()
        assert (await page.next()) == {"type": "http.response.body", "body": b""}
        await asyncio.wait_for(page.answering, 10)

    on_a_loop(one())


def test_a_change_while_the_stream_opens_is_told(workspace: Workspace) -> None:
    async def one() -> None:
        app = on_event_loop(create_app(workspace, LIMITS), workspace.changes)
        page = Connection(app, "/api/changes")
        assert (await page.next())["status"] == 200
        workspace.changes.announce_pages()
        bodies = [(await page.next())["body"] for _ in range(2)]
        assert b'"has_pages":true' in bodies[-1]
        page.go_away()
        await page.answering

    on_a_loop(one())


def test_a_file_comes_as_over_a_slow_line_and_takes_no_thread(workspace: Workspace) -> None:
    aim = Aim(place=Place(size="96"), limit_bytes=4_000, formats=("jpeg",))
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=aim)
    encode = settled(workspace, photo_id).encodes.candidates[0]
    path = f"/api/photos/{photo_id}/encodes/{encode.id}/arriving"
    kbit_s = encode.measured.size_bytes * 8 // 400  # 0.4 s

    async def one() -> None:
        app = on_event_loop(create_app(workspace, LIMITS), workspace.changes)
        began = asyncio.get_running_loop().time()
        slow = Connection(app, path, query=f"kbit_s={kbit_s}&round_trip_ms=100")
        others = [Connection(app, path, query="kbit_s=1") for _ in range(_MORE_THAN_THREADS)]
        assert (await slow.next())["status"] == 200
        parts = []
        while (message := await slow.next()).get("more_body"):
            parts.append(message["body"])
        assert asyncio.get_running_loop().time() - began > 0.45
        assert len(parts) > 3
        assert b"".join(parts) == workspace.files.delivered(photo_id, encode.id)[1]
        other_page = Connection(app, "/api/pages")
        assert (await other_page.next())["status"] == 200
        await other_page.answering
        for other in others:
            other.go_away()
        await asyncio.wait_for(asyncio.gather(*(other.answering for other in others)), 10)

    on_a_loop(one())


def test_a_stream_under_another_name_is_refused_like_every_request(workspace: Workspace) -> None:
    async def one() -> None:
        app = on_event_loop(create_app(workspace, LIMITS), workspace.changes)
        refused = Connection(app, "/api/changes", host="evil.example")
        assert (await refused.next())["status"] == 400
        await refused.answering

    on_a_loop(one())


def test_the_head_of_a_stream_is_never_cached(client: FlaskClient) -> None:
    head = client.get("/api/changes")
    assert head.mimetype == "text/event-stream"
    assert head.headers["Cache-Control"] == "no-store"


def test_an_archive_that_fails_in_the_middle_never_ends_as_if_it_were_whole(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    taken(workspace)
    last = taken(workspace, name="other.png", seed=2)
    read = Files.delivered

    def fail_at_last(files: Files, photo_id: int, encode_id: int) -> tuple[Encode, bytes]:
        if photo_id == last:
            raise StorageError("The disk is full.", "disk_full")
        return read(files, photo_id, encode_id)

    monkeypatch.setattr(Files, "delivered", fail_at_last)

    async def story() -> None:
        app = on_event_loop(create_app(workspace, LIMITS), workspace.changes)
        asking = Connection(app, "/api/pages/1/delivery.zip")
        assert (await asking.next())["status"] == 200
        with pytest.raises(StorageError):  # on which the server closes the connection
            await asking.answering
        assert not asking.sent.empty()
        while not asking.sent.empty():
            assert (await asking.next())["more_body"]

    on_a_loop(story())
