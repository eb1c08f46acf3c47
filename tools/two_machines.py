"""Two machines on one: network namespaces with a worker each, and a server's work on both.

Prints whether the files are the same byte for byte, also where a worker is killed meanwhile, with
TLS between all of them: `python -m tools.two_machines`. Needs root, and `ip` (iproute2).
"""

import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import Executor
from contextlib import contextmanager
from pathlib import Path

import dask
import trustme
from benchmarks.fitting import fit_file
from benchmarks.photos import demo_files

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.framing.place import Place
from lean_parcel.work.queue.cluster import ClusterPool
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool

_BRIDGE, _NETWORK = "lp-bridge", "10.84.70"
_MACHINES = {"lp-one": f"{_NETWORK}.11", "lp-two": f"{_NETWORK}.12"}
_SCHEDULER = f"tls://{_NETWORK}.1:8786"
_SIDES = ("SCHEDULER", "WORKER", "CLIENT")
_AIM = Aim(place=Place(size="400"), limit_bytes=20_000)


def main() -> None:
    """Prints what was found; exits with 1 where files differ."""
    with tempfile.TemporaryDirectory() as folder, _network():
        environment = _tls(Path(folder))
        dask.config.update(dask.config.config, dask.config.collect_env(environment))
        scheduler = _dask(["scheduler", "--host", _SCHEDULER], environment)
        workers = {name: _worker(name, environment) for name in _MACHINES}
        try:
            alone = WorkerPool(PoolSettings(workers=2))
            expected = _files(alone)
            alone.shutdown()
            pool = ClusterPool(_SCHEDULER, max_memory_bytes=6_000_000_000, max_task_s=120)
            deadline = time.monotonic() + 60
            while pool.workers_alive < len(_MACHINES) and time.monotonic() < deadline:
                time.sleep(0.2)
            print(f"{pool.workers_alive} workers, each in a network of its own, over TLS")
            same = [_files(pool) == expected]
            print(f"the same {len(expected)} files: {same[0]}")
            killer = subprocess.Popen(["sh", "-c", f"sleep 2; kill -9 {workers['lp-one'].pid}"])
            same.append(_files(pool) == expected)
            killer.wait()
            print(f"the same where one machine goes away meanwhile: {same[1]}")
            print(f"{pool.workers_alive} worker left")
            pool.shutdown()
        finally:
            for process in (*workers.values(), scheduler):
                process.send_signal(signal.SIGKILL)
    sys.exit(0 if all(same) else 1)


def _files(executor: Executor) -> list[str]:
    """All files that are made for two of the demo's photos, by their hashes."""
    made = []
    for name in ("red-cup-blue-door.jpg", "opening-hours.jpg"):
        data = demo_files()[name]
        made += [each.file_sha256 for each in fit_file(executor, name, data, _AIM).made]
    return sorted(made)


@contextmanager
def _network() -> Iterator[None]:
    """A bridge on this machine, and a namespace with one address for each of the others."""
    steps = [
        f"link add {_BRIDGE} type bridge",
        f"addr add {_NETWORK}.1/24 dev {_BRIDGE}",
        f"link set {_BRIDGE} up",
    ]
    for name, address in _MACHINES.items():
        steps += [
            f"netns add {name}",
            f"link add {name}-out type veth peer name eth0 netns {name}",
            f"link set {name}-out master {_BRIDGE} up",
            f"-n {name} addr add {address}/24 dev eth0",
            f"-n {name} link set eth0 up",
            f"-n {name} link set lo up",
        ]
    try:
        for step in steps:
            subprocess.run(["ip", *step.split()], check=True)
        yield
    finally:
        for name in _MACHINES:
            subprocess.run(["ip", "netns", "del", name], check=False)
        subprocess.run(["ip", "link", "del", _BRIDGE], check=False)


def _tls(folder: Path) -> dict[str, str]:
    """Dask's settings for TLS, with certificates of an authority of our own."""
    authority = trustme.CA()
    authority.cert_pem.write_to_path(folder / "ca.pem")
    pem = folder / "machine.pem"
    authority.issue_cert("lean-parcel").private_key_and_cert_chain_pem.write_to_path(pem)
    tls = "DASK_DISTRIBUTED__COMM__TLS__"
    sides = {f"{tls}{side}__{part}": str(pem) for side in _SIDES for part in ("CERT", "KEY")}
    required = {"DASK_DISTRIBUTED__COMM__REQUIRE_ENCRYPTION": "True"}
    return {f"{tls}CA_FILE": str(folder / "ca.pem"), **sides, **required}


def _worker(name: str, environment: dict[str, str]) -> subprocess.Popen[bytes]:
    """A machine's one worker."""
    options = ["--nworkers", "1", "--nthreads", "1", "--no-dashboard", "--no-nanny"]
    command = ["worker", _SCHEDULER, *options]
    return _dask(command, environment, ["ip", "netns", "exec", name])


def _dask(
    command: list[str], environment: dict[str, str], before: list[str] | None = None
) -> subprocess.Popen[bytes]:
    program = [*(before or []), sys.executable, "-m", "dask", *command]
    return subprocess.Popen(
        program,
        env={**os.environ, **environment},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


if __name__ == "__main__":
    main()
