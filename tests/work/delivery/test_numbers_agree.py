"""What a page weighs is one number, wherever it is told."""

import io
import json
import zipfile
from pathlib import Path

import pytest

from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.page import page_acts
from lean_parcel.web.responses.page.pages import PagesResponse
from lean_parcel.work.delivery.packing_list import LIST_NAME, packing_list_html, read_packing_list
from lean_parcel.work.delivery.verifying import verify
from lean_parcel.work.pages.balancing import BalanceWish
from lean_parcel.work.workspace import Workspace
from tests.work.delivery.steps import change, packed, take, taken

PAGE = 1
#: With a denser file and newer formats beside each JPEG that is taken.
VARIANTS = Variants(densities=(1, 3), formats=("avif", "webp"))


@pytest.fixture
def balanced(workspace: Workspace) -> Workspace:
    """A page for screens of 2×, whose JPEGs were balanced, with all variants of them made; one
    stands at a density of its own."""
    workspace.page_editing.do(page_acts.change_settings(PAGE, {"density": 2.0}))
    for seed in (1, 2, 3):
        photo_id = taken(workspace, name=f"cup-{seed}.png", variants=VARIANTS, seed=seed)
        if seed == 3:
            change(workspace, photo_id, {"density": 1.0, "variants": {"densities": (2,)}})
        take(workspace, photo_id, "jpeg")
    packed(workspace)
    workspace.page_editing.do(page_acts.set_budget(PAGE, 6_000))
    view = workspace.balancing.view(PAGE, BalanceWish())
    workspace.balancing.take(PAGE, {photo.spot.photo_id: photo.after.id for photo in view.photos})
    packed(workspace)
    return workspace


def test_a_balanced_page_with_variants_weighs_the_same_in_all_places(
    balanced: Workspace, tmp_path: Path
) -> None:
    balanced.sending.out = tmp_path
    folder = balanced.sending.written(PAGE).folder
    archive = zipfile.ZipFile(io.BytesIO(b"".join(balanced.sending.zipped(PAGE))))
    listed = read_packing_list(archive.read(LIST_NAME))
    (page,) = PagesResponse.of(balanced.page_viewing.pages()).pages
    visit = balanced.visits.begin(PAGE, window_css_px=1_440, density=page.settings.density)
    row = balanced.page_viewing.row(page.photos[0].id)
    told = {
        "header and page": page.totals.fetched_bytes,
        "rows": sum(photo.fetched_bytes or 0 for photo in page.photos),
        "one row": row.totals.fetched_bytes,
        "balance": balanced.balancing.view(PAGE, BalanceWish()).spent_bytes,
        "pack": sum(
            photo.handed.fetched.size_bytes for photo in packed(balanced).photos if photo.handed
        ),
        "archive": sum(len(archive.read(photo.handed.fetched.path)) for photo in listed.photos),
        "packing list": listed.totals.fetched_bytes,
        "verify": verify(folder).listed.totals.fetched_bytes,
        "site": sum(file.size_bytes for _, file in visit.plan()),
    }
    assert len(set(told.values())) == 1, told
    fetched_bytes = page.totals.fetched_bytes
    assert 0 < fetched_bytes <= 6_000
    assert page.totals.left_bytes == 6_000 - fetched_bytes
    for photo in page.photos:
        assert photo.pick
        assert photo.fetched_bytes
        if photo.aim.place.density == 2:
            assert photo.fetched_bytes <= photo.pick.size_bytes
        else:  # screens of 2× fetch its variant, which has more pixels
            assert photo.fetched_bytes != photo.pick.size_bytes
    assert "browser of today fetches" in packing_list_html(listed)
    assert json.loads(archive.read(LIST_NAME))["budget_bytes"] == 6_000
