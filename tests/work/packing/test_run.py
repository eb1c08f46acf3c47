"""Packing folders, with every task in this process."""

import hashlib
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import pytest

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.work.packing.earlier import Earlier
from lean_parcel.work.packing.lists import write_lists
from lean_parcel.work.packing.run import Packed, PackOptions, PackRun
from lean_parcel.work.packing.sources import find_sources
from lean_parcel.work.workspace import Workspace
from tests.builders import file, photo
from tests.executors import InlineExecutor
from tests.workspaces import all_settled

ONE = Variants(formats=())
AIM = Aim(place=Place(size="60"), limit_bytes=2_500, formats=("jpeg", "webp"), variants=ONE)
TREATMENT = Treatment(framing=Framing(metadata="nothing"), aim=AIM)


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
    return replace(PackOptions(treatment=TREATMENT, folder=out, jobs=2), **rest)  # type: ignore[arg-type]


def packed(
    sources: Sequence[Path], chosen: PackOptions, executor: InlineExecutor | None = None
) -> list[Packed]:
    chosen.folder.mkdir(exist_ok=True)
    earlier = Earlier(chosen.folder)
    found = find_sources(sources, earlier.made())
    path = chosen.folder / ".run.sqlite3"
    workspace = Workspace(path, executor or InlineExecutor(), Limits(), slots=chosen.jobs)
    try:
        done = list(PackRun(workspace, found.photos, chosen, earlier).packed())
    finally:
        workspace.close()
    write_lists(chosen.folder, found.photos, done, chosen.budget_bytes, None, earlier)
    return done


def sizes(done: Sequence[Packed]) -> list[int]:
    return [each.best.measured.size_bytes for each in done if each.best]


def files(folder: Path) -> list[str]:
    return sorted(
        str(p.relative_to(folder))
        for p in folder.rglob("[!.]*")
        if p.is_file() and not p.name.startswith("packing-list")
    )


def test_folders_are_walked_to_their_end_in_a_stable_order(folder: Path) -> None:
    found = find_sources([folder, folder / "Cup.png"])
    names = [str(source.path.relative_to(folder)) for source in found.photos]
    assert names == ["Cup.png", "no-extension", "sub/Cup.jpg"]
    assert found.passed_over == 2


def test_photos_of_one_name_get_different_ones(folder: Path, tmp_path: Path) -> None:
    done = packed([folder], options(tmp_path / "out"))
    assert all(each.meets_aim for each in done)
    names = files(tmp_path / "out")
    assert len(names) == 3
    assert {each.file.name for each in done if each.file} == set(names)


def test_folders_are_kept_and_names_follow_their_pattern(folder: Path, tmp_path: Path) -> None:
    done = packed(
        [folder], options(tmp_path / "out", keeps_tree=True, names="{name}-{width}-Hero 2")
    )
    assert done[2].file
    assert done[2].file.parent == tmp_path / "out/sub"
    assert all("-60-Hero-2" in name for name in files(tmp_path / "out"))


def test_a_run_that_was_cut_off_goes_on_where_it_stopped(folder: Path, tmp_path: Path) -> None:
    executor, out = InlineExecutor(), options(tmp_path / "out")
    (first,) = packed([folder / "Cup.png"], out, executor)
    whole = packed([folder], out, executor)
    before = executor.calls
    lost = whole[1].file
    assert lost
    lost.unlink()
    again = packed([folder], out, executor)
    assert executor.calls == before
    assert lost.exists()
    assert sizes(again) == sizes(whole)
    assert [each.file for each in again] == [each.file for each in whole]
    assert again[0].file == first.file


