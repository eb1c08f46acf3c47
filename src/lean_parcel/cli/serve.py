"""`lean-parcel serve`: the web application on this machine."""

import os
import signal
import sys
from concurrent.futures import Executor
from pathlib import Path
from threading import Timer

import click

from lean_parcel.cli.shared.logs import LogFormat, begin_log
from lean_parcel.cli.shared.parameters import own_workspace, told, workspace_option
from lean_parcel.core.errors import LeanParcelError, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.demo.opening import bring_files, open_weighed
from lean_parcel.web.access import new_token, read_token
from lean_parcel.web.app import STATIC, create_app
from lean_parcel.web.serving import Server, listener_at
from lean_parcel.web.strangers import address_of, is_loopback, is_unspecified, names_of
from lean_parcel.web.streams import on_event_loop
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace

#: How long what is left of requests may take once the server has ended.
_LONGEST_EXIT_S = 1.0


@click.command("serve")
@click.option("--demo", "with_demo", is_flag=True, help="Open with made-up demo photos.")
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", default=8470, show_default=True)
@click.option("--name", "names", multiple=True, help="Another name that it is reached under.")
@click.option(
    "--token-file",
    type=click.Path(path_type=Path, dir_okay=False, exists=True),
    help="The access token is in this file; else it is made up, where one is needed, and shown.",
)
@click.option(
    "--behind-proxy",
    "proxies",
    default=0,
    metavar="N",
    type=click.IntRange(0, 9),
    help="So many proxies stand before it, and say who asks: see docs/proxy.md.",
)
@workspace_option
@click.option(
    "--out",
    type=click.Path(path_type=Path, file_okay=False),
    help="Deliveries may be written below this folder.",
)
@click.option(
    "--log",
    type=click.Choice(["text", "json"]),
    default="text",
    show_default=True,
    help="What goes wrong in words, or one JSON object a line for that, each request and task.",
)
@click.option("--read-only", is_flag=True, help="Only look at the workspace: change nothing.")
@click.option(
    "--workers", default=PoolSettings().workers, show_default=True, type=click.IntRange(1)
)
@click.option("--cluster", metavar="ADDRESS", help="Work on this Dask cluster: see docs/scale.md.")
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
    token_file: Path | None,
    proxies: int,
    path: Path | None,
    out: Path | None,
    log: LogFormat,
    read_only: bool,
    workers: int,
    cluster: str | None,
    max_megapixels: int,
    max_megabytes: int,
    max_memory_gb: float,
    max_room_gb: float,
    max_task_seconds: float,
) -> None:
    """Serve Lean Parcel to the browsers of this machine."""
    begin_log(log)
    if not (STATIC / "index.html").exists():
        raise click.ClickException("The page is not built yet: run `make build` first.")
    is_private = is_loopback(host) and not proxies
    with told():
        token = read_token(token_file) if token_file else None if is_private else new_token()
    path = path or own_workspace("demo" if with_demo else "workspace")
    limits = Limits(max_pixels=max_megapixels * 1_000_000, max_size_bytes=max_megabytes * 1_000_000)
    settings = PoolSettings(
        workers=workers, max_memory_bytes=int(max_memory_gb * 1e9), max_task_s=max_task_seconds
    )
    with told():
        pool, workers = _pool(settings, cluster)
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
        listener = listener_at(host, port)
    except (LeanParcelError, OSError) as error:
        pool.shutdown(cancel_futures=True)
        raise click.ClickException(str(error)) from error
    app = create_app(
        workspace, limits, host_names=(*names_of(host), *names), token=token, proxies=proxies
    )

    def stop(*_: object) -> None:
        sys.exit(0)

    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, stop)  # for a signal before or after the server runs
    server = Server(workspace.changes, on_event_loop(app, workspace.changes))
    bound_port = listener.getsockname()[1]  # what port 0 became
    note = ", which can only be read" if workspace.context.is_read_only else ""
    click.echo(
        f"Lean Parcel is at {address_of(host, bound_port)} (workspace: {path}{note})."
        f" {_reached_by(host, proxies)}{', with its access token' if token else ''}."
    )
    if token and not token_file:
        click.echo(f"The access token, shown this once: {token}")
    try:
        with told():
            if with_demo and not workspace.context.is_read_only:
                bring_files(workspace)
            workspace.resume()
        server.run(sockets=[listener])
    finally:
        workspace.close()
        pool.shutdown(cancel_futures=True)
        _end_soon()


def _pool(settings: PoolSettings, cluster: str | None) -> tuple[Executor, int]:
    """The workers of this machine, or of a cluster, and how many tasks they run at a time."""
    if cluster is None:
        return WorkerPool(settings), settings.workers
    try:
        from lean_parcel.work.queue.cluster import ClusterPool  # noqa: PLC0415, an extra
    except ModuleNotFoundError as error:
        message = "A cluster needs Dask: `pip install 'lean-parcel[cluster]'`."
        raise UsageError(message, "no_dask") from error
    pool = ClusterPool(
        cluster, max_memory_bytes=settings.max_memory_bytes, max_task_s=settings.max_task_s
    )
    return pool, pool.slots


def _end_soon() -> None:
    """All is stored, and every worker ended. A thread that waits for a body that comes slowly would
    keep the interpreter waiting too."""
    last_resort = Timer(_LONGEST_EXIT_S, os._exit, (0,))
    last_resort.daemon = True
    last_resort.start()


def _reached_by(host: str, proxies: int) -> str:
    """Who can reach a server that listens at this address."""
    if proxies:
        return "Whoever its proxy lets through can reach it"
    if is_loopback(host):
        return "Only this machine can reach it"
    where = "this one" if is_unspecified(host) else host
    return f"Every machine that can reach {where} can reach it"
