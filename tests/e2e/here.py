"""The application in the process of the tests, on workers that they share."""

import shutil
from pathlib import Path
from threading import Thread

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.original.source import Limits
from lean_parcel.web.app import create_app
from lean_parcel.web.serving import Server, listener_at
from lean_parcel.web.strangers import address_of, names_of
from lean_parcel.web.streams import on_event_loop
from lean_parcel.work.workspace import Workspace
from tests.executors import MEMORY, LentPool
from tests.workspaces import settled

_HOST = "127.0.0.1"


def weigh(path: Path, workers: LentPool, data: bytes, aim: Aim, name: str = "door.jpg") -> None:
    """A workspace with a photo, the first, that is weighed: made by the test of this run that is
    the first to want it, and copied by the others."""
    made = MEMORY.place((data, aim, name))
    if not made.exists():
        workspace = Workspace(path, workers, Limits())
        settled(workspace, workspace.adding.add_photo(name, data, aim=aim))
        workspace.close()
        MEMORY.give(path, made)
    shutil.copyfile(made, path)


class ServedHere:
    """A server of a workspace; it can be ended and started again at the same port."""

    def __init__(
        self, path: Path, workers: LentPool, out: Path | None = None, works_ahead: bool = False
    ) -> None:
        self._path, self._workers, self._out = path, workers, out
        self._works_ahead = works_ahead
        self._port = 0
        self.url = ""
        self.start()

    def start(self) -> None:
        """Starts it; it listens when this returns."""
        self._workspace = Workspace(
            self._path,
            self._workers,
            Limits(),
            slots=1,
            out=self._out,
            works_ahead=self._works_ahead,
        )
        listener = listener_at(_HOST, self._port)
        self._port = listener.getsockname()[1]
        self.url = address_of(_HOST, self._port)
        app = create_app(self._workspace, Limits(), host_names=names_of(_HOST))
        self._server = Server(self._workspace.changes, on_event_loop(app, self._workspace.changes))
        self._workspace.resume()
        self._thread = Thread(target=self._server.run, args=([listener],))
        self._thread.start()

    def end(self) -> None:
        """Ends it, and waits until it is gone."""
        self._workspace.changes.close()  # or it would wait for the streams
        self._server.should_exit = True
        self._thread.join()
        self._workspace.close()
