"""The balance of thirty photos against the same bytes spent evenly: the worst one, and the mean."""

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from statistics import mean

from benchmarks.batches import AIM, files
from lean_parcel.core.balance.allocation import NO_MORE_SEEN, Objective
from lean_parcel.core.original.source import Limits
from lean_parcel.work.pages.balancing import BalanceView, BalanceWish
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool
from lean_parcel.work.workspace import Workspace


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """Likeness, as far as it is seen, of the worst photo and on average; the encodes that were made
    for it; and by how much it could be off either way, at most."""

    spent: str
    bytes: int
    worst: float
    mean: float
    encodes: int = 0
    uncertainty: float = 0.0


def measure() -> list[Row]:
    """Every photo under the same limit; then what they weigh together, balanced for either aim."""
    pool = WorkerPool(PoolSettings())
    try:
        list(pool.map(len, [[]] * 4))
        with tempfile.TemporaryDirectory() as folder:
            workspace = Workspace(Path(folder) / "bench.sqlite3", pool, Limits())
            for name, data in files().items():
                workspace.adding.add_photo(name, data, aim=AIM)
            rows = _rows(workspace)
            workspace.close()
    finally:
        pool.shutdown(cancel_futures=True)
    return rows


def _rows(workspace: Workspace) -> list[Row]:
    seen = -1
    while any(p.search_state == "running" for p in workspace.page_viewing.pages().photos.values()):
        seen = workspace.changes.wait(seen, 10).version
    photos = workspace.page_viewing.pages().photos.values()
    even = [photo.best.measured for photo in photos if photo.best]
    spent = sum(each.size_bytes for each in even)
    rows = [_row("evenly", spent, [each.likeness for each in even])]
    objectives: dict[Objective, str] = {"worst": "for the worst", "all": "for all together"}
    for objective, words in objectives.items():
        view = _balanced(workspace, BalanceWish(objective=objective, spend_bytes=spent))
        likenesses = [photo.after.measured.likeness for photo in view.photos]
        row = _row(
            words,
            view.spent_bytes,
            likenesses,
            encodes=view.made,
            uncertainty=max(photo.uncertainty for photo in view.photos),
        )
        rows.append(row)
    return rows


def _balanced(workspace: Workspace, wish: BalanceWish) -> BalanceView:
    """A balance once all that decides was made."""
    (page,) = workspace.page_viewing.layout().pages
    workspace.balancing.measure(page.id, wish)
    made, seen = 0, -1
    while (view := workspace.balancing.view(page.id, wish)).is_measuring:
        made = view.made
        seen = workspace.changes.wait(seen, 10).version
    return replace(view, made=made)


def _row(
    spent: str,
    size_bytes: int,
    likenesses: Sequence[float],
    encodes: int = 0,
    uncertainty: float = 0.0,
) -> Row:
    seen = [min(likeness, NO_MORE_SEEN) for likeness in likenesses]
    return Row(
        spent=spent,
        bytes=size_bytes,
        worst=min(seen),
        mean=mean(seen),
        encodes=encodes,
        uncertainty=uncertainty,
    )
