"""The pages with which a demo begins: weighed beforehand, so that it opens complete.

The workspace that ships has everything but what is large: originals and encoded files, which ship
beside it, and framed pixels, which are made where somebody looks. `make demo-workspace` makes it,
through the same acts that people do.
"""

import shutil
from collections.abc import Iterable, Sequence
from importlib import resources
from pathlib import Path

from lean_parcel import demo
from lean_parcel.core.decisions import acts
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.page_settings import PageSettings
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.framing.framing import FIRST_FRAMING
from lean_parcel.core.framing.place import Place
from lean_parcel.core.page import page_acts
from lean_parcel.demo import Sample
from lean_parcel.work.workspace import Workspace

#: The workspace, and the folder of encoded files by their hashes.
WEIGHED, WEIGHED_FILES = "weighed.sqlite3", "weighed"
_NOT_WEIGHED = "kiln-night.jpg"
#: What is taken at once; and what stands over its limit, since.
_PICKED = (
    "dusk-window.jpg",
    "opening-hours.jpg",
    "red-cup-blue-door.jpg",
    "bottle-cutout.png",
    "studio-poster.png",
    "shelves-phone.jpg",
)
_OVER, _OVER_LIMIT_BYTES, _REASON = "speckled-glaze.jpg", 95_000, "the glaze is what we sell"
#: The page that is packed for two densities, and the photo of it whose alternative text is missing
#: still; the picture that opens it.
_PACKED, _WITHOUT_ALT, _OPENING = "home", "red-cup-blue-door.jpg", "dusk-window.jpg"
_TREATED, _TREATMENT = "red-cup-blue-door.jpg", "Cups and bowls, three to a row"


def open_weighed(path: Path) -> None:
    """Puts the demo where there is no workspace yet."""
    if not path.exists():
        shipped = resources.files("lean_parcel.demo") / WEIGHED
        with resources.as_file(shipped) as file:
            path.parent.mkdir(parents=True, exist_ok=True)
            part = path.with_name(f".{path.name}.part")
            shutil.copyfile(file, part)
            part.replace(path)


def bring_files(workspace: Workspace) -> None:
    """Brings the originals and the encoded files of the demo."""
    encoded = resources.files("lean_parcel.demo") / WEIGHED_FILES
    workspace.adding.bring_back(demo.original(sample.file) for sample in demo.samples())
    workspace.adding.bring_back(file.read_bytes() for file in encoded.iterdir())


def load_pages(workspace: Workspace, samples: Iterable[Sample] | None = None) -> None:
    """Adds demo photos, or all of them, to an empty workspace, weighs them, and decides what a
    person would have decided."""
    chosen = list(demo.samples() if samples is None else samples)
    ids = _add(workspace, chosen)
    if _OVER in ids:
        _keep_over_its_limit(workspace, ids[_OVER])
    _wait_until_weighed(workspace)
    if _TREATED in ids:
        workspace.selections.keep_treatment(ids[_TREATED], _TREATMENT)
    workspace.selections.take([ids[file] for file in _PICKED if file in ids])
    _pack(workspace, [sample for sample in chosen if sample.page == _PACKED], ids)


def _pack(workspace: Workspace, samples: Sequence[Sample], ids: dict[str, int]) -> None:
    """Decides how the photos of a page are handed over: what they show, for which densities."""
    do = workspace.page_editing.do
    for sample in samples:
        if sample.file != _WITHOUT_ALT:
            do(page_acts.set_code((ids[sample.file],), {"alt_text": sample.alt}))
    if _OPENING in ids:
        at_once = {"loading": "eager", "fetch_priority": "high"}
        do(page_acts.set_code((ids[_OPENING],), at_once))
    packed = [ids[sample.file] for sample in samples]
    if packed:
        workspace.selections.change_aims(packed, {"variants": {"densities": (1.0,)}})
    _wait_until_packed(workspace)


def _wait_until_packed(workspace: Workspace) -> None:
    seen = -1
    pages = workspace.page_viewing.layout().pages
    while any(workspace.planning.page(page.id).running for page in pages):
        seen = workspace.changes.wait(seen, 10).version


def _add(workspace: Workspace, samples: Iterable[Sample]) -> dict[str, int]:
    page_ids = _add_pages(workspace)
    photo_ids = {}
    for sample in samples:
        page = workspace.page_viewing.layout().page(page_ids[sample.page])
        photo_ids[sample.file] = workspace.adding.add_photo(
            sample.file,
            demo.original(sample.file),
            name=sample.title,
            treatment=_of_sample(sample, page.settings),
            page_id=page.id,
        )
        if sample.file == _NOT_WEIGHED:
            workspace.deciding.stop_search(photo_ids[sample.file])
    return photo_ids


def _of_sample(sample: Sample, settings: PageSettings) -> Treatment:
    """What its page has, but for the size, and for a limit of its own."""
    aim = Aim(
        place=Place(size=sample.size, density=settings.density),
        limit_bytes=sample.limit_bytes or settings.limit_bytes,
        likeness=settings.likeness,
    )
    return Treatment(framing=FIRST_FRAMING, aim=aim, by_picture=True)


def _add_pages(workspace: Workspace) -> dict[str, int]:
    """The ids of the demo's pages, of which the first is the one that is there."""
    do = workspace.page_editing.do
    page_ids = {}
    for index, page in enumerate(demo.sample_pages()):
        if index == 0:
            page_id = workspace.page_viewing.layout().pages[0].id
            do(page_acts.rename_page(page_id, page.name))
        else:
            page_id = do(page_acts.add_page(page.name)).pages[-1].id
        do(page_acts.set_budget(page_id, page.budget_bytes))
        settings = {"density": page.density, "limit_bytes": page.limit_bytes}
        do(page_acts.change_settings(page_id, settings))
        page_ids[page.key] = page_id
    return page_ids


def _keep_over_its_limit(workspace: Workspace, photo_id: int) -> None:
    """Takes the best under a limit of its own, and lets it follow the page then."""
    workspace.selections.change_aims([photo_id], {"limit_bytes": _OVER_LIMIT_BYTES})
    _wait_until_weighed(workspace)
    best = workspace.page_viewing.rows([photo_id])[photo_id].best
    if best:
        workspace.selections.follow_page([photo_id], ["limit_bytes"])
        workspace.deciding.do(photo_id, acts.pick(best.id, _REASON))


def _wait_until_weighed(workspace: Workspace) -> None:
    seen = -1
    while any(
        row.search_state == "running" for row in workspace.page_viewing.pages().photos.values()
    ):
        seen = workspace.changes.wait(seen, 10).version
