"""A server in a process of its own, for tests, benchmarks, and what is done to the demo."""

import os
import re
import signal
import subprocess
import sys
from pathlib import Path

import psutil

_COMMAND = [sys.executable, "-c", "from lean_parcel.cli import main; main()", "serve"]
_LONGEST_S = 120.0
#: Hides what only the tests bring: numba loads SciPy where it is found, a quarter of the time that
#: a worker takes to start.
_AS_INSTALLED = Path(__file__).parent / "as_installed"


class Served:
    """`lean-parcel serve` on a workspace, with further options; it can be ended and started again
    at the same port."""

    def __init__(self, workspace: Path, *options: str) -> None:
        self._options = ["--workspace", str(workspace), *options]
        self._port = 0
        self.url = ""
        self.start()

    def start(self) -> None:
        """Starts it, and waits until it listens. Raises RuntimeError where it does not."""
        self._process = subprocess.Popen(
            [*_COMMAND, *self._options, "--port", str(self._port)],
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env={**os.environ, "PYTHONPATH": str(_AS_INSTALLED)},
            text=True,
        )
        assert self._process.stdout
        for line in self._process.stdout:
            if found := re.search(r"http://127\.0\.0\.1:(\d+)", line):
                self.url, self._port = found[0], int(found[1])
                return
        raise RuntimeError("The server did not start.")

    def end(self, how: signal.Signals = signal.SIGTERM) -> None:
        """Ends it, and waits until it is gone."""
        self._process.send_signal(how)
        self._process.wait(timeout=_LONGEST_S)
        assert self._process.stdout
        self._process.stdout.close()

    @property
    def process(self) -> psutil.Process:
        """The server's own process."""
        return psutil.Process(self._process.pid)

    def workers(self) -> list[psutil.Process]:
        """Its worker processes, those that start included."""
        children = self.process.children()
        return [child for child in children if _is_worker(child)]


def _is_worker(process: psutil.Process) -> bool:
    try:
        return "spawn_main" in " ".join(process.cmdline())
    except psutil.Error:
        return False
