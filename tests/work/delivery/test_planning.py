from dataclasses import asdict, replace
from pathlib import Path

import pytest

from lean_parcel.core.decisions.acts import change_framing, pick, pick_variant
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.encoding.settings import WebpSettings
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.original.source import Limits
from lean_parcel.core.page import page_acts
from lean_parcel.work.photos.planned_files import PlannedFile, without_heavy
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import HeldExecutor, InlineExecutor
from tests.work.delivery.steps import AIM, TWO, change, packed, take, taken
from tests.workspaces import made_by_hand, settled


def keys(workspace: Workspace) -> list[tuple[float, str]]:
    return [(each.density, each.format) for each in packed(workspace).files]


def test_the_pick_and_its_variants_are_made_and_named(workspace: Workspace) -> None:
    taken(workspace)
    (photo,) = packed(workspace).photos
    assert [file.path for file in photo.files] == [
        "img/rote-tasse-96.webp",
        "img/rote-tasse-96.jpg",
        "img/rote-tasse-48.webp",
        "img/rote-tasse-48.jpg",
    ]
    assert [file.is_pick for file in photo.files] == [True, False, False, False]
    assert all(file.state == "ready" and file.meets_aim for file in photo.files)
    assert photo.handed
    assert (photo.handed.css_width_px, photo.handed.css_height_px) == (48, 32)


def test_nothing_is_made_twice(workspace: Workspace, executor: InlineExecutor) -> None:
    photo_id = taken(workspace)
    calls = executor.calls
    workspace.deciding.undo(photo_id)
    workspace.deciding.redo(photo_id)
    assert len(packed(workspace).files) == 4
    assert executor.calls == calls


def test_without_a_pick_there_is_nothing_to_hand_over(workspace: Workspace) -> None:
    photo_id = taken(workspace)
    workspace.deciding.do(photo_id, pick(None))
    assert packed(workspace).files == []
    with pytest.raises(UsageError) as caught:
        workspace.planning.complete(1)
    assert caught.value.code == "nothing_taken"


def test_another_pick_has_other_variants(workspace: Workspace) -> None:
    photo_id = taken(workspace, variants=Variants())
    assert keys(workspace) == [(2, "webp"), (2, "jpeg")]
    take(workspace, photo_id, "jpeg")
    assert keys(workspace) == [(2, "jpeg")]


def test_what_is_transparent_falls_back_to_png(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("cut.png", file(cutout()), aim=AIM)
    settled(workspace, photo_id)
    take(workspace, photo_id, "webp")
    assert keys(workspace) == [(2, "webp"), (2, "png")]


def test_a_variant_is_looked_at_tuned_and_chosen(workspace: Workspace) -> None:
    photo_id = taken(workspace)
    view = workspace.viewing.photo(photo_id, 1)
    assert (view.density, view.densities) == (1, (2, 1))
    assert view.framed
    assert view.framed.search_input.rungs[0].width_px == 48
    assert len(view.picked_ids) == 2
    assert view.chosen_ids == ()
    tuned = made_by_hand(workspace, photo_id, WebpSettings(quality=11), density=1)
    workspace.deciding.do(photo_id, pick_variant(1, "webp", tuned.id))
    assert workspace.viewing.photo(photo_id, 1).chosen_ids == (tuned.id,)
    (file,) = [f for f in packed(workspace).files if (f.density, f.format) == (1, "webp")]
    assert (file.encode, file.is_chosen) == (tuned, True)
    workspace.deciding.undo(photo_id)
    assert workspace.viewing.photo(photo_id, 1).chosen_ids == ()
    for density, as_format in ((1.0, "jpeg"), (2.0, "webp"), (3.0, "webp")):
        with pytest.raises(NotFoundError):
            workspace.deciding.do(photo_id, pick_variant(density, as_format, tuned.id))  # type: ignore[arg-type]
    with pytest.raises(NotFoundError):
        workspace.viewing.photo(photo_id, 3)


def test_another_framing_makes_other_variants_and_undo_brings_them_back(
    workspace: Workspace,
) -> None:
    photo_id = taken(workspace)
    before = [file.encode for file in packed(workspace).files]
    workspace.deciding.do(photo_id, change_framing({"straighten_deg": 3.0}))
    assert packed(workspace).files == []  # the pick shows another picture
    workspace.deciding.undo(photo_id)
    assert [file.encode for file in packed(workspace).files] == before


def test_variants_go_on_after_the_server_was_killed(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits(), slots=1)
    photo_id = taken(workspace, variants=Variants())
    executor.hold()
    change(workspace, photo_id, {"variants": {"densities": (1,)}})
    assert executor.has_held.wait(10)
    assert workspace.planning.page(1).running == 2
    with pytest.raises(UsageError) as caught:
        workspace.planning.complete(1)
    assert caught.value.code == "not_ready"
    executor.let_go()
    workspace.context.queue.close()  # as a kill would leave it
    workspace.close()
    again = Workspace(tmp_path / "w.sqlite3", InlineExecutor(), Limits())
    again.resume()
    assert len(packed(again).files) == 4
    again.close()


def test_a_workspace_of_an_earlier_version_gets_its_variants(workspace: Workspace) -> None:
    taken(workspace)
    with workspace.context.connection() as connection:
        connection.execute("DELETE FROM search WHERE density > 0")
    assert {file.state for file in workspace.planning.page(1).files} == {"ready", "failed"}
    workspace.resume()
    assert {file.state for file in packed(workspace).files} == {"ready"}


def test_names_follow_the_pattern_or_are_their_own(workspace: Workspace) -> None:
    one, two = taken(workspace), taken(workspace, seed=2)
    workspace.page_editing.do(page_acts.set_delivery(1, {"name_pattern": "{name}@{density}"}))
    workspace.page_editing.do(page_acts.name_file(one, 1, "jpeg", "../Small.PNG"))
    paths = [file.path for file in packed(workspace).files]
    assert paths[:4] == [
        "img/rote-tasse@2x.webp",
        "img/rote-tasse@2x.jpg",
        "img/rote-tasse@1x.webp",
        "img/Small.jpg",
    ]
    assert paths[4] == "img/rote-tasse@2x-2.webp"
    assert len(set(paths)) == 8
    workspace.page_editing.undo()
    assert packed(workspace).files[3].path == "img/rote-tasse@1x.jpg"
    workspace.page_editing.do(page_acts.remove_photos((two,)))
    with pytest.raises(UsageError) as caught:
        workspace.page_editing.do(page_acts.set_delivery(1, {"name_pattern": "{nothing}"}))
    assert caught.value.code == "invalid_pattern"


def test_no_file_has_the_name_of_an_original(workspace: Workspace) -> None:
    taken(workspace, name="cup.jpg", variants=Variants(formats=("jpeg",)))
    workspace.page_editing.do(page_acts.set_delivery(1, {"name_pattern": "{name}"}))
    assert [file.path for file in packed(workspace).files] == ["cup.webp", "cup-2.jpg"]


def test_alternative_texts_are_asked_for_and_undone(workspace: Workspace) -> None:
    photo_id = taken(workspace)
    workspace.page_editing.do(
        page_acts.set_code((photo_id,), {"alt_text": "A cup", "loading": "eager"})
    )
    (photo,) = packed(workspace).photos
    assert photo.handed
    assert (photo.handed.alt_text, photo.handed.loading) == ("A cup", "eager")
    workspace.page_editing.undo()
    assert packed(workspace).photos[0].spot.alt_text is None
    with pytest.raises(UsageError) as caught:
        workspace.page_editing.do(page_acts.set_code((photo_id,), {"alt_text": "x" * 1_001}))
    assert caught.value.code == "invalid_text"


def test_variants_leave_a_photo_its_own_thumbnail(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo(96, 64)), aim=AIM)
    own = settled(workspace, photo_id).photo.thumbnail_sha256
    change(workspace, photo_id, {"variants": asdict(TWO)})
    take(workspace, photo_id, "webp")
    packed(workspace)
    assert settled(workspace, photo_id).photo.thumbnail_sha256 == own


