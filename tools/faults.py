"""Kills workers and the server at random moments, does to files what disks and people do, and looks
at what is left: `make faults`.

Clients add photos, change limits, pick and undo all the while, and remember what was acknowledged;
one more weighs a page as a batch, balances it, and has it delivered, as an archive and into a
folder, beside another page of the same name. At the end nothing acknowledged may be missing, no
search may still run, the workspace has to be whole, and so does every archive and folder that was
said to be.
"""

import argparse
import hashlib
import io
import os
import random
import signal
import sys
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from threading import Event, Lock, Thread
from typing import Any, Literal, cast, get_args

import cv2
import httpx
import numpy as np
import psutil

from lean_parcel.work.delivery.packing_list import LIST_NAME
from lean_parcel.work.delivery.verifying import verify
from lean_parcel.work.upkeep import check
from tools.faults_of_files import (
    damage_bytes,
    pack_and_cut_off,
    replace_workspace,
    restore_and_return,
)
from tools.served import Served

Kill = Literal["idle worker", "starting worker", "busy worker", "server"]
OfFiles = Literal["workspace replaced", "bytes damaged", "backup restored", "packing cut off"]
Fault = Kill | OfFiles
FAULTS: tuple[Fault, ...] = (*get_args(Kill), *get_args(OfFiles))
#: How often each happens among a hundred.
_SHARES = (26, 22, 26, 12, 4, 4, 3, 3)
_CLIENTS = 3
_PHOTOS_A_CLIENT = 10
_LONGEST_S = 120.0
_PAGE, _PHOTOS_OF_THE_PAGE = "Handed over", 3
#: How long clients act on a workspace that is restored afterwards.
_MEANWHILE_S = 1.5
#: How long the page is waited for before the next act.
_PATIENCE_S = 3
#: Refusals that have nothing to do with faults.
_EXPECTED = (
    "nothing_to_undo",
    "not_ready",
    "nothing_taken",
    "no_balance",
    "nothing_to_take",
    "workspace_gone",
)


@dataclass(slots=True)
class Tally:
    """What came of it all. An act is `lost` that was acknowledged and is not there any more."""

    faults: Counter[Fault] = field(default_factory=Counter)
    acknowledged: int = 0
    cut_off: int = 0
    refusals: Counter[str] = field(default_factory=Counter)
    lost: list[str] = field(default_factory=list)
    page_acts: Counter[str] = field(default_factory=Counter)
    running: int = 0
    integrity: str = ""

    @property
    def is_clean(self) -> bool:
        """Whether nothing is lost, and nothing goes on for ever."""
        return not self.lost and not self.running and self.integrity == "ok"


@dataclass(slots=True)
class _Known:
    """What a client knows of a photo: its bytes, and the limit and pick that may be true, of which
    there are two after an act whose answer was cut off."""

    sha256: str
    limits_bytes: set[int] = field(default_factory=set)
    picks: set[int | None] = field(default_factory=set)


