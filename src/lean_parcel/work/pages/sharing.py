"""The photos of a page with all that was measured of them, to share out the page's bytes."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from sqlite3 import Connection

from lean_parcel.core.balance.allocation import NO_MORE_SEEN, Objective, Share
from lean_parcel.core.balance.doubts import Doubt, Outlook, trial_for
from lean_parcel.core.candidates.delivered import trial_under
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.state import plan_of
from lean_parcel.core.encoding.held import with_held
from lean_parcel.core.encoding.settings import is_draft
from lean_parcel.core.page.layout import Page, Spot
from lean_parcel.store import encodes, framed, inspections, journal, photos
from lean_parcel.store.encodes import Encode
from lean_parcel.work.searches.subject import Subject


@dataclass(slots=True)
class Sharer:
    """A photo of a page, and the encodes of it that it could get; more may be made."""

    spot: Spot
    subject: Subject
    encodes: list[Encode] = field(default_factory=list)
    made: set[Trial] = field(default_factory=set)

    def add(self, encode: Encode) -> None:
        """Takes in an encode that was made."""
        self.made.add(encode.trial)
        if self._may_get(encode.trial):
            self.encodes.append(encode)

    @property
    def importance(self) -> float:
        """How much it counts: by the area at which it stands, in CSS pixels, times its weight."""
        subject = self.subject
        standing = subject.state.aim.place.standing(
            plan_of(subject.state, subject.photo.source).box
        )
        return self.spot.weight * standing.css_width_px * standing.css_height_px

    def share(self, least_likeness: float, weight: float) -> Share:
        """What it can get, no worse than this or what it asks for itself."""
        own, looks = self.spot.least_likeness, self.subject.state.aim.likeness
        return Share(
            options=tuple(encode.measured for encode in self.encodes),
            weight=weight,
            least_likeness=least_likeness if own is None else own,
            most_bytes=self.spot.most_bytes,
            enough=NO_MORE_SEEN if looks is None else looks,
        )

    def missing(self, doubt: Doubt) -> Trial | None:
        """The encode that a doubt about it asks for; None where there is none to be made."""
        trials = [encode.trial for encode in self.encodes]
        return trial_for(doubt, trials, [encode.measured for encode in self.encodes], self.made)

    def _may_get(self, trial: Trial) -> bool:
        """Whether an encode is what the photo's state would offer, at full effort."""
        state, is_transparent = self.subject.state, self.subject.row.search_input.is_transparent
        settings = trial.settings
        loses_alpha = is_transparent and settings.format == "jpeg"
        full_px = self.subject.row.search_input.rungs[0].width_px
        return (
            settings.format in state.aim.formats
            and (state.aim.may_have_fewer_pixels or trial.width_px >= full_px)
            and not loses_alpha
            and not is_draft(settings)
            and with_held(settings, state.aim.held) == settings
            and trial_under(trial, state.framing, is_transparent=is_transparent) == trial
        )


def shares_of(sharers: Sequence[Sharer], least_likeness: float) -> list[Share]:
    """What photos can get, each of a weight by its importance, 1 on average."""
    importances = [sharer.importance for sharer in sharers]
    mean = sum(importances) / max(1, len(importances))
    return [
        sharer.share(least_likeness, importance / mean)
        for sharer, importance in zip(sharers, importances, strict=True)
    ]


def outlook_of(
    sharers: Sequence[Sharer], shares: Sequence[Share], budget_bytes: int, objective: Objective
) -> Outlook:
    """What these photos would get of a budget, with the encodes that can be made of them."""
    return Outlook(
        shares, budget_bytes, objective, lambda doubt: sharers[doubt.photo].missing(doubt)
    )


def sharers_of(connection: Connection, page: Page) -> tuple[list[Sharer], list[Spot]]:
    """The photos of a page of which something was measured as they are framed now, and the spots of
    those that have to be weighed first."""
    ids = [spot.photo_id for spot in page.spots]
    rows, states = photos.get_all(connection, ids), journal.states_of(connection, ids)
    policies = {i: state.framing.metadata for i, state in states.items()}
    sizes = inspections.sizes_of_all(connection, policies)
    found, unweighed = [], []
    for spot in page.spots:
        photo, state = rows[spot.photo_id], states[spot.photo_id]
        plan = plan_of(state, photo.source)
        row = framed.find(connection, photo.original_sha256, plan)
        sharer = None
        if row and photo.id in sizes:
            subject = Subject(photo=photo, state=state, row=row, sizes=sizes[photo.id])
            sharer = _filled(connection, Sharer(spot, subject))
        if sharer and sharer.encodes:
            found.append(sharer)
        else:
            unweighed.append(spot)
    return found, unweighed


def _filled(connection: Connection, sharer: Sharer) -> Sharer:
    subject = sharer.subject
    for encode in encodes.of_framed(connection, subject.row.id, subject.sizes):
        sharer.add(encode)
    return sharer
