"""Plants small faults, one at a time, and runs the tests that belong to their package, without the
browser. `make mutants` prints, by package, how many were noticed, and what was not.

Each runs in a copy of the project, two at a time; nothing here is touched. What survives and is no
fault is listed in no_faults.toml, with its reason.
"""

import argparse
import os
import shutil
import subprocess
import tempfile
import time
import tomllib
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

from rich.console import Console
from rich.table import Table

from tools.mutants.faults import Fault, drawn, listed

ROOT = Path(__file__).parents[2]
PACKAGE = Path("src/lean_parcel")
_NOT_COPIED = shutil.ignore_patterns(".*", "build", "node_modules")


def _tests(layer: str, *names: str) -> tuple[str, ...]:
    return tuple(f"tests/{layer}/{name}" for name in names)


_RECORDS = (*_tests("web", "test_answers.py", "test_acts.py"), *_tests("cli", "test_sessions.py"))
_OF_WORK = _tests("work", "test_all_or_nothing.py", "pages", "photos", "delivery")
#: Tests of a layer's neighbours, where its promises are stated too, after its own.
NEIGHBOURS: dict[str, tuple[str, ...]] = {
    "core": (
        *_tests("core", "decisions", "candidates", "framing"),
        *_tests("work", "tasks"),
        *_RECORDS,
    ),
    "store": (*_OF_WORK, *_tests("work", "test_upkeep.py", "test_workspace.py"), *_RECORDS),
    "work": (*_OF_WORK, *_tests("work", "searches", "queue"), *_RECORDS),
}
#: Whose faults change what a task comes to; of all others, what tasks came to is remembered.
_OF_TASKS = ("core", "work/tasks")
COPIES = 2
#: The longest that all tests together take.
_SOUND_S = 3_600
#: The exit status of pytest where a test failed; anything else but 0 means that it could not begin.
_FAILED = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """A fault, and what came of it: noticed, left unnoticed, or nothing to be told, since the tests
    could not even begin; and the seconds that it took."""

    package: str
    fault: Fault
    came: str
    took_s: float


def main() -> None:
    """See the module."""
    given = _given()
    console = Console(width=160)
    packages = {name: each for name, each in _packages().items() if name.startswith(given.package)}
    planned = _chosen(packages) if given.chosen else _drawn(packages, given.count, given.seed)
    ends_at = time.monotonic() + given.minutes * 60
    found: list[Tried] = []
    with _copies() as copies, ThreadPoolExecutor(COPIES) as threads:
        _check_sound(copies, packages)

        def run(name: str, fault: Fault) -> None:
            if time.monotonic() > ends_at:
                return
            copy = copies.get()
            tried = _tried(copy, name, fault, given.longest_s)
            copies.put(copy)
            found.append(tried)
            console.print(f"{tried.came:9} {tried.took_s:4.0f} s  {fault}", markup=False)

        for _ in threads.map(lambda each: run(*each), planned):
            pass
    console.print(_table(found, len(planned)))


def _drawn(packages: dict[str, list[str]], count: int, seed: int) -> list[tuple[str, Fault]]:
    """So many faults of each package, but for those that are none."""
    reasons = _reasons()
    return [
        (name, fault)
        for name, modules in packages.items()
        for fault in drawn(ROOT / PACKAGE, modules, count, seed)
        if (fault.module, fault.was, fault.is_now) not in reasons
    ]


def _chosen(packages: dict[str, list[str]]) -> list[tuple[str, Fault]]:
    """The faults of chosen.toml, each with its package."""
    of = {module: name for name, modules in packages.items() for module in modules}
    faults = listed(ROOT / PACKAGE, Path(__file__).parent / "chosen.toml")
    return [(of[fault.module], fault) for fault in faults if fault.module in of]


def _given() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="python -m tools.mutants", description=__doc__)
    parser.add_argument("package", nargs="?", default="", help="such as core/likeness or work")
    parser.add_argument("--chosen", action="store_true", help="the faults of chosen.toml")
    parser.add_argument("--count", type=int, default=6, help="faults a package")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--minutes", type=float, default=45, help="after which none is begun")
    parser.add_argument("--longest-s", type=float, default=300, help="of one fault's tests")
    return parser.parse_args()