def test_other_options_and_changed_photos_are_packed_anew(folder: Path, tmp_path: Path) -> None:
    executor, out = InlineExecutor(), options(tmp_path / "out", replaces=True)
    packed([folder], out, executor)
    before = executor.calls
    (folder / "Cup.png").write_bytes(file(photo(60, 40, 9)))
    packed([folder], out, executor)
    assert executor.calls > before
    lighter = replace(TREATMENT, aim=replace(AIM, limit_bytes=1_500))
    done = packed([folder], replace(out, treatment=lighter), executor)
    assert len(done) == 3
    assert all(size_bytes <= 1_500 for size_bytes in sizes(done))


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
    tight = replace(TREATMENT, aim=replace(AIM, limit_bytes=40))
    (each, *_) = packed([folder], options(tmp_path / "out", treatment=tight))
    assert each.file is None
    assert each.best
    assert not each.meets_aim
    assert files(tmp_path / "out") == []


@pytest.mark.parametrize("budget_bytes", [4_000, 6_000])
def test_a_budget_is_shared_out_and_kept(folder: Path, tmp_path: Path, budget_bytes: int) -> None:
    executor = InlineExecutor()
    out = options(tmp_path / "out", budget_bytes=budget_bytes)
    done = packed([folder], out, executor)
    assert 0.8 * budget_bytes < sum(sizes(done)) <= budget_bytes
    assert [each.file.stat().st_size for each in done if each.file] == sizes(done)
    calls = executor.calls
    assert sizes(packed([folder], out, executor)) == sizes(done)
    assert executor.calls == calls


def test_a_photo_that_joins_a_budget_gets_its_share(folder: Path, tmp_path: Path) -> None:
    out = options(tmp_path / "out", budget_bytes=5_000, replaces=True)
    alone = packed([folder / "Cup.png"], out)
    together = packed([folder], out)
    assert sum(sizes(together)) <= 5_000
    assert len(together) == 3
    assert sizes(together)[0] < sizes(alone)[0]


def test_originals_are_not_kept(folder: Path, tmp_path: Path) -> None:
    packed([folder], options(tmp_path / "out"))
    data = (folder / "Cup.png").read_bytes()
    kept = (tmp_path / "out/.run.sqlite3").read_bytes()
    assert data[200:600] not in kept


VARIED = replace(
    AIM,
    place=Place(size="30"),
    variants=Variants(densities=(2,), formats=("jpeg", "webp"), rule="pixels"),
)


def test_the_page_hands_out_the_same_files(folder: Path, tmp_path: Path) -> None:
    treatment = replace(TREATMENT, aim=VARIED)
    photos = [folder / "Cup.png", folder / "no-extension"]
    done = packed(photos, options(tmp_path / "out", treatment=treatment))
    workspace = Workspace(
        tmp_path / "page.sqlite3", InlineExecutor(), Limits(), out=tmp_path / "page"
    )
    named = workspace.selections.add_treatment("Card", treatment)
    ids = [workspace.adding.add_photo(path.name, path.read_bytes()) for path in photos]
    workspace.selections.treat(ids, named)
    all_settled(workspace)
    assert workspace.selections.take(ids) == 2
    all_settled(workspace)
    written = workspace.sending.written(1)
    workspace.close()
    assert all(each.listed and len(each.listed.files) > 1 for each in done)
    by_run = {name: (tmp_path / "out" / name).read_bytes() for name in files(tmp_path / "out")}
    by_page = {name: (written.folder / name).read_bytes() for name in files(written.folder)}
    assert by_run == by_page


def test_an_original_that_is_the_best_there_is_is_kept(tmp_path: Path) -> None:
    data = file(photo(60, 40, 5), "WEBP", quality=60, method=6)
    (tmp_path / "cup.webp").write_bytes(data)
    (each,) = packed([tmp_path / "cup.webp"], options(tmp_path / "out"))
    assert each.file
    assert each.file.read_bytes() == data
    assert each.best
    assert each.best.measured.likeness == 100


def test_originals_are_not_kept_where_nothing_was_written(folder: Path, tmp_path: Path) -> None:
    tight = replace(TREATMENT, aim=replace(AIM, limit_bytes=40))
    packed([folder], options(tmp_path / "out", treatment=tight))
    kept = (tmp_path / "out/.run.sqlite3").read_bytes()
    assert (folder / "Cup.png").read_bytes()[200:600] not in kept