class _Client(Thread):
    """Does one act after the other on photos of its own, until it is stopped."""

    def __init__(
        self, served: Served, seed: int, tally: Tally, lock: Lock, photos: int = _PHOTOS_A_CLIENT
    ) -> None:
        super().__init__(daemon=True)
        self._served, self._tally, self._lock, self._most = served, tally, lock, photos
        self._random = random.Random(seed)
        self._http = httpx.Client(timeout=_LONGEST_S, headers={"Origin": served.url})
        self.photos: dict[int, _Known] = {}
        self.go_on = Event()
        self.stopped = Event()
        self.at_rest = Event()

    def run(self) -> None:
        """Acts while it may, and says when it rests."""
        while not self.stopped.is_set():
            if not self.go_on.is_set():
                self.at_rest.set()
                self.go_on.wait(0.1)
                continue
            self.at_rest.clear()
            try:
                self._act()
            except Exception as error:  # what nobody has thought of is a fault too
                with self._lock:
                    self._tally.lost.append(f"a client failed: {error!r}")
        self._http.close()

    def _act(self) -> None:
        if len(self.photos) < self._most and self._random.random() < 0.4:
            self._add()
            return
        if not self.photos:
            return
        photo_id, known = self._random.choice(list(self.photos.items()))
        self._random.choice((self._change_limit, self._pick, self._undo, self._look))(
            photo_id, known
        )

    def _add(self, **where: int) -> None:
        data = _noisy_png(self._random)
        files = {"photo": ("noise.png", data)}
        added = self._ask("POST", "/photos", files=files, data=where)
        if added:
            known = _Known(sha256=hashlib.sha256(data).hexdigest())
            self.photos[added["id"]] = known
            self._learn(added["id"], known)

    def _change_limit(self, photo_id: int, known: _Known) -> None:
        limit_bytes = self._random.randrange(2_000, 20_000)
        path = f"/photos/{photo_id}/aim"
        self._decide(known.limits_bytes, limit_bytes, "PATCH", path, "limit_bytes")

    def _pick(self, photo_id: int, known: _Known) -> None:
        shown = self._shown(photo_id)
        if shown and shown["candidate_ids"]:
            encode_id = self._random.choice(shown["candidate_ids"])
            self._decide(known.picks, encode_id, "PUT", f"/photos/{photo_id}/pick", "encode_id")

    def _decide(self, maybe: set[Any], value: Any, method: str, path: str, name: str) -> None:
        """An act with a value: the only one that may be true once it is acknowledged."""
        maybe.add(value)
        if self._ask(method, path, json={name: value}) is not None:
            maybe.intersection_update({value})

    def _undo(self, photo_id: int, known: _Known) -> None:
        self._ask("POST", f"/photos/{photo_id}/journal/undo")
        self._learn(photo_id, known)

    def _learn(self, photo_id: int, known: _Known) -> None:
        """Takes what is shown for what is true: nobody else acts on this photo."""
        ends_at = time.monotonic() + _LONGEST_S
        while not (shown := self._shown(photo_id)):
            assert time.monotonic() < ends_at, f"photo {photo_id} is never shown"
            time.sleep(0.1)
        known.limits_bytes = {shown["aim"]["limit_bytes"]}
        known.picks = {_pick_of(shown)}

    def _look(self, photo_id: int, _: _Known) -> None:
        self._ask("GET", f"/photos/{photo_id}/margins")

    def _shown(self, photo_id: int) -> dict[str, Any] | None:
        return self._ask("GET", f"/photos/{photo_id}/at/0")

    def _ask(self, method: str, path: str, **body: Any) -> dict[str, Any] | None:
        """The answer; None where there was none, or an error."""
        try:
            answer = self._http.request(method, f"{self._served.url}/api{path}", **body)
        except httpx.HTTPError:
            with self._lock:
                self._tally.cut_off += 1
            time.sleep(0.1)
            return None
        values: dict[str, Any] = answer.json() if answer.content else {}
        with self._lock:
            if answer.is_success:
                self._tally.acknowledged += method != "GET"
                return values
            if values.get("code") not in _EXPECTED:
                self._tally.refusals[f"{answer.status_code} {values.get('code')}"] += 1
        return None


