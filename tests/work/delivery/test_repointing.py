import os
from pathlib import Path

import pytest

from lean_parcel.core.errors import UsageError
from lean_parcel.work.delivery.repointing import (
    RepointedFile,
    diff_of,
    leftovers,
    repoint_file,
    write_text,
)
from tests.core.packing.handing import old

OLD = [old("cup.jpg", "", "cup"), old("jug.jpg", "img", "jug"), old("bowl.jpg", "", "bowl")]


def done(path: Path) -> RepointedFile:
    return repoint_file(path, OLD, "", as_pictures=False)


@pytest.mark.parametrize(
    "start",
    [b"", b"\xef\xbb\xbf", "<p>é\u2028</p>\r\n".encode(), b"<p>\xe9\x80</p>\n", b"\r\r\n\n"],
)
def test_everything_else_stays_to_the_byte(tmp_path: Path, start: bytes) -> None:
    path = tmp_path / "a.html"
    path.write_bytes(start + b"<img src='cup.jpg'>")
    path.chmod(0o640)
    each = done(path)
    write_text(each.file, each.after)
    assert path.read_bytes() == start + b"<img src='cup-720.jpg'>"
    assert path.stat().st_mode & 0o777 == 0o640
    assert os.listdir(tmp_path) == ["a.html"]


def test_utf_16_with_its_mark_stays_so(tmp_path: Path) -> None:
    path = tmp_path / "a.css"
    path.write_bytes("\ufeffa{b:url(cup.jpg)}\r\n".encode("utf-16-le"))
    each = done(path)
    write_text(each.file, each.after)
    assert path.read_bytes().decode("utf-16-le") == "\ufeffa{b:url(cup-720.jpg)}\r\n"


def test_a_link_stays_a_link(tmp_path: Path) -> None:
    (tmp_path / "real.html").write_text("<img src='cup.jpg'>")
    link = tmp_path / "link.html"
    link.symlink_to("real.html")
    each = done(link)
    write_text(each.file, each.after)
    assert link.is_symlink()
    assert (tmp_path / "real.html").read_text() == "<img src='cup-720.jpg'>"


def test_a_diff_has_all_lines_and_how_the_last_ends(tmp_path: Path) -> None:
    path = tmp_path / "a.html"
    path.write_text("<p>\n<img src='cup.jpg'>")
    assert diff_of(done(path)).splitlines()[-4:] == [
        "-<img src='cup.jpg'>",
        "\\ No newline at end of file",
        "+<img src='cup-720.jpg'>",
        "\\ No newline at end of file",
    ]
    path.write_text("<p>")
    assert diff_of(done(path)) == ""


def test_what_nothing_names_any_more_is_told(tmp_path: Path) -> None:
    path = tmp_path / "a.html"
    path.write_text("<img src='cup.jpg'>")
    left = leftovers(OLD, [done(path).found])
    assert [photo.name for photo in left.never] == ["jug.jpg", "bowl.jpg"]
    assert [photo.name for photo in left.no_more] == ["cup.jpg"]


def test_what_cannot_be_read_is_told(tmp_path: Path) -> None:
    with pytest.raises(UsageError) as caught:
        done(tmp_path / "missing.html")
    assert caught.value.code == "text_unreadable"
