"""The server itself: uvicorn, on a socket of its own."""

import asyncio
import socket
from types import FrameType

import uvicorn

from lean_parcel.web.streams import AsgiApp
from lean_parcel.work.changes import Changes

#: How long requests may go on once the server is to end.
_GRACE_S = 2
#: Connections wait here for their next request, so that a page seldom has to make a new one.
_KEEP_ALIVE_S = 75


class Server(uvicorn.Server):
    """Lets the streams go when it is told to end, which it would wait for."""

    def __init__(self, changes: Changes, app: AsgiApp) -> None:
        config = uvicorn.Config(
            app,
            lifespan="off",
            log_config=None,
            log_level="warning",
            access_log=False,
            proxy_headers=False,  # the application reads them, where it is told to
            server_header=False,
            timeout_keep_alive=_KEEP_ALIVE_S,
            timeout_graceful_shutdown=_GRACE_S,
        )
        super().__init__(config)
        self._changes = changes

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """Begins to end."""
        self._changes.close()
        super().handle_exit(sig, frame)

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """Ends, and cuts off what has not ended in time."""
        await super().shutdown(sockets)
        for connection in tuple(self.server_state.connections):
            connection.transport.abort()
        await asyncio.sleep(0)  # they are closed by the event loop


def listener_at(host: str, port: int) -> socket.socket:
    """A socket that listens at an address. Raises OSError."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # asyncio sends at once, without Nagle's delay of 40 ms, where the protocol is named.
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    try:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listener.bind((host, port))
        listener.listen(128)
    except OSError:
        listener.close()
        raise
    return listener