class _PageClient(_Client):
    """Weighs, balances and delivers a page of photos of its own."""

    _page_id = _other_id = 0

    def prepare(self) -> None:
        """Adds the page and its photos, and takes what a balance says, before any kill."""
        made = self._ask("POST", "/pages", json={"name": _PAGE})
        assert made
        self._page_id = made["id"]
        other = self._ask("POST", "/pages", json={"name": _PAGE.upper()})
        assert other
        self._other_id = other["id"]
        for page_id in [self._page_id] * _PHOTOS_OF_THE_PAGE + [self._other_id]:
            self._add(page_id=page_id)
        ends_at = time.monotonic() + _LONGEST_S
        while not self._tally.page_acts["balances"]:
            assert time.monotonic() < ends_at, "the page is never weighed"
            self._balance()

    def _act(self) -> None:
        acts = (self._weigh, self._balance, self._fetch, self._write)
        self._random.choices(acts, (1, 3, 4, 4))[0]()

    def _weigh(self) -> None:
        self._count("batches", self._ask("POST", "/selection/weighing", json=self._chosen()))

    def _balance(self) -> None:
        budget = {"budget_bytes": self._random.randrange(20_000, 60_000)}
        self._ask("PATCH", f"/pages/{self._page_id}", json=budget)
        self._ask("POST", f"/pages/{self._page_id}/balance/encodes", json={})
        balance: dict[str, Any] = {"unweighed": True}
        ends_at = time.monotonic() + _PATIENCE_S
        while balance.get("unweighed") and time.monotonic() < ends_at:
            time.sleep(0.5)
            balance = self._ask("POST", f"/pages/{self._page_id}/balance", json={}) or balance
        picks = [
            {"photo_id": each["photo_id"], "encode_id": each["after"]["id"]}
            for each in balance.get("photos", ())
            if each.get("after")
        ]
        for pick in picks:
            self.photos[pick["photo_id"]].picks.add(pick["encode_id"])
        if picks:
            address = f"/pages/{self._page_id}/balance/picks"
            taken = self._ask("PUT", address, json={"picks": picks})
            self._count("balances", taken)
            for pick in picks if taken is not None else ():
                self.photos[pick["photo_id"]].picks = {pick["encode_id"]}

    def _wait_until_made(self) -> None:
        """Waits a while for the files of the page."""
        ends_at = time.monotonic() + _PATIENCE_S
        while time.monotonic() < ends_at:
            delivery = self._ask("GET", f"/pages/{self._page_id}/delivery")
            if delivery and not delivery["running"]:
                return
            time.sleep(0.2)

    def _fetch(self) -> None:
        """Fetches the archive; one that came to its end has all that its list names."""
        self._wait_until_made()
        address = f"{self._served.url}/api/pages/{self._page_id}/delivery.zip"
        try:
            answer = self._http.get(address)
        except httpx.HTTPError:
            return
        if answer.is_success:
            self._count("archives", {})
            with tempfile.TemporaryDirectory() as folder:
                zipfile.ZipFile(io.BytesIO(answer.content)).extractall(folder)
                self._verify(Path(folder), "an archive")

    def _write(self) -> None:
        self._wait_until_made()
        last_id = list(self.photos)[-1]
        self._ask("POST", "/selection/picks", json={"photo_ids": [last_id]})
        self._learn(last_id, self.photos[last_id])
        folders = set()
        for page_id in (self._page_id, self._other_id):
            answer = self._ask("POST", f"/pages/{page_id}/delivery/folder")
            if answer is not None:
                self._count("folders", answer)
                self._verify(Path(answer["folder"]), "a folder")
                folders.add((page_id, answer["folder"]))
        if len({folder for _, folder in folders}) < len(folders):
            with self._lock:
                self._tally.lost.append("two pages were delivered to one folder")

    def deliver(self) -> httpx.Response:
        """Asks for the delivery into a folder, whatever comes of it."""
        address = f"{self._served.url}/api/pages/{self._page_id}/delivery/folder"
        return self._http.post(address)

    def _verify(self, folder: Path, what: str) -> None:
        """Looks whether a delivery agrees with its list, to the byte."""
        inside = [folder, *(path for path in folder.iterdir() if path.is_dir())]
        listed = next(path for path in inside if (path / LIST_NAME).exists())
        wrong = [each for each in verify(listed).findings if not each.is_excused]
        # The budget of the page is the clients' own whim.
        wrong = [each for each in wrong if each.path]
        with self._lock:
            self._tally.lost += [f"{what}: {each.path}: {each.sentence}" for each in wrong]

    def _chosen(self) -> dict[str, list[int]]:
        return {"photo_ids": list(self.photos)}

    def _count(self, name: str, answer: object) -> None:
        if answer is not None:
            with self._lock:
                self._tally.page_acts[name] += 1


def _pick_of(shown: dict[str, Any]) -> int | None:
    """The encode that is taken of a photo."""
    pick: int | None = next(iter(shown["picked_ids"]), None)
    return pick


def _noisy_png(chance: random.Random) -> bytes:
    noise = np.random.default_rng(chance.randrange(2**32))
    blobs = noise.uniform(0, 255, (8, 12, 3)).astype(np.float32)
    soft = cv2.resize(blobs, (120, 80), interpolation=cv2.INTER_CUBIC)
    grainy = np.clip(soft + noise.normal(0, 5, soft.shape), 0, 255).astype(np.uint8)
    return cv2.imencode(".png", grainy)[1].tobytes()


def faults(
    workspace: Path,
    wanted: Sequence[Fault],
    seed: int,
    say: Callable[[str], None],
    photos_a_client: int = _PHOTOS_A_CLIENT,
) -> Tally:
    """Lets these faults happen under traffic, lets all work end, and compares what is there with
    what was acknowledged."""
    chance, tally, lock = random.Random(seed), Tally(), Lock()
    served = Served(workspace, "--out", str(workspace.parent / "out"))
    clients = [_Client(served, seed + i, tally, lock, photos_a_client) for i in range(_CLIENTS)]
    page = _PageClient(served, seed + _CLIENTS, tally, lock)
    page.prepare()
    clients.append(page)
    _go_on(clients)
    for client in clients:
        client.start()
    for number, fault in enumerate(wanted):
        time.sleep(chance.uniform(0.2, 1.5))
        if fault in get_args(Kill):
            _kill(served, cast(Kill, fault), clients, chance)
        else:
            tally.lost += _of_files(served, workspace, cast(OfFiles, fault), clients, page, chance)
        tally.faults[fault] += 1
        say(f"{number + 1:3d} {fault}, {tally.acknowledged} acts acknowledged")
    _rest(clients)
    tally.running = _still_running(served)
    for client in clients:
        client.stopped.set()
        client.join()
        tally.lost += _lost(served, client.photos)
    served.end(signal.SIGTERM)
    found = check(workspace)
    tally.integrity = "; ".join(each.about for each in found) or "ok"
    return tally


