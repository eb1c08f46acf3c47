"""Packing folders, with every task in this process."""

import hashlib
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.work.packing.photo import Treating
from lean_parcel.work.packing.record import FILE_NAME, Record
from lean_parcel.work.packing.run import Packed, PackOptions, PackRun, record_options
from lean_parcel.work.packing.sources import find_sources
from tests.builders import file, photo
from tests.executors import InlineExecutor

AIM = Aim(place=Place(css_width_px=60), limit_bytes=2_500, formats=("jpeg", "webp"))
TREATING = Treating(framing=Framing(metadata="nothing"), aim=AIM, limits=Limits())


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """Two photos of one name, one below the other; what is hidden, and what is no picture."""
    for name, seed in (("in/Cup.png", 1), ("in/sub/Cup.jpg", 2), ("in/.trash/old.png", 3)):
        path = tmp_path / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(file(photo(60, 40, seed)))
    (tmp_path / "in/notes.txt").write_text("no picture")
    (tmp_path / "in/no-extension").write_bytes(file(photo(60, 40, 4)))
    return tmp_path / "in"


def options(out: Path, **rest: object) -> PackOptions:
    return replace(PackOptions(treating=TREATING, folder=out, jobs=2), **rest)  # type: ignore[arg-type]


def packed(
    sources: Sequence[Path], chosen: PackOptions, executor: InlineExecutor | None = None
) -> list[Packed]:
    chosen.folder.mkdir(exist_ok=True)
    record = Record(chosen.folder, record_options(chosen))
    found = find_sources(sources, record.made_before())
    run = PackRun(executor or InlineExecutor(), found.photos, chosen, record)
    return list(run.packed())


def files(folder: Path) -> list[str]:
    return sorted(
        str(p.relative_to(folder)) for p in folder.rglob("*") if p.is_file() and p.name != FILE_NAME
    )


def test_folders_are_walked_to_their_end_in_a_stable_order(folder: Path) -> None:
    found = find_sources([folder, folder / "Cup.png"])
    names = [str(source.path.relative_to(folder)) for source in found.photos]
    assert names == ["Cup.png", "no-extension", "sub/Cup.jpg"]
    assert found.passed_over == 2


def test_photos_of_one_name_get_different_ones(folder: Path, tmp_path: Path) -> None:
    done = packed([folder], options(tmp_path / "out"))
    assert all(each.values and each.values["within_limit"] for each in done)
    names = files(tmp_path / "out")
    assert len(names) == 3
    assert {each.file.name for each in done if each.file} == set(names)


def test_folders_are_kept_and_names_follow_their_pattern(folder: Path, tmp_path: Path) -> None:
    done = packed(
        [folder], options(tmp_path / "out", keeps_tree=True, names="{name}-{width}-Hero 2")
    )
    assert done[2].file
    assert done[2].file.parent == tmp_path / "out/sub"
    assert all("-60-hero-2" in name for name in files(tmp_path / "out"))


def test_a_run_that_was_cut_off_goes_on_where_it_stopped(folder: Path, tmp_path: Path) -> None:
    executor, out = InlineExecutor(), options(tmp_path / "out")
    whole = packed([folder], out, executor)
    before = executor.calls
    assert [each.values for each in packed([folder], out, executor)] == [e.values for e in whole]
    assert executor.calls == before
    lost = whole[1].file
    assert lost
    lost.unlink()
    with (out.folder / FILE_NAME).open("a") as record:
        record.write('{"half a li')
    again = packed([folder], out, executor)
    assert before < executor.calls < 2 * before
    assert lost.exists()
    done = executor.calls
    packed([folder], out, executor)
    assert executor.calls == done
    assert [each.file for each in again] == [each.file for each in whole]


def test_other_options_and_changed_photos_are_packed_anew(folder: Path, tmp_path: Path) -> None:
    executor, out = InlineExecutor(), options(tmp_path / "out", replaces=True)
    packed([folder], out, executor)
    before = executor.calls
    (folder / "Cup.png").write_bytes(file(photo(60, 40, 9)))
    packed([folder], out, executor)
    assert executor.calls > before
    lighter = replace(TREATING, aim=replace(AIM, limit_bytes=1_500))
    for each in packed([folder], replace(out, treating=lighter), executor):
        assert each.values
        assert each.values["size_bytes"] <= 1_500


