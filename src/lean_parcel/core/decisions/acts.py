"""Acts on one photo, as plain values: each can be stored, and repeated on other photos.

`done` does an act: a state before and the original in, the state after out.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from lean_parcel.core.decisions.aim import PageAim
from lean_parcel.core.decisions.marks import Mark, checked, marks_turned
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.treatment import Treatment, treated
from lean_parcel.core.decisions.variants import VariantPick, plan_at
from lean_parcel.core.errors import UsageError
from lean_parcel.core.eye.outcome import Outcome
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.framing import TURNS, Framing, Turn, cropped, rescaled, turned
from lean_parcel.core.framing.plan import plan_framing
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import inverse, shown_size_px

MAX_REASON = 200
_PLACE_FIELDS = frozenset({"css_width_px", "css_height_px", "fit", "density", "pixel_by_pixel"})


@dataclass(frozen=True, slots=True)
class ChangeAim:
    """Replaces fields of the aim, and of its place, by name; of `variants` those that are given."""

    changes: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class ChangeFraming:
    """Turns the picture first, if asked to; then replaces fields of the framing by name, `crop`
    among them, where None is no crop."""

    changes: Mapping[str, Any]
    turn: Turn | None = None


@dataclass(frozen=True, slots=True)
class ResetFraming:
    """Takes back what depends on the single picture: turns, crop, straightening and focus."""


@dataclass(frozen=True, slots=True)
class ChangeMarks:
    """Replaces all marked areas."""

    marks: tuple[Mark, ...]


@dataclass(frozen=True, slots=True)
class KeepOutcome:
    """Keeps what came of blind rounds."""

    outcome: Outcome


@dataclass(frozen=True, slots=True)
class Treat:
    """Does a treatment, which has an id among those to choose from."""

    treatment: Treatment
    treatment_id: int | None = None


@dataclass(frozen=True, slots=True)
class FollowPage:
    """Takes limit and likeness from the page, as its default has them."""

    default: PageAim


@dataclass(frozen=True, slots=True)
class Pick:
    """Takes an encode as the pick, or puts the pick back with None; over the limit with a
    `reason`."""

    encode_id: int | None
    reason: str = ""


@dataclass(frozen=True, slots=True)
class PickVariant:
    """Chooses an encode for a density and a format, or what is found there with None."""

    density: float
    format: Format
    encode_id: int | None


@dataclass(frozen=True, slots=True)
class GiveReason:
    """Says why a pick stands over its limit."""

    reason: str


Act = (
    ChangeAim
    | ChangeFraming
    | ResetFraming
    | ChangeMarks
    | KeepOutcome
    | Treat
    | FollowPage
    | Pick
    | PickVariant
    | GiveReason
)


def done(act: Act, state: State, source: Source) -> State:
    """The state after an act. A pick that no longer shows the photo as it is framed is put back.

    Raises UsageError for values that cannot be.
    """
    match act:
        case ChangeAim(changes):
            after = _with_aim(state, changes)
        case ChangeFraming(changes, turn):
            after = replace(
                state,
                framing=_reframed(state.framing, changes, turn, source),
                marks=_turned_marks(state, turn, source),
            )
        case ResetFraming():
            upright = marks_turned(
                state.marks, inverse(state.framing.orientation), _turned_px(state, source)
            )
            after = replace(state, framing=_reset(state.framing), marks=upright)
        case ChangeMarks(marks):
            after = replace(state, marks=checked(marks, *_turned_px(state, source)))
        case Treat(treatment, treatment_id):
            after = replace(treated(state, treatment, source), treatment_id=treatment_id)
        case FollowPage(default):
            aim = replace(state.aim, limit_bytes=default.limit_bytes, likeness=default.likeness)
            after = replace(state, aim=aim, follows_page=True)
        case KeepOutcome() | Pick() | PickVariant() | GiveReason():
            return _noted(act, state)
    if _plan(state, source) != _plan(after, source):
        after = replace(after, picked_encode_id=None)
    return replace(after, variant_picks=_still_right(state, after, source))


def _still_right(before: State, after: State, source: Source) -> tuple[VariantPick, ...]:
    """The chosen variants that a photo would still be framed and encoded to."""
    if _behind(before) != _behind(after):
        return ()
    return tuple(
        pick
        for pick in before.variant_picks
        if _plan_at(before, source, pick.density) == _plan_at(after, source, pick.density)
    )


def _behind(state: State) -> tuple[str, str]:
    return state.framing.metadata, state.framing.background


def _noted(act: KeepOutcome | Pick | PickVariant | GiveReason, state: State) -> State:
    """The state after an act that changes no file."""
    match act:
        case KeepOutcome(outcome):
            return replace(state, outcomes=(*state.outcomes, outcome))
        case Pick(encode_id, reason):
            return replace(state, picked_encode_id=encode_id, reason=_tidy_reason(reason))
        case PickVariant(density, name, encode_id):
            rest = [p for p in state.variant_picks if (p.density, p.format) != (density, name)]
            if encode_id is not None:
                rest.append(VariantPick(density=density, format=name, encode_id=encode_id))
            return replace(state, variant_picks=tuple(rest))
        case GiveReason(reason):
            return replace(state, reason=_tidy_reason(reason))


def _turned_px(state: State, source: Source) -> tuple[int, int]:
    return shown_size_px(source.width_px, source.height_px, state.framing.orientation)


def _turned_marks(state: State, turn: Turn | None, source: Source) -> tuple[Mark, ...]:
    if turn is None:
        return state.marks
    return marks_turned(state.marks, TURNS[turn], _turned_px(state, source))


def _with_aim(state: State, changes: Mapping[str, Any]) -> State:
    of_place = {name: value for name, value in changes.items() if name in _PLACE_FIELDS}
    of_aim = {name: value for name, value in changes.items() if name not in _PLACE_FIELDS}
    if "variants" in of_aim:
        of_aim["variants"] = replace(state.aim.variants, **of_aim["variants"])
    place = replace(state.aim.place, **of_place)
    aim = replace(state.aim, place=place, **of_aim)
    is_own = (aim.limit_bytes, aim.likeness) != (state.aim.limit_bytes, state.aim.likeness)
    return replace(state, aim=aim, follows_page=state.follows_page and not is_own)


def _tidy_reason(reason: str) -> str:
    words = " ".join(reason.split())
    if len(words) > MAX_REASON:
        raise UsageError(f"A reason has up to {MAX_REASON} characters.", "invalid_reason")
    return words


def _reframed(
    framing: Framing, changes: Mapping[str, Any], turn: Turn | None, source: Source
) -> Framing:
    size_px = source.width_px, source.height_px
    if turn:
        framing = turned(framing, turn, *size_px)
    rest = dict(changes)
    if "crop" in rest:
        crop: Box | None = rest.pop("crop")
        framing = cropped(framing, crop, *size_px)
    if "size" in rest:
        rest["size"] = rescaled(framing.size, rest["size"])
    return replace(framing, **rest)


def _reset(framing: Framing) -> Framing:
    plain = Framing()
    return replace(
        framing,
        orientation=plain.orientation,
        straighten_deg=plain.straighten_deg,
        crop=plain.crop,
        focus=plain.focus,
    )


def _plan(state: State, source: Source) -> object:
    return plan_framing(source, state.framing, state.aim.place)


def _plan_at(state: State, source: Source, density: float) -> object:
    return plan_at(state.framing, state.aim.place, source, density)
