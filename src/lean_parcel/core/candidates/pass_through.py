"""Passing the original through: whether it can go out as it came in, because its place takes it."""

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.state import State
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.formats import FORMATS
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import UPRIGHT


def pass_through_trial(source: Source, plan: Plan, state: State) -> Trial | None:
    """The original as a trial; None where it cannot go out as it is.

    It can where browsers open its format and the aim allows it, and framing changes no pixel. Where
    the metadata policy allows all that it carries it goes out to the byte.
    """
    name = next((name for name in FORMATS if name == source.format), None)
    if name is None or name not in state.aim.formats:
        return None
    if not _leaves_pixels(plan, source):
        return None
    settings = PassThrough(format=name, keeps_metadata=state.framing.metadata == "everything")
    return Trial(settings=settings, width_px=plan.width_px, height_px=plan.height_px)


def _leaves_pixels(plan: Plan, source: Source) -> bool:
    """Whether a plan gives exactly the original's pixels."""
    whole = Box(left_px=0, top_px=0, width_px=source.width_px, height_px=source.height_px)
    return (
        plan.orientation == UPRIGHT
        and plan.straighten_deg == 0
        and plan.box == whole
        and (plan.width_px, plan.height_px) == (source.width_px, source.height_px)
        and plan.sharpen.amount_percent == 0
        and plan.background is None
        and plan.gamut == "srgb"
    )