def test_a_variant_is_left_out_that_is_no_lighter_than_what_more_programs_open(
    workspace: Workspace,
) -> None:
    taken(workspace)
    (planned,) = packed(workspace).photos

    def sized(file: PlannedFile, size_bytes: int) -> PlannedFile:
        assert file.encode
        measured = replace(file.encode.measured, size_bytes=size_bytes)
        return replace(file, encode=replace(file.encode, measured=measured))

    webp_2x, jpeg_2x, webp_1x, jpeg_1x = planned.files
    taken_2x = sized(jpeg_2x, 900)
    avif_1x = replace(sized(webp_1x, 300), format="avif")
    for size_2x, size_1x, avif_bytes, left_out in (
        (899, 499, 498, set()),
        (899, 500, 498, {"webp"}),  # heavy at one density, left out at all
        (900, 499, 498, {"webp"}),
        (900, 499, 499, {"webp"}),  # what is left out leaves nothing out
        (899, 499, 499, {"avif"}),  # what opens it opens WebP too
        (899, 499, 500, {"avif"}),
    ):
        files = [
            replace(sized(webp_2x, size_2x), is_pick=False, is_chosen=False),
            taken_2x,
            sized(webp_1x, size_1x),
            sized(jpeg_1x, 500),
            sized(avif_1x, avif_bytes),
        ]
        found = without_heavy(files)
        assert {file.format for file in found if file.state == "left out"} == left_out
        assert all((file.encode is None) == (file.format in left_out) for file in found)
        assert all(file.error for file in found if file.format in left_out)
        chosen = [replace(file, is_chosen=True) for file in files]
        assert without_heavy(chosen) == tuple(chosen)  # a person wanted them


def test_a_credit_is_written_for_a_photo_that_brought_none(workspace: Workspace) -> None:
    photo_id = taken(workspace)
    workspace.page_editing.do(page_acts.set_code((photo_id,), {"credit": "Photo: Ina"}))
    (photo,) = packed(workspace).photos
    assert photo.handed
    assert (photo.credit, photo.handed.credit) == ("Photo: Ina", "Photo: Ina")
    workspace.page_editing.undo()
    assert packed(workspace).photos[0].credit == ""
    for credit in ("x" * 301, "two\nlines"):
        with pytest.raises(UsageError) as caught:
            workspace.page_editing.do(page_acts.set_code((photo_id,), {"credit": credit}))
        assert caught.value.code == "invalid_text"
