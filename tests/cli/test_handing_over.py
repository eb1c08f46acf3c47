"""From a folder of photos to the references of a site, on the command line."""

import json
import os
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner, Result
from PIL import Image

from lean_parcel.cli import main
from tests.builders import file, photo


def run(*arguments: object) -> Result:
    return CliRunner().invoke(main, [str(argument) for argument in arguments])


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A site with two photos, packed in two densities and formats."""
    folder = tmp_path_factory.mktemp("site")
    for name, seed in (("img/Cup.png", 1), ("img/deep/Jug.png", 2)):
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(file(photo(90, 60, seed)))
    result = run(
        "pack", folder / "img", "--out", folder / "new", "--width", 45, "--limit", "6kB",
        "--densities", "1,2", "--variants", "webp,jpeg", "--formats", "webp", "--keep-tree",
        "--names", "{name}-{density}", "--html", folder / "code.html",
    )  # fmt: skip
    assert result.exit_code == 0, result.output
    assert "and 3 variants" in result.stdout
    return folder


def listed(site: Path) -> dict[str, Any]:
    value: dict[str, Any] = json.loads((site / "new/packing-list.json").read_text())
    return value


def test_every_variant_is_there_and_listed(site: Path) -> None:
    files = {each["path"]: each for p in listed(site)["photos"] for each in p["files"]}
    assert set(files) == {
        "cup-1x.webp", "cup-1x.jpg", "cup-2x.webp", "cup-2x.jpg",
        "deep/jug-1x.webp", "deep/jug-1x.jpg", "deep/jug-2x.webp", "deep/jug-2x.jpg",
    }  # fmt: skip
    for path, each in files.items():
        assert (site / "new" / path).stat().st_size == each["size_bytes"] <= 6_000
        assert each["worst"] is not None
        with Image.open(site / "new" / path) as image:
            assert image.size == (each["width_px"], each["height_px"])
        assert each["stands_for_px"] == 45 * each["density"]


def test_variants_in_formats_that_were_searched_already_are_there(tmp_path: Path) -> None:
    (tmp_path / "Cup.png").write_bytes(file(photo(60, 40, 1)))
    result = run(
        "pack", tmp_path / "Cup.png", "--out", tmp_path / "new", "--width", 30, "--limit", "6kB",
        "--densities", "1,2", "--variants", "avif,jpeg",
    )  # fmt: skip
    assert result.exit_code == 0, result.output
    names = {path.name for path in (tmp_path / "new").iterdir()}
    assert names >= {"cup-30.avif", "cup-30.jpg"}


def test_page_code_names_the_files_from_where_it_is(site: Path) -> None:
    code = (site / "code.html").read_text()
    assert 'srcset="new/cup-1x.webp 45w, new/cup-2x.webp 90w"' in code
    assert 'src="new/deep/jug-1x.jpg"' in code


def test_a_second_run_does_nothing_and_keeps_the_list(site: Path) -> None:
    before = {path: path.stat().st_mtime_ns for path in (site / "new").rglob("*.webp")}
    list_before = listed(site)
    again = run(
        "pack", site / "img", "--out", site / "new", "--width", 45, "--limit", "6kB",
        "--densities", "1,2", "--variants", "webp,jpeg", "--formats", "webp", "--keep-tree",
        "--names", "{name}-{density}",
    )  # fmt: skip
    assert again.exit_code == 0, again.output
    assert before == {path: path.stat().st_mtime_ns for path in (site / "new").rglob("*.webp")}
    assert listed(site) == list_before


def test_a_delivery_is_verified_for_continuous_integration(site: Path, tmp_path: Path) -> None:
    right = run("verify", site / "new")
    assert (right.exit_code, right.stdout) == (0, "8 files as listed.\n")
    copy = tmp_path / "copy"
    copy.mkdir()
    (copy / "packing-list.json").write_text((site / "new/packing-list.json").read_text())
    wrong = run("verify", copy, "--json")
    assert wrong.exit_code == 1
    value = json.loads(wrong.stdout)
    assert not value["is_right"]
    assert {finding["problem"] for finding in value["findings"]} == {"missing"}
    assert run("verify", tmp_path).exit_code == 2
    assert "cannot be read" in run("verify", tmp_path).stderr


def test_references_are_shown_and_only_changed_when_asked(site: Path, tmp_path: Path) -> None:
    page, style = tmp_path / "index.html", tmp_path / "style.css"
    page.write_bytes(b'<p>\r\n<img src="img/Cup.png">\r\n<img src="logo.svg"></p>')
    style.write_text("a { background: url(other.jpg) }\n")
    before = page.read_bytes()
    shown = run("repoint", site / "new/packing-list.json", page, style, tmp_path / "no.js")
    assert shown.exit_code == 3
    assert '+<img src="img/cup-1x.jpg">' in shown.stdout
    assert page.read_bytes() == before
    assert "Cup.png: nothing that was read names it any more" in shown.stderr
    assert "nothing is known of them: " in shown.stderr
    assert "deep/Jug.png: nothing that was read names it." in shown.stderr
    assert "other.jpg is not in the packing list" in shown.stderr
    assert "no.js cannot be read" in shown.stderr
    done = run(
        "repoint", site / "new/packing-list.json", page, "--write", "--prefix", "/n", "--json"
    )
    assert done.exit_code == 0
    value = json.loads(done.stdout)
    assert value["files"][0]["is_written"]
    assert value["no_more_named"] == [{"file": "Cup.png", "size_bytes": file_bytes(site)}]
    assert page.read_bytes() == before.replace(b"img/Cup.png", b"/n/cup-1x.jpg")


def test_a_text_of_another_kind_is_searched_and_changed_only_where_that_is_said(
    site: Path, tmp_path: Path
) -> None:
    """A photo that such a text names is never said to be named nowhere: it might be deleted."""
    data = tmp_path / "cups.yml"
    data.write_text("hero: /img/Cup.png\n")
    packing_list = site / "new/packing-list.json"
    told = run("repoint", packing_list, data, "--write")
    assert (told.exit_code, told.stdout) == (0, "")
    assert data.read_text() == "hero: /img/Cup.png\n"
    assert "cups.yml:1: Cup.png stands here, and may be no reference" in told.stderr
    assert "Cup.png: still named" in told.stderr
    assert "Cup.png: nothing names it" not in told.stderr
    assert "deep/Jug.png: nothing names it." in told.stderr
    value = json.loads(run("repoint", packing_list, data, "--json").stdout)
    assert value["files"][0]["mentions"] == [{"line": 1, "photos": ["Cup.png"]}]
    assert [each["file"] for each in value["still_mentioned"]] == ["Cup.png"]
    assert [each["file"] for each in value["never_named"]] == ["deep/Jug.png"]
    taken = run("repoint", packing_list, data, "--write", "--literal")
    assert data.read_text() == "hero: /img/cup-1x.jpg\n"
    assert "Cup.png: nothing names it any more" in taken.stderr


@pytest.mark.parametrize(
    ("options", "address"),
    [
        ((), "/of-the-list/cup-1x.jpg"),
        (("--prefix", "/n"), "/n/cup-1x.jpg"),
        (("--prefix", ""), "img/cup-1x.jpg"),
    ],
)
def test_without_a_prefix_that_of_the_list_is_used(
    site: Path, tmp_path: Path, options: tuple[str, ...], address: str
) -> None:
    packing_list, page = tmp_path / "packing-list.json", tmp_path / "index.html"
    packing_list.write_text(json.dumps({**listed(site), "path_prefix": "/of-the-list/"}))
    page.write_text('<img src="img/Cup.png">')
    assert run("repoint", packing_list, page, "--write", *options).exit_code == 0
    assert page.read_text() == f'<img src="{address}">'


def file_bytes(site: Path) -> int:
    return (site / "img/Cup.png").stat().st_size


def test_an_img_becomes_a_picture_where_asked(site: Path, tmp_path: Path) -> None:
    page = tmp_path / "index.html"
    page.write_text('<img src="img/Cup.png" alt="A cup">')
    run("repoint", site / "new/packing-list.json", page, "--write", "--pictures")
    text = page.read_text()
    assert text.startswith("<picture>")
    assert 'alt="A cup"' in text
    assert 'srcset="img/cup-1x.webp 45w, img/cup-2x.webp 90w"' in text


def test_wrong_usage_is_told(site: Path, tmp_path: Path) -> None:
    photos, out = site / "img", tmp_path / "out"
    common = ("--out", out, "--width", 45, "--limit", "6kB")
    for options in (
        ("--names", "{nothing}"), ("--densities", "x"), ("--densities", "9"),
        ("--variants", "gif"),
    ):  # fmt: skip
        assert run("pack", photos, *common, *options).exit_code == 2, options
    (tmp_path / "list.json").write_text("{}")
    page = tmp_path / "a.html"
    page.write_text("")
    wrong = run("repoint", tmp_path / "list.json", page)
    assert wrong.exit_code == 2
    assert "no packing list" in wrong.stderr


def test_a_list_of_somebody_else_is_kept(site: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    out.mkdir()
    (out / "packing-list.json").write_text('{"mine": 1}')
    result = run("pack", site / "img/Cup.png", "--out", out, "--width", 45, "--limit", "6kB")
    assert result.exit_code == 2
    assert "packing-list.json" in result.stderr
    assert (out / "packing-list.json").read_text() == '{"mine": 1}'
    (out / "packing-list.json").unlink()
    (out / "packing-list.html").write_text("my own")
    result = run("pack", site / "img/Cup.png", "--out", out, "--width", 45, "--limit", "6kB")
    assert result.exit_code == 2
    assert [each.name for each in out.iterdir()] == ["packing-list.html"]
    assert (out / "packing-list.html").read_text() == "my own"


@pytest.mark.parametrize("name", ["Cup.png", "CUP.PNG", "other.jpg", "out/packing-list.json"])
def test_page_code_is_never_written_over_a_picture_or_a_list(tmp_path: Path, name: str) -> None:
    picture = file(photo(90, 60, 5))
    for each in ("Cup.png", "other.jpg"):
        (tmp_path / each).write_bytes(picture)
    options = ("--out", tmp_path / "out", "--width", 45, "--limit", "6kB", "--replace")
    result = run("pack", tmp_path / "Cup.png", *options, "--html", tmp_path / name)
    assert result.exit_code == 2
    assert {(tmp_path / each).read_bytes() for each in ("Cup.png", "other.jpg")} == {picture}


def test_a_second_run_keeps_the_files_of_the_first_in_its_list(site: Path, tmp_path: Path) -> None:
    cup, out = site / "img/Cup.png", tmp_path / "out"
    jug = tmp_path / "Jug.png"
    jug.write_bytes(file(photo(90, 60, 5)))
    for arguments in ((cup, "--width", 45), (jug, "--width", 45), (cup, "--width", 90)):
        assert run("pack", *arguments, "--out", out, "--limit", "6kB").exit_code == 0
    listed = json.loads((out / "packing-list.json").read_text())
    assert [each["old"]["name"] for each in listed["photos"]] == ["Cup.png", "Jug.png"]
    paths = {file["path"] for each in listed["photos"] for file in each["files"]}
    earlier = {file["path"] for each in listed["photos"] for file in each["earlier_files"]}
    assert len(paths) == 2
    assert len(earlier) == 1
    there = {each.name for each in out.iterdir() if not each.name.startswith(".")}
    assert there == paths | earlier | {"packing-list.json", "packing-list.html"}
    assert run("verify", out).exit_code == 0
    (out / earlier.pop()).write_bytes(b"changed")
    assert run("verify", out).exit_code == 1


def test_names_that_are_no_text_are_packed_and_listed(tmp_path: Path) -> None:
    odd = os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9\x1b[2J.png")
    Path(odd).write_bytes(file(photo(90, 60, 5)))
    missing = os.fsdecode(os.fsencode(tmp_path) + b"/l\xe0.png")
    out = tmp_path / "out"
    result = run("pack", odd, missing, "--out", out, "--width", 45, "--limit", "6kB")
    assert result.exit_code == 3
    assert "\x1b" not in result.output
    listed = json.loads((out / "packing-list.json").read_text())
    assert listed["photos"][0]["old"]["name"] == "caf\ufffd\ufffd[2J.png"
    assert listed["left_out"] == ["l\ufffd.png"]
    assert run("verify", out).exit_code == 0


@pytest.mark.parametrize(
    ("where", "value"),
    [
        (("photos", 0, "files", 0, "path"), "x' onerror=alert(1) y='.jpg"),
        (("photos", 0, "files", 0, "path"), "../cup.jpg"),
        (("photos", 0, "files", 0, "path"), "/cup.jpg"),
        (("photos", 0, "files", 0, "path"), "cup.html"),
        (("path_prefix",), "javascript:alert(1)//"),
        (("photos", 0, "old", "name"), "cup\x1b]0;owned\x07.png"),
        (("page",), "\x1b[2J"),
        (("photos", 0, "reason"), "so\x9b31m"),
    ],
)
def test_a_list_from_anywhere_is_held_to_our_own_rules(
    site: Path, tmp_path: Path, where: tuple[str | int, ...], value: str
) -> None:
    out, page = tmp_path / "out", tmp_path / "page.html"
    run("pack", site / "img/Cup.png", "--out", out, "--width", 45, "--limit", "6kB")
    listed = json.loads((out / "packing-list.json").read_text())
    inner = listed
    for step in where[:-1]:
        inner = inner[step]
    inner[where[-1]] = value
    (out / "packing-list.json").write_text(json.dumps(listed))
    page.write_text("<img src='Cup.png'>")
    for arguments in (("verify", out), ("repoint", out / "packing-list.json", page, "--write")):
        result = run(*arguments)
        assert result.exit_code == 2
        assert not set(result.output) & set("\x1b\x07\x9b")
    assert page.read_text() == "<img src='Cup.png'>"


def test_a_prefix_on_the_command_line_is_held_to_them_too(site: Path, tmp_path: Path) -> None:
    out, page = tmp_path / "out", tmp_path / "page.html"
    run("pack", site / "img/Cup.png", "--out", out, "--width", 45, "--limit", "6kB")
    page.write_text("<img src='Cup.png'>")
    options = ("--write", "--prefix", "javascript:alert(1)//")
    assert run("repoint", out / "packing-list.json", page, *options).exit_code == 2
    assert page.read_text() == "<img src='Cup.png'>"
