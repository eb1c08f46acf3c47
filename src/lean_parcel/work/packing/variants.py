"""The variants of one photo of a run: for each density and format a file, made for an aim of its
own."""

from concurrent.futures import Executor
from dataclasses import dataclass, replace

from lean_parcel.core.damage.found import Worst
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.state import State, plan_of
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.original.source import Source
from lean_parcel.core.packing.variants import Picked, variant_keys, variant_states
from lean_parcel.work.packing.photo import Option, Original, Treating, fitted, worst_damage
from lean_parcel.work.searches.one_file import FileFit


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeFile:
    """A file of a photo, the aim that it was made for, the plan of its pixels, and what is worst in
    it."""

    option: Option
    data: bytes
    worst: Worst
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
    aim: Aim,
    fit: FileFit | None,
    *,
    is_transparent: bool,
    slots: int,
) -> list[MadeFile]:
    """The pick and the variants that an aim asks for, the densest first. What the `fit` of the pick
    has found for the same aim is not searched again. Raises as `fit_file` does."""
    picked = Picked(
        format=pick.option.trial.settings.format,
        likeness=pick.option.measured.likeness,
        is_transparent=is_transparent,
    )
    own = aim.place.density
    state = State(framing=treating.framing, aim=aim)
    states = variant_states(state, source, picked)
    made = {(own, picked.format): pick}
    for density, at in states.items():
        known = fit if density == own and fit and _is_same(at.aim, aim) else None
        missing = tuple(name for name in at.aim.formats if name not in _formats(known))
        fits = [known]
        if missing:
            there = replace(treating, framing=at.framing, aim=replace(at.aim, formats=missing))
            fits.append(fitted(executor, original, there, slots))
        plan = plan_of(at, source)
        for found in filter(None, fits):
            for offer in found.offers:
                trial, measured = offer.candidate.trial, offer.candidate.measured
                if trial.settings.format not in at.aim.formats:
                    continue
                made[density, trial.settings.format] = MadeFile(
                    option=Option(trial=trial, measured=measured),
                    data=offer.data,
                    worst=worst_damage(
                        executor, found.encoder_input, trial, offer.data, treating.limits
                    ),
                    aim=at.aim,
                    plan=plan,
                )
    return [made[key] for key in variant_keys(state, states, picked) if key in made]


def _is_same(aim: Aim, own: Aim) -> bool:
    """Whether something was searched for the same, but for the formats."""
    return replace(aim, formats=own.formats) == own


def _formats(fit: FileFit | None) -> list[Format]:
    """The formats in which something was found."""
    return [offer.candidate.trial.settings.format for offer in fit.offers] if fit else []
