"""The application on an event loop: threads answer requests, the loop itself writes what lasts.

A stream of changes lasts as long as its page is open, and a file that is sent as over a slow line
as long as that takes; they would starve the others of threads. Their views answer like every other,
and so are guarded like them; what follows their heads is written here, until it is all sent, the
page is gone (ASGI's `http.disconnect`) or the server ends.
"""

import asyncio
import math
from collections import Counter
from collections.abc import Awaitable, Callable, Iterator, MutableMapping
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, cast

from a2wsgi import WSGIMiddleware
from flask import Flask

from lean_parcel.web.responses.changes import ChangesResponse
from lean_parcel.work.changes import Changes, News

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
AsgiApp = Callable[[Any, Receive, Send], Awaitable[None]]

#: Requests that are answered at the same time.
_THREADS = 24
#: A comment is sent after this long without a change, so that nobody between takes the stream for
#: dead.
_QUIET_S = 15.0
#: After news the next wait this long, and come together: a page fetches something for each.
_APART_S = 0.15
STREAM_TYPE = "text/event-stream"
#: A view that answers with this header has its file sent at that pace.
PACE_HEADER = "Lean-Parcel-Pace"
#: How often the next bytes of a slow file are sent.
_TICK_S = 0.05
FASTEST_KBIT_S, LONGEST_TRIP_MS = 1_000_000, 10_000


def on_event_loop(app: Flask, changes: Changes) -> AsgiApp:
    """The application by ASGI."""
    lines = _Lines()
    answered = cast(AsgiApp, WSGIMiddleware(cast(Any, _with_ended_body(app)), workers=_THREADS))

    async def serve(scope: Any, receive: Receive, send: Send) -> None:
        seen = changes.since(0).version
        head = _Head(send)
        await answered(scope, receive, head.send)
        if head.is_of_stream:
            await _Stream(changes, receive, send).write(seen)
        elif head.pace:
            await _Slow(changes, receive, send, lines, head.pace).write(bytes(head.held))

    return serve


def _with_ended_body(app: Flask) -> Callable[[dict[str, Any], Any], Any]:
    """The application, told that bodies end by themselves here: those that come in chunks have no
    length, and would be taken for empty (Werkzeug's `wsgi.input_terminated`)."""

    def serve(environ: dict[str, Any], start_response: Any) -> Any:
        return app(environ | {"wsgi.input_terminated": True}, start_response)

    return serve


@dataclass(frozen=True, slots=True)
class Pace:
    """A line: its speed, and the time of one way there and back. Files that share a line, by its
    name, share its speed."""

    kbit_s: int
    round_trip_ms: int
    line: str = ""

    def write(self) -> str:
        """As the value of PACE_HEADER."""
        return f"{self.kbit_s} {self.round_trip_ms} {self.line}"

    @classmethod
    def read(cls, value: bytes | None) -> "Pace | None":
        """From the value of PACE_HEADER, if a view set it."""
        if not value:
            return None
        kbit_s, round_trip_ms, *line = value.decode().split()
        return cls(int(kbit_s), int(round_trip_ms), *line)


class _Head:
    """Passes an answer on, and leaves that of a stream open."""

    def __init__(self, send: Send) -> None:
        self._send = send
        self.is_of_stream = False
        self.pace: Pace | None = None
        #: The body of a file that is sent slowly.
        self.held = bytearray()

    async def send(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = dict(message["headers"])
            media_type = headers.get(b"content-type", b"")
            self.is_of_stream = media_type.startswith(STREAM_TYPE.encode())
            self.pace = Pace.read(headers.get(PACE_HEADER.lower().encode()))
        elif self.pace:
            self.held += message.get("body", b"")
            return
        is_end = message["type"] == "http.response.body" and not message.get("more_body")
        if not (is_end and self.is_of_stream):
            await self._send(message)


class _Stream:
    """The changes as server-sent events (HTML standard, 9.2)."""

    def __init__(self, changes: Changes, receive: Receive, send: Send) -> None:
        self._changes, self._receive, self._send = changes, receive, send
        self._woken = asyncio.Event()
        self._is_gone = False

    async def write(self, seen: int) -> None:
        """Writes what changes after a version, until the page is gone."""
        loop = asyncio.get_running_loop()
        watching = loop.create_task(self._watch())
        with self._changes.listening(lambda: loop.call_soon_threadsafe(self._woken.set)):
            while not self._is_gone and not self._changes.is_closed:
                news = self._changes.since(seen)
                seen = news.version
                if news.is_empty:
                    await self._wait()
                else:
                    await self._write(_event(news))
                    await asyncio.wait([watching], timeout=_APART_S)
        watching.cancel()
        await self._send({"type": "http.response.body", "body": b""})

    async def _wait(self) -> None:
        try:
            await asyncio.wait_for(self._woken.wait(), _QUIET_S)
        except TimeoutError:
            await self._write(": quiet\n\n")
        self._woken.clear()

    async def _watch(self) -> None:
        while (await self._receive())["type"] != "http.disconnect":
            pass
        self._is_gone = True
        self._woken.set()

    async def _write(self, text: str) -> None:
        body = {"type": "http.response.body", "body": text.encode(), "more_body": True}
        await self._send(body)


def _event(news: News) -> str:
    changed = ChangesResponse(photo_ids=list(news.photo_ids), has_pages=news.has_pages)
    return f"data: {changed.model_dump_json()}\n\n"


class _Lines:
    """How many files come over each shared line at the moment. Used by the event loop only."""

    def __init__(self) -> None:
        self._sharing: Counter[str] = Counter()

    @contextmanager
    def taking(self, line: str) -> Iterator[None]:
        """While a file comes over a line."""
        self._sharing[line] += 1
        try:
            yield
        finally:
            self._sharing[line] -= 1
            if not self._sharing[line]:
                del self._sharing[line]

    def share(self, line: str) -> float:
        """The share of a line's speed that each file has."""
        return 1 / self._sharing[line] if line else 1.0


class _Slow:
    """A file as over a slow line: nothing for a round trip, then bytes as they would come, with its
    share of the line."""

    def __init__(
        self, changes: Changes, receive: Receive, send: Send, lines: _Lines, pace: Pace
    ) -> None:
        self._changes, self._receive, self._send = changes, receive, send
        self._lines, self._pace = lines, pace

    async def write(self, data: bytes) -> None:
        """Writes a file until it is sent, the page is gone, or the server ends."""
        loop = asyncio.get_running_loop()
        gone = loop.create_task(self._gone())
        await asyncio.wait([gone], timeout=self._pace.round_trip_ms / 1000)
        with self._lines.taking(self._pace.line):
            await self._write(data, gone)
        gone.cancel()
        await self._send({"type": "http.response.body", "body": b""})

    async def _write(self, data: bytes, gone: asyncio.Task[None]) -> None:
        loop = asyncio.get_running_loop()
        at, due, sent = loop.time(), 0.0, 0
        while sent < len(data) and not gone.done() and not self._changes.is_closed:
            await asyncio.wait([gone], timeout=_TICK_S)
            now = loop.time()
            share = self._lines.share(self._pace.line)
            due += (now - at) * self._pace.kbit_s * 1000 / 8 * share
            at = now
            part = data[sent : max(sent, math.floor(due))]
            if part:
                sent += len(part)
                await self._send({"type": "http.response.body", "body": part, "more_body": True})

    async def _gone(self) -> None:
        while (await self._receive())["type"] != "http.disconnect":
            pass
