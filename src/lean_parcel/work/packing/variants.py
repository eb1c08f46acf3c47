"""The variants of one photo of a run: for each density and format a file, made for an aim of its
own."""

from concurrent.futures import Executor
from dataclasses import dataclass, replace

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.state import State
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.plan import Plan, plan_framing
from lean_parcel.core.original.source import Source
from lean_parcel.core.packing.variants import Picked, variant_keys, variant_states
from lean_parcel.work.packing.photo import Option, Original, Treating, fitted
from lean_parcel.work.searches.one_file import FileFit, Offer


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeFile:
    """A file of a photo, the aim that it was made for, and the plan of its pixels."""

    option: Option
    data: bytes
    aim: Aim
    plan: Plan
    is_pick: bool = False

    @property
    def meets_aim(self) -> bool:
        """Whether it does what it was made for."""
        measured = self.option.measured
        return self.aim.is_met_by(measured.size_bytes, measured.likeness)


def with_variants(
    executor: Executor,
    original: Original,
    source: Source,
    treating: Treating,
    pick: MadeFile,
    fit: FileFit | None,
    *,
    is_transparent: bool,
    slots: int,
) -> list[MadeFile]:
    """The pick and the variants that its aim asks for, the densest first. What the `fit` of the
    pick has found for the same aim is not searched again. Raises as `fit_file` does."""
    picked = Picked(
        format=pick.option.trial.settings.format,
        likeness=pick.option.measured.likeness,
        is_transparent=is_transparent,
    )
    own = pick.aim.place.density
    state = State(framing=treating.framing, aim=pick.aim)
    states = variant_states(state, source, picked)
    made = {(own, picked.format): pick}
    for density, at in states.items():
        offers = _known(fit, at.aim, pick.aim) if density == own else {}
        missing = tuple(name for name in at.aim.formats if name not in offers)
        if missing:
            there = Treating(
                framing=at.framing, aim=replace(at.aim, formats=missing), limits=treating.limits
            )
            found = fitted(executor, original, there, slots).offers
            offers |= {offer.candidate.trial.settings.format: offer for offer in found}
        plan = plan_framing(source, at.framing, at.aim.place)
        for name, offer in offers.items():
            option = Option(trial=offer.candidate.trial, measured=offer.candidate.measured)
            made[density, name] = MadeFile(option=option, data=offer.data, aim=at.aim, plan=plan)
    return [made[key] for key in variant_keys(state, states, picked) if key in made]


def _known(fit: FileFit | None, aim: Aim, own: Aim) -> dict[Format, Offer]:
    """What was found for the same aim, by format."""
    if fit is None or replace(aim, formats=own.formats) != own:
        return {}
    offers = {offer.candidate.trial.settings.format: offer for offer in fit.offers}
    return {name: offer for name, offer in offers.items() if name in aim.formats}
