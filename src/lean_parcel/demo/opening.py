"""The pages with which a demo begins: some photos picked, one that cannot meet its limit, one that
nobody has weighed yet."""

import logging

from lean_parcel import demo
from lean_parcel.core.errors import LeanParcelError
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


def load_pages(workspace: Workspace) -> None:
    """Adds the demo photos to an empty workspace, and takes the best of some, as they are found;
    ends early when the workspace is closed."""
    try:
        photo_ids = _add(workspace)
        for file in PICKED:
            _pick_best(workspace, photo_ids[file])
    except (LeanParcelError, RuntimeError):  # RuntimeError: the workers are gone
        if not workspace.changes.is_closed:
            _log.exception("the demo could not be loaded")


def _add(workspace: Workspace) -> dict[str, int]:
    page_ids = {}
    for index, page in enumerate(demo.sample_pages()):
        if index == 0:
            page_ids[page.key] = workspace.pages.view().layout.pages[0].id
            workspace.pages.rename_page(page_ids[page.key], page.name)
        else:
            page_ids[page.key] = workspace.pages.add_page(page.name)
        workspace.pages.set_budget(page_ids[page.key], page.budget_bytes)
    photo_ids = {}
    for sample in demo.samples():
        photo_ids[sample.file] = workspace.add_photo(
            sample.file,
            demo.original(sample.file),
            name=sample.title,
            aim=sample.aim,
            page_id=page_ids[sample.page],
        )
        if sample.file == _NOT_WEIGHED:
            workspace.stop_search(photo_ids[sample.file])
    return photo_ids


def _pick_best(workspace: Workspace, photo_id: int) -> None:
    seen = -1
    while not workspace.changes.is_closed:
        shown = workspace.pages.view().photos[photo_id]
        if shown.search_state != "running":
            if shown.best:
                workspace.set_pick(photo_id, shown.best.id)
            return
        seen, _ = workspace.changes.wait(seen, 10)