def _packages() -> dict[str, list[str]]:
    """The modules of each package: a folder, with all folders below it, of a layer; or what lies in
    the layer itself."""
    packages: dict[str, list[str]] = {}
    for path in sorted((ROOT / PACKAGE).rglob("*.py")):
        module = path.relative_to(ROOT / PACKAGE)
        layer, *rest = module.parts
        if rest and module.name != "__init__.py":
            nested = layer in ("core", "work") and len(rest) > 1
            packages.setdefault(f"{layer}/{rest[0]}" if nested else layer, []).append(str(module))
    return packages


def _reasons() -> dict[tuple[str, str, str], str]:
    listed = tomllib.loads((Path(__file__).parent / "no_faults.toml").read_text())
    return {(each["module"], each["was"], each["is_now"]): each["reason"] for each in listed["no"]}


def _tests_of(package: str) -> list[str]:
    """Its own folder's first, and each once."""
    neighbours = NEIGHBOURS.get(package.split("/")[0], ())
    own = [f"tests/{package}"]
    if package in ("core", "work"):  # what lies in the layer itself
        own = sorted(f"tests/{package}/{each.name}" for each in (ROOT / own[0]).glob("test_*.py"))
    named = dict.fromkeys((*own, *neighbours))
    return [each for each in named if (ROOT / each).exists()]


@contextmanager
def _copies() -> Iterator[SimpleQueue[Path]]:
    copies: SimpleQueue[Path] = SimpleQueue()
    with tempfile.TemporaryDirectory() as folder:
        for number in range(COPIES):
            copy = Path(folder, str(number))
            shutil.copytree(ROOT, copy, ignore=_NOT_COPIED)
            copies.put(copy)
        yield copies


def _check_sound(copies: SimpleQueue[Path], packages: Iterable[str]) -> None:
    """Tests that do not pass without a fault tell nothing."""
    every = list(dict.fromkeys(each for name in packages for each in _tests_of(name)))
    copy = copies.get()
    if _came(copy, [*every, f"-n{COPIES}"], _SOUND_S, is_silent=False) != "SURVIVED":
        raise SystemExit("The tests do not pass without a fault, so they tell nothing.")
    copies.put(copy)


def _tried(copy: Path, package: str, fault: Fault, longest_s: float) -> Tried:
    path = copy / PACKAGE / fault.module
    kept = path.with_suffix(".kept")
    shutil.copy2(path, kept)
    path.write_text(fault.text)
    began = time.monotonic()
    came = _came(copy, _tests_of(package), longest_s, remembers=not package.startswith(_OF_TASKS))
    kept.replace(path)
    return Tried(package=package, fault=fault, came=came, took_s=time.monotonic() - began)


def _came(
    copy: Path,
    tests: list[str],
    longest_s: float,
    *,
    remembers: bool = True,
    is_silent: bool = True,
) -> str:
    """What came of tests, which may remember what tasks came to in other runs of them."""
    python = str(ROOT / ".venv/bin/python")
    command = [python, "-m", "pytest", "-xq", "-p", "no:cacheprovider", *tests]
    own = {**os.environ, "PYTHONPATH": f"{copy / 'src'}", "PYTHONDONTWRITEBYTECODE": "1"}
    if remembers:
        own["TASK_MEMORY"] = str(copy.parent / "memory")
    process = subprocess.Popen(
        command,
        cwd=copy,
        env=own,
        stdout=subprocess.DEVNULL if is_silent else None,
        stderr=subprocess.DEVNULL if is_silent else None,
        start_new_session=True,
    )
    try:
        status = process.wait(longest_s)
    except subprocess.TimeoutExpired:
        os.killpg(process.pid, 9)
        process.wait()
        return "noticed"
    return {0: "SURVIVED", _FAILED: "noticed"}.get(status, "broken")


def _table(found: list[Tried], planned: int) -> Table:
    table = Table("package", "faults", "noticed", "share", title="Faults that the tests notice")
    told = [each for each in found if each.came != "broken"]
    for name in [*sorted({each.package for each in told}), "all"]:
        own = [each for each in told if name in (each.package, "all")]
        noticed = sum(each.came == "noticed" for each in own)
        table.add_row(name, str(len(own)), str(noticed), f"{noticed / max(len(own), 1):.0%}")
    table.caption = f"{len(found)} of {planned} tried; {len(found) - len(told)} told nothing."
    return table


if __name__ == "__main__":
    main()
