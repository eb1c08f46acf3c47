"""Lean Parcel as it is installed: a wheel in an environment of its own, without Node or the
repository."""

import os
import re
import shutil
import subprocess
import sys
import sysconfig
import venv
import zipfile
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel, built from a copy of the sources."""
    source = tmp_path_factory.mktemp("source")
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source)
    left = shutil.ignore_patterns("__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "src", source / "src", ignore=left)
    how = ["--no-deps", "--no-build-isolation", "--quiet", "--wheel-dir", "wheels", "."]
    subprocess.run([sys.executable, "-m", "pip", "wheel", *how], cwd=source, check=True)
    return next((source / "wheels").glob("*.whl"))


@pytest.fixture(scope="module")
def programs(wheel: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The programs of a fresh environment: it has the libraries of this one, and the wheel."""
    folder = tmp_path_factory.mktemp("environment")
    venv.create(folder, with_pip=False)
    version = f"python{sys.version_info.major}.{sys.version_info.minor}"
    packages = folder / "lib" / version / "site-packages"
    # Only the path: what is installed for development there is not followed.
    (packages / "libraries.pth").write_text(sysconfig.get_path("purelib"))
    pip = [sys.executable, "-m", "pip", "--python", str(folder / "bin/python"), "install"]
    subprocess.run([*pip, "--no-deps", "--no-index", "--quiet", wheel], check=True)
    return folder / "bin"


@pytest.fixture
def address(programs: Path, tmp_path: Path) -> Iterator[str]:
    """A server with demo photos, started from an empty folder by someone without Node."""
    options = ["--demo", "--port", "0", "--workers", "1", "--workspace", tmp_path / "w.sqlite3"]
    process = subprocess.Popen(
        [programs / "lean-parcel", "serve", *options],
        cwd=tmp_path,
        env={"PATH": str(programs), "HOME": str(tmp_path), "LANG": "C.UTF-8"},
        stdout=subprocess.PIPE,
        text=True,
    )
    assert process.stdout
    found = re.search(r"http://127\.0\.0\.1:\d+", process.stdout.readline())
    assert found
    yield found[0]
    process.terminate()
    process.wait(timeout=30)
    process.stdout.close()


def test_the_wheel_has_all_that_is_needed_and_nothing_else(wheel: Path) -> None:
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in ("static/index.html", "weighed.sqlite3", "packing_list.html", "0001"):
        assert any(wanted in name for name in names), wanted
    ours = [name for name in names if ".dist-info/" not in name]
    assert all(name.startswith("lean_parcel/") for name in ours)
    assert not any("__pycache__" in name or name.endswith(".tsx") for name in names)


def test_what_is_installed_serves_the_page_and_its_demo(programs: Path, address: str) -> None:
    python = [programs / "python", "-c", "import lean_parcel; print(lean_parcel.__file__)"]
    asked = subprocess.run(python, capture_output=True, text=True, check=True, cwd=os.sep, env={})
    where = asked.stdout
    assert str(ROOT) not in where
    with httpx.Client(base_url=address) as client:
        page = client.get("/").text
        for part in re.findall(r'(?:src|href)="\./(assets/[^"]+)"', page):
            assert client.get(f"/{part}").status_code == 200
        pages = client.get("/api/pages").json()["pages"]
        assert sum(len(each["photos"]) for each in pages) > 5
        assert client.get("/health").json()["status"] == "ready"
