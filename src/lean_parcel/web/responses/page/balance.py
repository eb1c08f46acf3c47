"""Balances and batches of a page."""

from lean_parcel.core.balance.allocation import Objective
from lean_parcel.core.size import format_size
from lean_parcel.web.responses.photo.encodes import EncodeResponse
from lean_parcel.web.responses.told import Told
from lean_parcel.work.pages.balancing import BalancedPhoto, BalanceView, mean_of, worst_of
from lean_parcel.work.pages.batches import BatchState, BatchView


class BalancedPhotoResponse(Told):
    """A photo before and after, and the bytes that are fetched of it then; whether that is heavier
    or less alike than it asks for itself;
    its likeness is expected to change by `uncertainty`, either way, once what decides is
    measured."""

    photo_id: int
    name: str
    weight: float
    before: EncodeResponse | None
    fetched_bytes: int | None
    after: EncodeResponse
    after_bytes: int
    is_too_heavy: bool
    is_too_unlike: bool
    uncertainty: float

    @classmethod
    def of(cls, photo: BalancedPhoto) -> "BalancedPhotoResponse":
        """From a balance."""
        aim = photo.sharer.subject.state.aim
        return cls.of_all(
            photo,
            photo.spot,
            before=EncodeResponse.of(photo.before, aim) if photo.before else None,
            after=EncodeResponse.of(photo.after, aim),
        )


class BalanceResponse(Told):
    """A balance: the likeness of the worst photo and the mean by weight, before (where all have a
    pick) and after; what is spent of what; how sure it is; and one sentence on that."""

    objective: Objective
    least_likeness: float
    budget_bytes: int
    spent_bytes: int
    missing_bytes: int
    photos: list[BalancedPhotoResponse]
    unweighed: list[str]
    worst_before: float | None
    worst_after: float | None
    mean_before: float | None
    mean_after: float | None
    doubts: int
    made: int
    is_measuring: bool
    sentence: str

    @classmethod
    def of(cls, view: BalanceView) -> "BalanceResponse":
        """From a balance."""
        return cls.of_all(
            view,
            view.wish,
            photos=[BalancedPhotoResponse.of(photo) for photo in view.photos],
            unweighed=[spot.name for spot in view.unweighed],
            worst_before=worst_of(view.photos, before=True),
            worst_after=worst_of(view.photos, before=False),
            mean_before=mean_of(view.photos, before=True),
            mean_after=mean_of(view.photos, before=False),
            sentence=" ".join(filter(None, [*map(_unmet, view.photos), _sentence(view)])),
        )


def _unmet(photo: BalancedPhoto) -> str:
    """What a photo asks for itself that nothing measured meets; empty where all is met."""
    name, spot = photo.spot.name, photo.spot
    if photo.is_too_heavy and spot.most_bytes:
        return f"Nothing measured of {name} is within its {format_size(spot.most_bytes)}."
    if photo.is_too_unlike:
        return f"Nothing measured of {name} has its likeness {spot.least_likeness:g}."
    return ""


def _sentence(view: BalanceView) -> str:
    if not view.photos:
        return "None of the photos is weighed yet."
    if view.missing_bytes:
        return _what_would_help(view)
    if view.is_measuring:
        return "The encodes that decide are being made; the answer becomes surer."
    if view.doubts:
        photos = "One photo misses" if view.doubts == 1 else f"{view.doubts} photos miss"
        return f"{photos} an encode about where it should be. Measure on to be sure."
    return "All that decides is measured."


def _what_would_help(view: BalanceView) -> str:
    heaviest = max(view.photos, key=lambda photo: photo.after.measured.size_bytes)
    missing = format_size(view.missing_bytes)
    needs = format_size(heaviest.after.measured.size_bytes)
    reachable = view.reachable_likeness
    fits = (
        f"; likeness {reachable:.1f} everywhere would fit"
        if reachable is not None and reachable > float("-inf")
        else ""
    )
    return (
        f"{missing} too little for that{fits}. {heaviest.spot.name} needs the most, {needs};"
        " fewer pixels there, or another format, would help most."
    )


class BatchResponse(Told):
    """How far a batch is; `words` is null where the page has none. `left_s` is the estimated time
    that is left."""

    words: str | None = None
    begun_at: str | None = None
    state: BatchState = "done"
    photo_ids: tuple[int, ...] = ()
    ended: int = 0
    failed: int = 0
    left_s: float | None = None

    @classmethod
    def of(cls, view: BatchView | None) -> "BatchResponse":
        """From a batch, if there is one."""
        return cls.of_all(view, view.batch) if view else cls()
