"""Passing the original through: whether it can go out as it came in, because its place takes it,
or repacked, with the same pixels in fewer bytes."""

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.repacking import REPACKED_FORMATS
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.formats import FORMATS
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.original.source import Source
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import UPRIGHT


def pass_through_trials(
    source: Source, plan: Plan, framing: Framing, aim: Aim
) -> tuple[Trial, ...]:
    """The original as trials, repacked first; none where it cannot go out as it is.

    It can where browsers open its format and the aim allows it, and framing changes no pixel. Where
    the metadata policy allows all that it carries it goes out to the byte.
    """
    name = next((name for name in FORMATS if name == source.format), None)
    if name is None or name not in aim.formats or not _leaves_pixels(plan, source):
        return ()
    ways = [PassThrough(format=name, keeps_metadata=framing.metadata == "everything")]
    if name in REPACKED_FORMATS:
        ways.insert(0, PassThrough(format=name, keeps_metadata=False, repacked=True))
    return tuple(
        Trial(settings=way, width_px=plan.width_px, height_px=plan.height_px) for way in ways
    )


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
