"""`lean-parcel serve`: the web application on this machine."""

import logging
import os
import signal
import socket
import sys
from pathlib import Path
from threading import Timer
from types import FrameType

import click
import uvicorn

from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import bring_files, open_weighed
from lean_parcel.web.app import STATIC, create_app
from lean_parcel.web.strangers import names_of
from lean_parcel.web.streams import AsgiApp, on_event_loop
from lean_parcel.work.changes import Changes
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

_LONGEST_EXIT_S = 5.0
#: Connections wait here for their next request, so that a page seldom has to make a new one.
_KEEP_ALIVE_S = 75


@click.command("serve")
@click.option("--demo", "with_demo", is_flag=True, help="Open with made-up demo photos.")
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", default=8470, show_default=True)
@click.option("--name", "names", multiple=True, help="Another name that it is reached under.")
@click.option(
    "--workspace",
    "path",
    type=click.Path(path_type=Path, dir_okay=False),
    help="The SQLite file that keeps everything; one in the user's own folder by default.",
)
@click.option(
    "--out",
    type=click.Path(path_type=Path, file_okay=False),
    help="Deliveries may be written below this folder.",
)
@click.option("--read-only", is_flag=True, help="Only look at the workspace: change nothing.")
@click.option(
    "--workers", default=PoolSettings().workers, show_default=True, type=click.IntRange(1)
)
@click.option("--max-megapixels", default=150, show_default=True, type=click.IntRange(1))
@click.option("--max-megabytes", default=200, show_default=True, type=click.IntRange(1))
@click.option("--max-memory-gb", default=6.0, show_default=True, help="Of one worker.")
@click.option(
    "--max-room-gb", default=2.0, show_default=True, help="Of all that can be made again."
)
@click.option("--max-task-seconds", default=120.0, show_default=True, help="Of one task.")
def command(
    with_demo: bool,
    host: str,
    port: int,
    names: tuple[str, ...],
    path: Path | None,
    out: Path | None,
    read_only: bool,
    workers: int,
    max_megapixels: int,
    max_megabytes: int,
    max_memory_gb: float,
    max_room_gb: float,
    max_task_seconds: float,
) -> None:
    """Serve Lean Parcel to the browsers of this machine."""
    logging.basicConfig(level=logging.INFO, format="%(levelname)s %(name)s: %(message)s")
    logging.getLogger("pyvips").setLevel(logging.WARNING)
    if not (STATIC / "index.html").exists():
        raise click.ClickException("The page is not built yet: run `make build` first.")
    path = path or _own_workspace("demo" if with_demo else "workspace")
    limits = Limits(max_pixels=max_megapixels * 1_000_000, max_size_bytes=max_megabytes * 1_000_000)
    pool = WorkerPool(
        PoolSettings(
            workers=workers,
            max_memory_bytes=int(max_memory_gb * 1e9),
            max_task_s=max_task_seconds,
        )
    )
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        if with_demo:
            open_weighed(path)
        workspace = Workspace(
            path,
            pool,
            limits,
            slots=workers,
            room_bytes=int(max_room_gb * 1e9),
            is_read_only=read_only,
            out=out,
            works_ahead=workers > 1,  # or nobody would be free for who asks for something
        )
        listener = _listener(host, port)
    except (LeanParcelError, OSError) as error:
        pool.shutdown(cancel_futures=True)
        raise click.ClickException(str(error)) from error
    app = create_app(workspace, limits, host_names=(*names_of(host), *names))

    def stop(*_: object) -> None:
        sys.exit(0)

    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, stop)  # for a signal before or after the server runs
    server = _Server(workspace.changes, on_event_loop(app, workspace.changes))
    bound_port = listener.getsockname()[1]  # what port 0 became
    note = ", which can only be read" if workspace.context.is_read_only else ""
    click.echo(f"Lean Parcel is at http://{host}:{bound_port} (workspace: {path}{note})")
    try:
        if with_demo and not workspace.context.is_read_only:
            bring_files(workspace)
        workspace.resume()
        server.run(sockets=[listener])
    finally:
        workspace.close()
        pool.shutdown(cancel_futures=True)
        _end_soon()


def _end_soon() -> None:
    """All is stored, and every worker killed. Before Python 3.11.5 a thread that was writing to one
    of them waits for ever, and the interpreter for it (CPython issue 94777)."""
    last_resort = Timer(_LONGEST_EXIT_S, os._exit, (0,))
    last_resort.daemon = True
    last_resort.start()


class _Server(uvicorn.Server):
    """Lets the streams go when it is told to end, which it would wait for."""

    def __init__(self, changes: Changes, app: AsgiApp) -> None:
        config = uvicorn.Config(
            app,
            lifespan="off",
            log_config=None,
            log_level="warning",
            access_log=False,
            server_header=False,
            timeout_keep_alive=_KEEP_ALIVE_S,
            timeout_graceful_shutdown=int(_LONGEST_EXIT_S),
        )
        super().__init__(config)
        self._changes = changes

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """Begins to end."""
        self._changes.close()
        super().handle_exit(sig, frame)


def _listener(host: str, port: int) -> socket.socket:
    """A socket that listens at an address. Raises OSError."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # asyncio sends at once, without Nagle's delay of 40 ms, where the protocol is named.
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listener.bind((host, port))
    listener.listen(128)
    return listener


def _own_workspace(name: str) -> Path:
    return Path(click.get_app_dir("lean-parcel")) / f"{name}.sqlite3"
