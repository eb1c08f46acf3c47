"""The state of a photo: all that a person has decided about it."""

from dataclasses import dataclass
from typing import Literal

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.marks import Mark
from lean_parcel.core.decisions.variants import VariantPick
from lean_parcel.core.eye.outcome import Outcome
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.plan import Plan, plan_framing
from lean_parcel.core.original.source import Source

#: What a page decides for those of its photos that have nothing of their own.
Setting = Literal["size", "density", "limit_bytes", "likeness", "formats", "metadata"]


@dataclass(frozen=True, slots=True, kw_only=True)
class State:
    """Framing, aim, marked areas, what came of blind rounds, and the encode that was picked, if one
    was, with the `reason` for one over the limit. It `follows` its page in some settings.
    `treatment_id` is the treatment that was done to it last. Of the variants,
    `variant_picks` are those that a person chose."""

    framing: Framing
    aim: Aim
    marks: tuple[Mark, ...] = ()
    outcomes: tuple[Outcome, ...] = ()
    picked_encode_id: int | None = None
    variant_picks: tuple[VariantPick, ...] = ()
    reason: str = ""
    follows: tuple[Setting, ...] = ()
    treatment_id: int | None = None


def plan_of(state: State, source: Source) -> Plan:
    """How an original is framed in a state. Raises UsageError as `plan_framing` does."""
    return plan_framing(source, state.framing, state.aim.place)


def files_key(state: State, source: Source) -> tuple[object, ...]:
    """Equal for two states of an original exactly where a search would make and offer the same
    files."""
    framing, aim = state.framing, state.aim
    plan = plan_of(state, source)
    what_for = aim.limit_bytes, aim.likeness, aim.formats, aim.held, aim.may_have_fewer_pixels
    return plan, framing.metadata, framing.background, what_for
