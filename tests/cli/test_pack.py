import json
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner, Result

from lean_parcel.cli import main
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.work.treatment_file import TreatmentFile
from tests.builders import file, photo


def run(*arguments: object) -> Result:
    return CliRunner().invoke(main, ["pack", *(str(argument) for argument in arguments)])


def objects(result: Result) -> list[dict[str, Any]]:
    return [json.loads(line) for line in result.stdout.splitlines()]


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "in").mkdir()
    for name, seed in (("Cup.png", 1), ("Jug.png", 2)):
        (tmp_path / "in" / name).write_bytes(file(photo(90, 60, seed)))
    return tmp_path / "in"


def test_a_folder_is_packed_and_told_line_by_line(folder: Path, tmp_path: Path) -> None:
    (folder / "broken.jpg").write_bytes(b"\xff\xd8\xff nothing")
    out = tmp_path / "out"
    result = run(folder, "--out", out, "--width", 90, "--limit", "4kB", "--json")
    assert result.exit_code == 3, result.output
    *photos, last = objects(result)
    assert [Path(each["photo"]).name for each in photos] == ["Cup.png", "Jug.png", "broken.jpg"]
    cup, _, broken = photos
    assert set(cup) == {
        "photo", "file", "files", "format", "source_bytes", "size_bytes", "width_px", "height_px",
        "likeness", "within_limit",
    }  # fmt: skip
    assert set(broken) == {*cup, "error"}
    assert set(broken["error"]) == {"code", "message"}
    assert Path(cup["file"]).stat().st_size == cup["size_bytes"] <= 4_000
    total = last["total"]
    assert set(total) == {
        "photos", "failed", "source_bytes", "size_bytes", "worst_likeness", "seconds",
    }  # fmt: skip
    assert (total["photos"], total["failed"]) == (3, 1)
    assert total["worst_likeness"] == min(each["likeness"] for each in photos[:2])


def test_a_treatment_says_what_is_done(folder: Path, tmp_path: Path) -> None:
    aim = Aim(place=Place(size="45"), limit_bytes=5_000, formats=("webp",))
    treatment = Treatment(framing=Framing(metadata="nothing"), aim=aim)
    path = tmp_path / "card.json"
    path.write_text(TreatmentFile.of("Card", treatment).model_dump_json())
    out = tmp_path / "out"
    changes = ("--density", 2, "--suffix", "Two {up}", "--jobs", 1)
    result = run(folder, "--out", out, "--treatment", path, *changes, "--json")
    assert result.exit_code == 0, result.output
    *photos, _ = objects(result)
    assert {Path(each["file"]).stem.split("-", 2)[2] for each in photos} == {"Two-up"}
    assert {(each["format"], each["width_px"]) for each in photos} <= {("webp", 90), ("webp", 60)}


def test_wrong_usage_is_told(folder: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    broken = tmp_path / "treatment.json"
    broken.write_text('{"kind": "lean-parcel-treatment", "name": "x"}')
    for arguments in (
        (folder, "--width", 90, "--limit", "4kB"),
        (folder, "--out", out, "--width", 90),
        (folder, "--out", out, "--limit", "4kB"),
        (folder, "--out", out, "--treatment", broken),
        (folder, "--out", out, "--treatment", folder),
        (folder, "--out", out, "--width", 0, "--limit", "4kB"),
        ("--out", out),
    ):
        assert run(*arguments).exit_code == 2, arguments
    assert not out.exists()


def test_a_limit_that_is_not_met_has_its_own_status(folder: Path, tmp_path: Path) -> None:
    result = run(folder, "--out", tmp_path / "out", "--width", 90, "--limit", "40B")
    assert result.exit_code == 4
    assert "misses its aim; not written" in result.stdout