def test_originals_are_untouched_even_in_their_own_folder(folder: Path) -> None:
    (folder / "cup-60.webp").write_bytes(file(photo(60, 40, 7), "WEBP", lossless=True))
    (folder / "cup-60.jpg").write_bytes(file(photo(60, 40, 8), "JPEG", quality=95))
    before = {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    out = options(folder, replaces=True)
    first = packed([folder], out)
    assert all(path.read_bytes() == data for path, data in before.items())
    again = packed([folder], out)
    assert [each.photo for each in again] == [each.photo for each in first]


def test_a_name_that_differs_in_case_only_is_that_of_an_original(tmp_path: Path) -> None:
    (tmp_path / "Cup.png").write_bytes(file(photo(60, 40, 1)))
    for name in ("CUP-60.WEBP", "Cup-60.JPG", "Cup-60.jpg", "cup-60.Webp"):
        (tmp_path / name).write_bytes(file(photo(60, 40, 7), "WEBP", lossless=True))
    done = packed([tmp_path], options(tmp_path, replaces=True))
    names = {each.file.name for each in done if each.file}
    assert not {name.lower() for name in names} & {"cup-60.webp", "cup-60.jpg"}


@pytest.mark.parametrize("replaces", [False, True])
def test_a_photo_that_joins_gets_a_name_of_its_own(
    folder: Path, tmp_path: Path, replaces: bool
) -> None:
    out = options(tmp_path / "out", replaces=replaces)
    (before,) = packed([folder / "sub/Cup.jpg"], out)
    joined, after = packed([folder / "Cup.png", folder / "sub/Cup.jpg"], out)
    assert before.file == after.file
    assert joined.file
    assert joined.file != after.file
    assert after.listed
    for listed in (joined.listed, after.listed):
        assert listed
        for each in listed.files:
            data = (out.folder / each.path).read_bytes()
            assert hashlib.sha256(data).hexdigest() == each.sha256


def test_files_that_are_there_are_kept_unless_they_are_to_be_replaced(
    folder: Path, tmp_path: Path
) -> None:
    out = options(tmp_path / "out")
    (wanted, *_) = packed([folder / "Cup.png"], out)
    assert wanted.file
    (out.folder / FILE_NAME).unlink()
    wanted.file.write_text("somebody else's")
    (kept,) = packed([folder / "Cup.png"], out)
    assert (kept.file, kept.was_kept) == (None, wanted.file)
    assert wanted.file.read_text() == "somebody else's"
    (replaced,) = packed([folder / "Cup.png"], replace(out, replaces=True))
    assert replaced.file == wanted.file
    assert wanted.file.read_bytes() != b"somebody else's"


def test_one_bad_photo_harms_no_other(folder: Path, tmp_path: Path) -> None:
    (folder / "broken.jpg").write_bytes(file(photo(60, 40), "JPEG")[:300])
    done = packed([folder, tmp_path / "missing.jpg"], options(tmp_path / "out"))
    errors = [each.photo.name for each in done if each.error]
    assert errors == ["broken.jpg", "missing.jpg"]
    assert sum(each.file is not None for each in done) == 3


def test_what_does_not_fit_is_told_and_not_written(folder: Path, tmp_path: Path) -> None:
    tight = replace(TREATING, aim=replace(AIM, limit_bytes=40))
    (each, *_) = packed([folder], options(tmp_path / "out", treating=tight))
    assert each.file is None
    assert each.values
    assert not each.values["within_limit"]
    assert files(tmp_path / "out") == []


@pytest.mark.parametrize("budget_bytes", [4_000, 6_000])
def test_a_budget_is_shared_out_and_kept(folder: Path, tmp_path: Path, budget_bytes: int) -> None:
    executor = InlineExecutor()
    out = options(tmp_path / "out", budget_bytes=budget_bytes)
    done = packed([folder], out, executor)
    sizes = [each.values["size_bytes"] for each in done if each.values]
    assert 0.8 * budget_bytes < sum(sizes) <= budget_bytes
    assert [each.file.stat().st_size for each in done if each.file] == sizes
    calls = executor.calls
    again = packed([folder], out, executor)
    assert [each.values for each in again] == [each.values for each in done]
    assert executor.calls == calls
