"""Whether an original can be kept: sent as it came, since its place takes it as it is."""

from lean_parcel.core.aim import Aim
from lean_parcel.core.encode import FORMATS, KeptSettings
from lean_parcel.core.framing import Framing
from lean_parcel.core.metadata import NO_BLOCKS, Blocks
from lean_parcel.core.orientation import UPRIGHT, Box
from lean_parcel.core.photo import Source
from lean_parcel.core.plan import Plan
from lean_parcel.core.trial import Trial


def kept_original(
    source: Source, plan: Plan, framing: Framing, aim: Aim, carried: Blocks
) -> Trial | None:
    """The original as a trial; None where it cannot be kept.

    It can where a browser opens its format and the aim allows it, framing changes no pixel, and the
    metadata that it has `carried` along, as the widest policy lets it through, may all go out.
    """
    name = next((name for name in FORMATS if name == source.format), None)
    whole = Box(left_px=0, top_px=0, width_px=source.width_px, height_px=source.height_px)
    is_untouched = (
        plan.orientation == UPRIGHT
        and plan.straighten_deg == 0
        and plan.box == whole
        and (plan.width_px, plan.height_px) == (source.width_px, source.height_px)
        and plan.sharpen.amount_percent == 0
        and plan.background is None
        and plan.gamut == "srgb"
    )
    may_go_out = framing.metadata == "everything" or carried == NO_BLOCKS
    if name is None or name not in aim.formats or not is_untouched or not may_go_out:
        return None
    return Trial(
        settings=KeptSettings(format=name), width_px=plan.width_px, height_px=plan.height_px
    )