def _of_files(
    served: Served,
    workspace: Path,
    fault: OfFiles,
    clients: list[_Client],
    page: _PageClient,
    chance: random.Random,
) -> list[str]:
    """Lets something happen to files while clients rest; what went wrong is returned."""

    def act_meanwhile() -> None:
        _go_on(clients)
        time.sleep(_MEANWHILE_S)
        _rest(clients)

    _rest(clients)
    try:
        match fault:
            case "workspace replaced":
                replace_workspace(served, workspace, lambda: _go_on(clients))
                return []
            case "bytes damaged":
                return damage_bytes(workspace, page.deliver)
            case "backup restored":
                return restore_and_return(served, workspace, act_meanwhile)
            case "packing cut off":
                return pack_and_cut_off(chance, lambda: _noisy_png(chance))
    finally:
        _go_on(clients)


def _go_on(clients: list[_Client]) -> None:
    for client in clients:
        client.go_on.set()


def _kill(served: Served, victim: Kill, clients: list[_Client], chance: random.Random) -> None:
    match victim:
        case "server":
            served.end(signal.SIGKILL)
            served.start()
        case "busy worker":
            _kill_one(served.workers(), chance)
        case "starting worker":
            before = {worker.pid for worker in served.workers()}
            _kill_one(served.workers(), chance)
            ends_at = time.monotonic() + 10
            while time.monotonic() < ends_at:
                new = [worker for worker in served.workers() if worker.pid not in before]
                if new:
                    time.sleep(chance.uniform(0, 1))
                    _kill_one(new, chance)
                    break
                time.sleep(0.02)
        case "idle worker":
            _rest(clients)
            _kill_one(served.workers(), chance)
            _go_on(clients)


def _kill_one(workers: list[psutil.Process], chance: random.Random) -> None:
    with suppress(psutil.NoSuchProcess):
        if workers:
            chance.choice(workers).kill()


def _rest(clients: list[_Client]) -> None:
    """Waits until every client has its answers."""
    for client in clients:
        client.go_on.clear()
        client.at_rest.clear()
    for client in clients:
        assert client.at_rest.wait(_LONGEST_S), "a client never got its answer"


def _still_running(served: Served) -> int:
    """How many searches run, once none has changed for a long while or all have ended."""
    count, since = -1, time.monotonic()
    while time.monotonic() - since < _LONGEST_S / 2:
        pages = httpx.get(f"{served.url}/api/pages", timeout=_LONGEST_S).json()["pages"]
        states = [photo["search_state"] for page in pages for photo in page["photos"]]
        if states.count("running") != count:
            count, since = states.count("running"), time.monotonic()
        if count == 0:
            return 0
        time.sleep(0.5)
    return count


def _lost(served: Served, photos: dict[int, _Known]) -> list[str]:
    lost = []
    for photo_id, known in photos.items():
        address = f"{served.url}/api/photos/{photo_id}"
        original = httpx.get(f"{address}/original", timeout=_LONGEST_S)
        shown = httpx.get(f"{address}/at/0", timeout=_LONGEST_S).json()
        if hashlib.sha256(original.content).hexdigest() != known.sha256:
            lost.append(f"photo {photo_id}: its original")
        elif shown["aim"]["limit_bytes"] not in known.limits_bytes:
            lost.append(f"photo {photo_id}: its limit")
        elif _pick_of(shown) not in known.picks:
            lost.append(f"photo {photo_id}: its pick")
        elif shown["search"]["state"] not in ("done", "stopped"):
            lost.append(f"photo {photo_id}: its search {shown['search']['state']}")
    return lost


def table(tally: Tally) -> str:
    """The outcome as a table."""
    rows: list[tuple[str, int]] = [(fault, tally.faults[fault]) for fault in FAULTS]
    rows += [
        ("acts acknowledged", tally.acknowledged),
        *((f"among them {name}", count) for name, count in sorted(tally.page_acts.items())),
        ("answers cut off by the server's end", tally.cut_off),
        *((f"answers {words}", count) for words, count in sorted(tally.refusals.items())),
        ("acknowledged and lost", len(tally.lost)),
        ("searches that run for ever", tally.running),
    ]
    lines = [f"| {name} | {count} |" for name, count in rows]
    return "\n".join(["| | |", "|---|---|", *lines, f"| `lean-parcel check` | {tally.integrity} |"])


def main() -> None:
    """Runs it, and fails where anything was lost."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--faults", type=int, default=100)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        chance = random.Random(options.seed)
        wanted = chance.choices(FAULTS, _SHARES, k=options.faults)
        tally = faults(Path(folder) / "faults.sqlite3", wanted, options.seed, print)
    print(table(tally), *tally.lost, sep="\n")
    sys.exit(os.EX_OK if tally.is_clean else os.EX_SOFTWARE)


if __name__ == "__main__":
    main()
