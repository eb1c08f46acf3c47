"""Acts on one photo: functions from a state to the state after, which can be done to others too."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import Any

from lean_parcel.core.decisions.marks import Mark, checked, marks_turned
from lean_parcel.core.decisions.page_settings import (
    SETTINGS,
    PageSettings,
    as_the_page,
    following,
    still_following,
)
from lean_parcel.core.decisions.state import Setting, State, plan_of
from lean_parcel.core.decisions.treatment import Treatment, treated
from lean_parcel.core.decisions.variants import VariantPick, plan_at
from lean_parcel.core.errors import UsageError
from lean_parcel.core.eye.outcome import Outcome
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.framing import TURNS, Framing, Turn, cropped, turned
from lean_parcel.core.original.picture_kind import formats_for
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.orientation import inverse, shown_size_px

MAX_REASON = 200
_PLACE_FIELDS = frozenset({"size", "density", "pixel_by_pixel"})


#: What a person does to a photo: a state before and the original in, the state after out. `done`
#: carries one out.
Act = Callable[[State, Source], State]


def done(act: Act, state: State, source: Source) -> State:
    """The state after an act. A pick that no longer shows the photo as it is framed is put back; so
    are chosen variants. Raises UsageError for values that cannot be."""
    after = act(state, source)
    if plan_of(state, source) != plan_of(after, source):
        after = replace(after, picked_encode_id=None)
    return replace(after, variant_picks=_still_right(state, after, source))


def change_aim(changes: Mapping[str, Any]) -> Act:
    """Replaces fields of the aim, and of its place, by name; of `variants` those that are given.
    Formats of None are those that suit the picture."""

    def act(state: State, source: Source) -> State:
        of_place = {name: value for name, value in changes.items() if name in _PLACE_FIELDS}
        of_aim = {name: value for name, value in changes.items() if name not in _PLACE_FIELDS}
        if "variants" in of_aim:
            of_aim["variants"] = replace(state.aim.variants, **of_aim["variants"])
        if "formats" in of_aim and of_aim["formats"] is None:
            of_aim["formats"] = formats_for(source)
        aim = replace(state.aim, place=replace(state.aim.place, **of_place), **of_aim)
        return still_following(state, replace(state, aim=aim))

    return act


def change_framing(changes: Mapping[str, Any], turn: Turn | None = None) -> Act:
    """Turns the picture first, if asked to; then replaces fields of the framing by name, `crop`
    among them, where None is no crop."""

    def act(state: State, source: Source) -> State:
        framing, marks = state.framing, state.marks
        size_px, rest = (source.width_px, source.height_px), dict(changes)
        if turn:
            marks = marks_turned(marks, TURNS[turn], _turned_px(state, source))
            framing = turned(framing, turn, *size_px)
        if "crop" in rest:
            framing = cropped(framing, rest.pop("crop"), *size_px)
        after = replace(state, framing=replace(framing, **rest), marks=marks)
        return still_following(state, after)

    return act


def reset_framing() -> Act:
    """Takes back what depends on the single picture: turns, crop, straightening and focus."""

    def act(state: State, source: Source) -> State:
        back = inverse(state.framing.orientation)
        plain = Framing()
        framing = replace(
            state.framing,
            orientation=plain.orientation,
            straighten_deg=plain.straighten_deg,
            crop=plain.crop,
            focus=plain.focus,
        )
        upright = marks_turned(state.marks, back, _turned_px(state, source))
        return replace(state, framing=framing, marks=upright)

    return act


def change_marks(marks: tuple[Mark, ...]) -> Act:
    """Replaces all marked areas."""
    return lambda state, source: replace(state, marks=checked(marks, *_turned_px(state, source)))


def keep_outcome(outcome: Outcome) -> Act:
    """Keeps what came of blind rounds."""
    return lambda state, _: replace(state, outcomes=(*state.outcomes, outcome))


def treat(treatment: Treatment, treatment_id: int | None, settings: PageSettings) -> Act:
    """Does a treatment, which has an id among those to choose from. Where it comes to what the
    photo's page has, the photo follows that."""
    return lambda state, source: as_the_page(
        replace(treated(state, treatment, source), treatment_id=treatment_id), settings, source
    )


def follow_page(settings: PageSettings, names: Collection[Setting] = SETTINGS) -> Act:
    """Takes settings from the page, and follows them from now on."""
    return lambda state, source: following(state, settings, source, names)


def pick(encode_id: int | None, reason: str = "") -> Act:
    """Takes an encode as the pick, or puts the pick back with None; over the limit with a
    `reason`."""
    return lambda state, _: replace(state, picked_encode_id=encode_id, reason=_tidy_reason(reason))


def pick_variant(density: float, name: Format, encode_id: int | None) -> Act:
    """Chooses an encode for a density and a format, or what is found there with None."""

    def act(state: State, _: Source) -> State:
        rest = [p for p in state.variant_picks if (p.density, p.format) != (density, name)]
        if encode_id is not None:
            rest.append(VariantPick(density=density, format=name, encode_id=encode_id))
        return replace(state, variant_picks=tuple(rest))

    return act


def give_reason(reason: str) -> Act:
    """Says why a pick stands over its limit."""
    return lambda state, _: replace(state, reason=_tidy_reason(reason))


def _still_right(before: State, after: State, source: Source) -> tuple[VariantPick, ...]:
    """The chosen variants that a photo would still be framed and encoded to."""
    if _behind(before) != _behind(after):
        return ()
    return tuple(
        chosen
        for chosen in after.variant_picks
        if _plan_at(before, source, chosen.density) == _plan_at(after, source, chosen.density)
    )


def _behind(state: State) -> tuple[str, str]:
    return state.framing.metadata, state.framing.background


def _turned_px(state: State, source: Source) -> tuple[int, int]:
    return shown_size_px(source.width_px, source.height_px, state.framing.orientation)


def _tidy_reason(reason: str) -> str:
    words = " ".join(reason.split())
    if len(words) > MAX_REASON:
        raise UsageError(f"A reason has up to {MAX_REASON} characters.", "invalid_reason")
    return words


def _plan_at(state: State, source: Source, density: float) -> object:
    return plan_at(state.framing, state.aim.place, source, density)
