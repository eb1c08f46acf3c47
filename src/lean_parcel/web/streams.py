"""The application on an event loop: threads answer requests, the loop itself writes streams.

A stream lasts as long as its page is open, and would starve the others of threads. Its view answers
like every other, and so is guarded like them; what follows its head is written here, until the page
is gone (ASGI's `http.disconnect`) or the server ends.
"""

import asyncio
from collections.abc import Awaitable, Callable, MutableMapping
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
STREAM_TYPE = "text/event-stream"


def on_event_loop(app: Flask, changes: Changes) -> AsgiApp:
    """The application by ASGI."""
    answered = cast(AsgiApp, WSGIMiddleware(cast(Any, app), workers=_THREADS))

    async def serve(scope: Any, receive: Receive, send: Send) -> None:
        seen = changes.since(0).version
        head = _Head(send)
        await answered(scope, receive, head.send)
        if head.is_of_stream:
            await _Stream(changes, receive, send).write(seen)

    return serve


class _Head:
    """Passes an answer on, and leaves that of a stream open."""

    def __init__(self, send: Send) -> None:
        self._send = send
        self.is_of_stream = False

    async def send(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            media_type = dict(message["headers"]).get(b"content-type", b"")
            self.is_of_stream = media_type.startswith(STREAM_TYPE.encode())
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
