from dataclasses import replace
from pathlib import Path

import numpy as np

from lean_parcel.core.decisions.acts import change_framing
from lean_parcel.core.formats import FORMATS
from lean_parcel.core.original.findings import Finding
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.box import Box
from lean_parcel.work.workspace import Workspace
from tests.builders import cutout, file, photo
from tests.executors import HeldExecutor
from tests.workspaces import AIM, settled


def test_findings_and_margins_are_of_the_photo_as_it_is_turned(workspace: Workspace) -> None:
    framed = np.full((80, 120, 3), 255, np.uint8)
    framed[10:70, 30:100] = photo(70, 60)
    photo_id = workspace.adding.add_photo("a.png", file(framed), aim=AIM)
    findings, _ = workspace.viewing.findings(photo_id)
    assert [finding.topic for finding in findings][:2] == ["format", "pixels"]
    inside = workspace.viewing.margins(photo_id)
    assert inside == Box(left_px=30, top_px=10, width_px=70, height_px=60)
    workspace.deciding.do(photo_id, change_framing({}, turn="right"))
    turned = workspace.viewing.margins(photo_id)
    assert turned == Box(left_px=10, top_px=30, width_px=60, height_px=70)


def test_what_was_never_inspected_is_inspected_when_somebody_looks(workspace: Workspace) -> None:
    """A workspace of an earlier version knows less."""
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    settled(workspace, photo_id)
    before = workspace.viewing.findings(photo_id)
    with workspace.context.connection() as connection:
        connection.execute("DELETE FROM inspection")
    assert workspace.viewing.findings(photo_id) == before
    with workspace.context.connection() as connection:
        assert connection.execute("SELECT count(*) FROM inspection").fetchone()[0] == 1


def test_encodes_come_with_how_they_compare(workspace: Workspace) -> None:
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    encodes = settled(workspace, photo_id).encodes
    by_id = {encode.id: encode for encode in encodes.made}
    best_of_each = [by_id[encode_id] for encode_id in encodes.best_so_far_ids.values()]
    assert max(encode.measured.size_bytes for encode in best_of_each) <= AIM.limit_bytes
    assert encodes.default_id == encodes.candidate_ids[0]
    for name in FORMATS:
        edge = [by_id[encode_id].measured for encode_id in encodes.edge_ids[name]]
        assert edge == sorted(edge, key=lambda point: (point.size_bytes, point.likeness))
    for encode in encodes.made:
        if not encode.trial.is_pass_through:
            size_bytes, likeness = encode.measured.size_bytes, encode.measured.likeness
            to_there = [p.likeness for p in encodes.frontier if p.size_bytes <= size_bytes + 0.1]
            assert max(to_there) >= likeness - 1e-9


def test_before_anything_has_ended_the_quickest_format_is_shown(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    photo_id = workspace.adding.add_photo("a.png", file(cutout()), aim=AIM)
    settled(workspace, photo_id)
    executor.hold()
    workspace.deciding.do(photo_id, change_framing({"background": "#102030"}))
    assert executor.has_held.wait(10)
    view = workspace.viewing.photo(photo_id)
    assert view.search.state == "running"
    shown = next(e for e in view.encodes.made if e.id == view.encodes.default_id)
    assert shown.id == view.encodes.best_so_far_ids[shown.trial.settings.format]
    executor.let_go()
    settled(workspace, photo_id)
    workspace.close()


def test_nothing_ruined_is_shown_first_while_something_better_may_come(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    ruined = replace(AIM, limit_bytes=500, likeness=None)
    photo_id = workspace.adding.add_photo("a.png", file(cutout()), aim=ruined)
    settled(workspace, photo_id)
    executor.hold()
    workspace.deciding.do(photo_id, change_framing({"background": "#102030"}))
    assert executor.has_held.wait(10)
    running = workspace.viewing.photo(photo_id)
    assert running.search.state == "running"
    assert running.encodes.best_so_far_ids
    assert running.encodes.default_id is None
    executor.let_go()
    ended = settled(workspace, photo_id)
    assert ended.encodes.default_id == ended.encodes.candidate_ids[0]
    assert ended.encodes.candidates[0].measured.likeness < 50
    workspace.close()


def test_the_measured_winner_takes_the_place_of_the_advice(tmp_path: Path) -> None:
    executor = HeldExecutor()
    workspace = Workspace(tmp_path / "w.sqlite3", executor, Limits())
    photo_id = workspace.adding.add_photo("a.png", file(photo()), aim=AIM)
    best = settled(workspace, photo_id).encodes.candidates[0]
    advice = _advice(workspace, photo_id)
    assert advice.title.endswith(("looks best here", "is lightest here"))
    assert f"{best.measured.likeness:.1f}" in advice.note or best.trial.is_pass_through
    executor.hold()
    workspace.deciding.do(photo_id, change_framing({}, turn="left"))
    assert _advice(workspace, photo_id).title.startswith("Begin with")
    executor.let_go()
    workspace.close()


def _advice(workspace: Workspace, photo_id: int) -> Finding:
    findings, _ = workspace.viewing.findings(photo_id)
    return next(finding for finding in findings if finding.topic == "advice")
