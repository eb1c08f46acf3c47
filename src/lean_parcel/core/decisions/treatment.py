"""Treatments: what was decided for one photo, under a name, to be done to others."""

from dataclasses import dataclass, replace

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.marks import Mark, checked
from lean_parcel.core.decisions.state import State
from lean_parcel.core.encoding.held import held_of
from lean_parcel.core.encoding.settings import Settings
from lean_parcel.core.framing.framing import Focus, Framing, carried_over, cropped
from lean_parcel.core.original.picture_kind import formats_for
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import UPRIGHT, shown_size_px

_MIDDLE = Focus()


@dataclass(frozen=True, slots=True, kw_only=True)
class Single:
    """What depends on the single picture: its turn, straightening, crop, focus point and marked
    areas."""

    orientation: int = UPRIGHT
    straighten_deg: float = 0.0
    crop: Box | None = None
    focus: Focus = _MIDDLE
    marks: tuple[Mark, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Treatment:
    """Framing and aim for other photos; `single` only where it was asked for. Its formats may be
    those that suit each picture."""

    framing: Framing
    aim: Aim
    single: Single | None = None
    by_picture: bool = False

    def __post_init__(self) -> None:
        object.__setattr__(self, "framing", carried_over(self.framing))

    def aim_for(self, source: Source) -> Aim:
        """The aim of a photo that is treated so."""
        return replace(self.aim, formats=formats_for(source)) if self.by_picture else self.aim


def treatment_of(
    state: State,
    *,
    held_from: Settings | None = None,
    with_quality: bool = False,
    with_single: bool = False,
) -> Treatment:
    """What was decided about a photo; with the knobs of some settings held, their quality among
    them, and with what depends on the single picture, where that is asked for."""
    framing, aim = state.framing, state.aim
    if held_from and (values := held_of(held_from, with_quality=with_quality)):
        aim = replace(aim, held={**aim.held, held_from.format: values})
    single = Single(
        orientation=framing.orientation,
        straighten_deg=framing.straighten_deg,
        crop=framing.crop,
        focus=framing.focus,
        marks=state.marks,
    )
    return Treatment(framing=framing, aim=aim, single=single if with_single else None)


def treated(state: State, treatment: Treatment, source: Source) -> State:
    """A state after a treatment, which comes to the same when it is done again. Raises UsageError
    `invalid_crop` or `invalid_marks` where a crop or a mark that it brings lies outside."""
    one = treatment.single or Single(
        orientation=state.framing.orientation,
        straighten_deg=state.framing.straighten_deg,
        crop=state.framing.crop,
        focus=state.framing.focus,
        marks=state.marks,
    )
    framing = replace(
        treatment.framing,
        orientation=one.orientation,
        straighten_deg=one.straighten_deg,
        focus=one.focus,
        may_enlarge=state.framing.may_enlarge,
    )
    size_px = source.width_px, source.height_px
    return replace(
        state,
        framing=cropped(framing, one.crop, *size_px),
        aim=treatment.aim_for(source),
        marks=checked(one.marks, *shown_size_px(*size_px, one.orientation)),
    )


def is_as_treated(state: State, treatment: Treatment, source: Source) -> bool:
    """Whether a photo is as a treatment leaves it, or is an exception."""
    after = treated(state, treatment, source)
    return (after.framing, after.aim, after.marks) == (state.framing, state.aim, state.marks)
