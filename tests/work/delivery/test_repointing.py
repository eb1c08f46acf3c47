import os
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import TaskTimedOut, UsageError
from lean_parcel.core.packing.references.edits import with_hunks
from lean_parcel.work.delivery import repointing
from lean_parcel.work.delivery.repointing import (
    References,
    RepointedFile,
    TextFile,
    diff_of,
    leftovers,
    repoint_file,
    repoint_text,
    write_text,
)
from lean_parcel.work.queue.work_queue import WorkQueue
from tests.core.packing.handing import old
from tests.executors import HeldExecutor

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


def applied(diff: str, text: str) -> str:
    """A text with a unified diff done to it."""
    lines, out, at = text.split("\n"), [], 0
    for line in diff.replace("\n\\ No newline at end of file", "").split("\n")[2:-1]:
        if line.startswith("@@"):
            begin = int(line.split()[1][1:].split(",")[0]) - 1
            out += lines[at:begin]
            at = begin
        elif line[0] == "+":
            out.append(line[1:])
        else:
            assert lines[at] == line[1:]
            out += [lines[at]] if line[0] == " " else []
            at += 1
    return "\n".join([*out, *lines[at:]])


@given(st.lists(st.sampled_from(["<p>", "<img src='cup.jpg'>", "", "<img src='jug.jpg'>x"])))
def test_a_diff_makes_the_new_text_of_the_old_one(lines: list[str]) -> None:
    text = "\n".join(lines)
    found = repoint_text("a.html", text, OLD, "", False)
    taken = frozenset(range(len(found.hunks)))
    after = with_hunks(text, found.hunks, taken)
    source = TextFile(path=Path("a.html"), text=text, mark=b"", encoding="utf-8")
    diff = diff_of(RepointedFile(file=source, found=found, taken=taken, after=after))
    assert (applied(diff, text) if diff else text) == after
    plain = diff.replace("\n\\ No newline at end of file", "")
    counts = re.findall(r"@@ -\d+(?:,(\d+))? \+\d+(?:,(\d+))? @@\n((?:[ +-].*\n?)+)", plain)
    assert len(counts) == plain.count("@@ -")
    for old_lines, new_lines, body in counts:
        signs = [line[0] for line in body.splitlines()]
        assert int(old_lines or 1) == signs.count(" ") + signs.count("-")
        assert int(new_lines or 1) == signs.count(" ") + signs.count("+")


@pytest.mark.parametrize("encoding", ["utf-16-le", "utf-16-be"])
def test_what_may_be_utf_16_without_its_mark_is_not_said_to_be_read(
    tmp_path: Path, encoding: str
) -> None:
    path = tmp_path / "a.html"
    for data in ("<img src='cup.jpg'>".encode(encoding), b"\xff\xfe<\0i\0m\0g\0 "):
        path.write_bytes(data)
        with pytest.raises(UsageError) as caught:
            done(path)
        assert caught.value.code == "text_unreadable"


def test_of_names_that_a_guessed_encoding_may_hide_nothing_is_said(tmp_path: Path) -> None:
    photos = [old("Röte.jpg", "", "r"), *OLD]
    path = tmp_path / "a.html"
    path.write_bytes("<img src='Röte.jpg'> é".encode("cp437"))
    each = repoint_file(path, photos, "", as_pictures=False)
    assert [photo.name for photo in leftovers(photos, [each]).never] == [
        "cup.jpg", "jug.jpg", "bowl.jpg",
    ]  # fmt: skip


def test_texts_are_read_one_at_a_time_and_only_texts() -> None:
    executor = HeldExecutor()
    queue = WorkQueue(executor, slots=2)
    references = References(queue)
    executor.hold()
    texts = [("a.html", "<img src='cup.jpg'>")] * 3
    with ThreadPoolExecutor(2) as threads:
        asked = [
            threads.submit(references.find, texts, OLD, "", as_pictures=False) for _ in range(2)
        ]
        assert executor.has_held.wait(10)
        assert executor.held_count == 1
        executor.let_go()
        assert all(len(each.result(timeout=30)) == 3 for each in asked)
    with pytest.raises(UsageError):
        references.find([("a.html", "a\0b")], OLD, "", as_pictures=False)
    queue.close()


def test_texts_that_take_too_long_are_given_up_together(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(repointing, "_LONGEST_S", 0.3)
    executor = HeldExecutor()
    queue = WorkQueue(executor, slots=2)
    references = References(queue)
    executor.hold()
    texts = [("a.html", "<img src='cup.jpg'>")] * 3
    with ThreadPoolExecutor(2) as threads:
        asked = [
            threads.submit(references.find, texts, OLD, "", as_pictures=False) for _ in range(2)
        ]
        for each in asked:
            with pytest.raises(TaskTimedOut):
                each.result(timeout=30)
    executor.let_go()
    assert len(references.find(texts, OLD, "", as_pictures=False)) == 3
    queue.close()


def test_what_nothing_names_any_more_is_told(tmp_path: Path) -> None:
    path = tmp_path / "a.html"
    path.write_text("<img src='cup.jpg'>")
    left = leftovers(OLD, [done(path)])
    assert [photo.name for photo in left.never] == ["jug.jpg", "bowl.jpg"]
    assert [photo.name for photo in left.no_more] == ["cup.jpg"]


def test_what_cannot_be_read_is_told(tmp_path: Path) -> None:
    with pytest.raises(UsageError) as caught:
        done(tmp_path / "missing.html")
    assert caught.value.code == "text_unreadable"
