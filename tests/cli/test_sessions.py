"""What commands print, write and end with, one after the other, as recorded."""

import re
from pathlib import Path

import pytest
from click.testing import CliRunner

from lean_parcel.cli import main
from tests.builders import cutout, file, photo
from tests.recorded import Recorded

#: What differs from run to run: seconds, ids, moments.
_PASSING = (
    (re.compile(r"\d+(\.\d+)? (s|ms)\b"), "… s"),
    (re.compile(r'"(encode_ms|seconds)": [\d.]+'), r'"\1": …'),
    (re.compile(r'"delivery_id": "[^"]*"'), '"delivery_id": …'),
)
PAGE = """<img src="img/Cup.png" alt="Cup"><img src="img/Jug.png"><img src="img/none.png">"""
STYLE = ".cup { background: url('img/Cup.png') }"

PACK = "pack img --out new --width 45 --limit 6kB --densities 1,2 --formats webp"
SESSIONS = {
    "fit": (
        "fit img/Cup.png --limit 3kB --width 45 --density 2 --out fitted --formats jpeg,webp,png",
        "fit img/Cup.png --limit 3kB --width 45 --density 2 --out fitted --formats webp",
        "fit img/Cup.png img/none.png --limit 3kB --width 45 --json --formats jpeg",
        "fit img/broken.jpg --limit 3kB --width 45",
        "fit cutout.png --limit 300B --width 96 --formats jpeg,webp --background #204060 --all"
        " --out all",
        "fit img/Cup.png --limit lots --width 45",
        "fit img/Cup.png --limit 80 --width 45",
        "fit img/Cup.png --limit 3kB --size 40% --formats webp --json",
    ),
    "pack": (
        f"{PACK} --variants webp,jpeg --html code.html --names {{name}}-{{density}}",
        f"{PACK} --variants webp,jpeg --html code.html --names {{name}}-{{density}}",
        "pack img/Cup.png img/Jug.png --out flat --budget 5kB --width 45 --formats webp --json",
        "pack img/Cup.png --out small --limit 100B --width 45 --formats jpeg",
        "verify new",
        "verify flat --json",
    ),
    "hand over": (
        "pack img/Cup.png img/Jug.png --out new --width 45 --limit 6kB --formats webp",
        "repoint new/packing-list.json index.html site.css",
        "repoint new/packing-list.json index.html site.css --write --prefix /pictures/",
        "repoint new/packing-list.json index.html --pictures --json",
        "repoint new/packing-list.json missing.html",
        "verify img",
    ),
    "compare": (
        "likeness img/Cup.png img/Jug.png",
        "likeness img/Cup.png img/Jug.png --json",
        "damage img/Cup.png img/Cup.png",
        "damage img/Cup.png img/Jug.png",
        "damage img/Cup.png img/Jug.png --json",
        "damage img/Cup.png cutout.png",
    ),
}


@pytest.fixture(autouse=True)
def site(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "img").mkdir()
    for name, seed in (("Cup.png", 1), ("Jug.png", 2)):
        (tmp_path / "img" / name).write_bytes(file(photo(90, 60, seed)))
    (tmp_path / "img/broken.jpg").write_bytes(b"\xff\xd8\xff nothing")
    (tmp_path / "cutout.png").write_bytes(file(cutout()))
    (tmp_path / "index.html").write_text(PAGE)
    (tmp_path / "site.css").write_text(STYLE)
    monkeypatch.chdir(tmp_path)


@pytest.mark.parametrize("name", SESSIONS)
def test_of_commands(name: str, recorded: Recorded) -> None:
    told, files = [], _files()
    for line in SESSIONS[name]:
        result, before = CliRunner().invoke(main, line.split()), files
        files = _files()
        told.append(
            {
                "command": line,
                "status": result.exit_code,
                "printed": _lasting(result.stdout),
                "told": _lasting(result.stderr),
                "files": dict(files.items() - before.items()),
            }
        )
        assert before.keys() <= files.keys()
    recorded(told)


def _files() -> dict[str, object]:
    """All files that are shown: of pages what is read, of all others the bytes."""
    paths = (path for path in Path().rglob("[!.]*") if path.is_file())
    return {str(path): _content(path) for path in paths}


def _content(path: Path) -> object:
    is_text = path.suffix in {".html", ".css"} and path.name != "packing-list.html"
    return path.read_text() if is_text else path.stat().st_size


def _lasting(text: str) -> list[str]:
    for passing, instead in _PASSING:
        text = passing.sub(instead, text)
    return text.splitlines()
