import json
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from click.testing import CliRunner, Result
from PIL import Image

from lean_parcel.cli import main
from tests.builders import cutout, file, oriented, photo


def run(*arguments: object) -> Result:
    return CliRunner().invoke(main, [str(argument) for argument in arguments])


@pytest.fixture
def png(tmp_path: Path) -> Path:
    path = tmp_path / "Röte Tasse.png"
    path.write_bytes(file(photo(300, 200)))
    return path


def objects(result: Result) -> list[dict[str, Any]]:
    return [json.loads(line) for line in result.stdout.splitlines()]


def test_fit_prints_one_object_a_photo_and_writes_the_pick(png: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    result = run(
        "fit", png, "--limit", "6kB", "--width", 100, "--density", 2, "--json", "--out", out
    )
    assert result.exit_code == 0, result.output
    (fit,) = objects(result)
    assert set(fit) == {
        "photo", "source", "limit_bytes", "likeness", "place", "candidates", "pick",
    }  # fmt: skip
    assert fit["photo"] == str(png)
    assert fit["source"] == {
        "size_bytes": png.stat().st_size,
        "width_px": 300,
        "height_px": 200,
        "format": "png",
    }
    assert (fit["limit_bytes"], fit["likeness"], fit["place"]) == (
        6_000,
        90,
        {"size": "100 px", "density": 2.0, "pixel_by_pixel": False},
    )
    assert {c["format"] for c in fit["candidates"]} == {"jpeg", "webp", "avif"}  # of a photograph
    for candidate in fit["candidates"]:
        assert set(candidate) == {
            "format", "size_bytes", "width_px", "height_px", "settings", "likeness",
            "encodes", "encode_ms", "within_limit", "file",
        }  # fmt: skip
        assert candidate["within_limit"] == (candidate["size_bytes"] <= 6_000)
    pick = fit["candidates"][fit["pick"]]
    (written,) = out.iterdir()
    assert pick["file"] == str(written)
    assert written.stat().st_size == pick["size_bytes"] <= 6_000
    with Image.open(written) as image:
        assert image.format == pick["format"].upper()
        assert image.size == (pick["width_px"], pick["height_px"])


def test_a_dense_photo_is_judged_as_it_is_seen_unless_every_pixel_is_to_count(
    tmp_path: Path,
) -> None:
    path = tmp_path / "photo.png"
    path.write_bytes(file(photo(200, 150)))
    asked = ("fit", path, "--limit", "5kB", "--width", 100, "--density", 2, "--formats", "jpeg")
    seen, each = (
        json.loads(run(*asked, "--json", *more).output) for more in ((), ("--pixel-by-pixel",))
    )
    likenesses = [fit["candidates"][fit["pick"]]["likeness"] for fit in (seen, each)]
    assert likenesses[0] > likenesses[1] + 5
    assert each["place"]["pixel_by_pixel"] is True


def test_a_file_that_is_there_is_kept_unless_it_is_to_be_replaced(png: Path) -> None:
    out = png.parent
    once = ["fit", png, "--limit", "6kB", "--width", 80, "--formats", "webp", "--out", out]
    assert run(*once).exit_code == 0
    written = out / "rote-tasse-80.webp"
    written.write_bytes(b"precious")
    kept = run(*once, "--json")
    assert written.read_bytes() == b"precious"
    assert objects(kept)[0]["candidates"][0]["file"] is None
    assert run(*once, "--replace").exit_code == 0
    assert written.read_bytes()[:4] == b"RIFF"


def test_a_source_is_never_overwritten(tmp_path: Path) -> None:
    source = tmp_path / "cup-80.webp"
    data = file(photo(80, 60), "WEBP", quality=90)
    source.write_bytes(data)
    twin = tmp_path / "cup.png"
    twin.write_bytes(file(photo(80, 60)))
    result = run(
        "fit", twin, source, "--limit", "9kB", "--width", 80,
        "--formats", "webp", "--out", tmp_path, "--replace", "--all",
    )  # fmt: skip
    assert result.exit_code == 0, result.output
    assert source.read_bytes() == data


def test_photos_of_the_same_name_do_not_replace_each_other(tmp_path: Path) -> None:
    paths = []
    for seed, folder in enumerate(("a", "b")):
        (tmp_path / folder).mkdir()
        paths.append(tmp_path / folder / "cup.png")
        paths[-1].write_bytes(file(photo(60, 40, seed)))
    out = tmp_path / "out"
    run("fit", *paths, "--limit", "9kB", "--width", 60, "--formats", "jpeg", "--out", out)
    assert sorted(path.name for path in out.iterdir()) == ["cup-60-2.jpg", "cup-60.jpg"]


def test_a_photo_that_cannot_be_read_is_named_and_the_others_are_done(
    png: Path, tmp_path: Path
) -> None:
    cut = tmp_path / "cut.png"
    cut.write_bytes(png.read_bytes()[:5_000])
    missing = tmp_path / "missing.png"
    result = run(
        "fit", cut, missing, png, "--limit", "10B", "--width", 80, "--formats", "jpeg", "--json"
    )
    assert result.exit_code == 3
    broken, absent, fit = objects(result)
    assert broken["error"]["code"] == "photo_truncated"
    assert absent["error"]["code"] == "photo_unreadable"
    assert fit["pick"] is None
    assert not fit["candidates"][0]["within_limit"]


def test_a_limit_that_nothing_can_meet_has_its_own_status(png: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    result = run(
        "fit", png, "--limit", "10B", "--width", 80, "--formats", "jpeg,webp", "--out", out
    )
    assert result.exit_code == 4
    assert "Nothing fits 10 B" in result.stdout
    assert list(out.iterdir()) == []


@pytest.mark.parametrize(
    "arguments",
    [
        ["--limit", "many", "--width", "80"],
        ["--limit", "8kB", "--width", "0"],
        ["--limit", "8", "--width", "80"],
        ["--limit", "8kB", "--width", "80", "--size", "80"],
        ["--limit", "8kB", "--size", "vast"],
        ["--limit", "8kB"],
        ["--limit", "8kB", "--width", "80", "--formats", "bmp"],
        ["--limit", "8kB", "--width", "80", "--background", "white"],
        ["--limit", "8kB", "--width", "80", "--replace"],
    ],
)
def test_wrong_usage_is_told_before_any_work(png: Path, arguments: list[str]) -> None:
    assert run("fit", png, *arguments).exit_code == 2


def test_likeness_of_a_turned_photo_to_its_upright_twin(tmp_path: Path) -> None:
    turned, wrong, upright = (tmp_path / name for name in ("t.jpg", "w.jpg", "u.png"))
    pixels = photo(120, 80)
    turned.write_bytes(oriented(pixels, 6))
    wrong.write_bytes(oriented(pixels, 8))
    upright.write_bytes(file(np.ascontiguousarray(np.rot90(pixels, -1))))
    result = run("likeness", upright, turned, "--json")
    assert result.exit_code == 0, result.output
    assert json.loads(result.stdout)["likeness"] > 40
    assert json.loads(run("likeness", upright, wrong, "--json").stdout)["likeness"] < 0
    assert run("likeness", upright, upright).stdout.strip() == "100.00"


def test_damage_says_kinds_places_and_strengths(tmp_path: Path, png: Path) -> None:
    blurred = tmp_path / "blurred.png"
    pixels = photo(300, 200)
    pixels[40:120, 100:220] = cv2.GaussianBlur(pixels, (0, 0), 3)[40:120, 100:220]
    blurred.write_bytes(file(pixels))
    (found,) = objects(run("damage", png, blurred, "--json"))
    assert set(found) == {"likeness", "kinds", "spots", "verdict"}
    assert set(found["kinds"]) == {
        "lost-detail", "blocks", "ringing", "banding", "colour-bleeding", "colour-shift",
        "contrast-shift",
    }  # fmt: skip
    spot = found["spots"][0]
    assert set(spot) == {
        "kind", "strength", "level", "left_px", "top_px", "width_px", "height_px",
    }  # fmt: skip
    assert spot["kind"] == "lost-detail"
    assert 90 <= spot["left_px"] + spot["width_px"] / 2 <= 230
    assert "smoothed" in found["verdict"]
    table = run("damage", png, blurred)
    assert table.exit_code == 0
    assert "lost-detail" in table.stdout


def test_damage_refuses_what_cannot_be_compared(tmp_path: Path, png: Path) -> None:
    other = tmp_path / "other.png"
    other.write_bytes(file(photo(200, 300)))
    assert run("damage", png, other).exit_code == 2
    assert run("damage", png).exit_code == 2
    assert run("damage", png, tmp_path / "missing.png").exit_code == 3


def test_likeness_refuses_what_cannot_be_compared(tmp_path: Path, png: Path) -> None:
    other = tmp_path / "other.png"
    other.write_bytes(file(cutout(50, 90)))
    assert run("likeness", png, other).exit_code == 2
    assert run("likeness", png, tmp_path / "missing.png").exit_code == 3


@pytest.mark.parametrize(
    ("looks", "likeness"), [("hard to spot", 80), ("72.5", 72.5), ("best", None)]
)
def test_how_it_should_look_is_a_number_or_words(
    png: Path, looks: str, likeness: float | None
) -> None:
    arguments = ("--limit", "9kB", "--width", 60, "--formats", "jpeg", "--json")
    (fit,) = objects(run("fit", png, *arguments, "--likeness", looks))
    assert fit["likeness"] == likeness
    found = fit["candidates"][0]["likeness"]
    assert found >= (likeness or 0)


def test_what_is_no_likeness_is_refused(png: Path) -> None:
    refused = run("fit", png, "--width", 60, "--likeness", "lovely")
    assert refused.exit_code == 2
    assert "“lovely” is no likeness" in refused.output


def test_an_original_that_its_place_takes_is_offered_repacked_and_as_it_came(
    tmp_path: Path,
) -> None:
    path = tmp_path / "door.jpg"
    path.write_bytes(file(photo(120, 80), "JPEG", quality=95))
    out = tmp_path / "out"
    arguments = ("--limit", "90kB", "--width", 120, "--formats", "jpeg", "--all", "--out", out)
    arguments = (*arguments, "--likeness", "best")
    (fit,) = objects(run("fit", path, *arguments, "--json"))
    originals = [each for each in fit["candidates"] if each["settings"].get("pass_through")]
    assert [each["settings"]["repacked"] for each in originals] == [True, False]
    assert [each["likeness"] for each in originals] == [100, 100]
    packed, plain = (Path(each["file"]).read_bytes() for each in originals)
    assert len(packed) < len(plain) == path.stat().st_size
    assert fit["pick"] == 0
