"""The pages with which a demo begins: some photos picked, one that cannot meet its limit, one that
nobody has weighed yet."""

import logging
from collections.abc import Iterable, Sequence
from concurrent.futures import CancelledError

from lean_parcel import demo
from lean_parcel.core.decisions.acts import Pick
from lean_parcel.core.errors import LeanParcelError
from lean_parcel.core.page.acts import AddPage, RenamePage, SetBudget
from lean_parcel.demo import Sample
from lean_parcel.work.workspace import Workspace

_log = logging.getLogger(__name__)
_NOT_WEIGHED = "kiln-night.jpg"
PICKED = (
    "red-cup-blue-door.jpg",
    "opening-hours.jpg",
    "bottle-cutout.png",
    "dusk-window.jpg",
    "studio-poster.png",
)


def load_pages(
    workspace: Workspace,
    samples: Sequence[Sample] | None = None,
    picked: Iterable[str] = PICKED,
) -> None:
    """Adds demo photos, or all of them, to an empty workspace, and picks the best of some as they
    are found; ends early when the workspace is closed."""
    try:
        photo_ids = _add(workspace, demo.samples() if samples is None else samples)
        for file in picked:
            _pick_best(workspace, photo_ids[file])
    except (LeanParcelError, CancelledError):
        if not workspace.changes.is_closed:
            _log.exception("the demo could not be loaded")


def _add(workspace: Workspace, samples: Sequence[Sample]) -> dict[str, int]:
    page_ids = _add_pages(workspace)
    photo_ids = {}
    for sample in samples:
        photo_ids[sample.file] = workspace.adding.add_photo(
            sample.file,
            demo.original(sample.file),
            name=sample.title,
            aim=sample.aim,
            page_id=page_ids[sample.page],
        )
        if sample.file == _NOT_WEIGHED:
            workspace.deciding.stop_search(photo_ids[sample.file])
    return photo_ids


def _add_pages(workspace: Workspace) -> dict[str, int]:
    """The ids of the demo's pages, of which the first is the one that is there."""
    do = workspace.page_editing.do
    page_ids = {}
    for index, page in enumerate(demo.sample_pages()):
        if index == 0:
            page_id = workspace.page_viewing.pages().layout.pages[0].id
            do(RenamePage(page_id, page.name))
        else:
            page_id = do(AddPage(page.name)).pages[-1].id
        do(SetBudget(page_id, page.budget_bytes))
        page_ids[page.key] = page_id
    return page_ids


def _pick_best(workspace: Workspace, photo_id: int) -> None:
    seen = -1
    while not workspace.changes.is_closed:
        shown = workspace.page_viewing.pages().photos[photo_id]
        if shown.search_state != "running":
            if shown.best:
                workspace.deciding.do(photo_id, Pick(shown.best.id))
            return
        seen = workspace.changes.wait(seen, 10).version
