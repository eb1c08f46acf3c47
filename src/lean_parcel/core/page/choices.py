"""Acts on the places and treatments to choose from, as plain values; `chosen` does one."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.framing.place import Place
from lean_parcel.core.page.layout import Layout, NamedPlace, NamedTreatment
from lean_parcel.core.page.names import checked_name

_Named = TypeVar("_Named", NamedPlace, NamedTreatment)


@dataclass(frozen=True, slots=True)
class AddPlace:
    """Adds a place at the end."""

    name: str
    place: Place


@dataclass(frozen=True, slots=True)
class ChangePlace:
    """Gives a place another name and other numbers."""

    place_id: int
    name: str
    place: Place


@dataclass(frozen=True, slots=True)
class RemovePlace:
    """Removes a place; photos that stand there keep its numbers."""

    place_id: int


@dataclass(frozen=True, slots=True)
class KeepTreatment:
    """Adds a treatment, which is offered first."""

    name: str
    treatment: Treatment


@dataclass(frozen=True, slots=True)
class ChangeTreatment:
    """Gives a treatment another name and other values; photos that had it stay as they are."""

    treatment_id: int
    name: str
    treatment: Treatment


@dataclass(frozen=True, slots=True)
class UseTreatment:
    """Does a treatment to so many photos: it is offered first from now on."""

    treatment_id: int
    photos: int


@dataclass(frozen=True, slots=True)
class RemoveTreatment:
    """Removes a treatment; what it did stays."""

    treatment_id: int


ChoiceAct = (
    AddPlace
    | ChangePlace
    | RemovePlace
    | KeepTreatment
    | ChangeTreatment
    | UseTreatment
    | RemoveTreatment
)


def chosen(act: ChoiceAct, layout: Layout) -> Layout:
    """The layout after an act. Raises NotFoundError, or UsageError `invalid_name`."""
    places, treatments = layout.places, layout.treatments
    match act:
        case AddPlace(name, place):
            new = NamedPlace(id=_next_id(places), name=checked_name(name), place=place)
            return replace(layout, places=(*places, new))
        case ChangePlace(place_id, name, place):
            changed = NamedPlace(id=place_id, name=checked_name(name), place=place)
            return replace(layout, places=_exchanged(places, changed, "place"))
        case RemovePlace(place_id):
            return replace(layout, places=_without(places, place_id, "place"))
        case KeepTreatment(name, treatment):
            kept = NamedTreatment(
                id=_next_id(treatments), name=checked_name(name), treatment=treatment
            )
            return replace(layout, treatments=(kept, *treatments))
        case ChangeTreatment(treatment_id, name, treatment):
            other = NamedTreatment(id=treatment_id, name=checked_name(name), treatment=treatment)
            return replace(layout, treatments=_exchanged(treatments, other, "treatment"))
        case UseTreatment(treatment_id):
            used = treatment_in(layout, treatment_id)
            others = _without(treatments, treatment_id, "treatment")
            return replace(layout, treatments=(used, *others))
        case RemoveTreatment(treatment_id):
            return replace(layout, treatments=_without(treatments, treatment_id, "treatment"))


def choice_words(act: ChoiceAct, before: Layout) -> str:
    """An act in one line."""
    match act:
        case AddPlace(name):
            return f"New place {name}"
        case ChangePlace(_, name):
            return f"Changed the place {name}"
        case RemovePlace():
            return "Removed a place"
        case KeepTreatment(name):
            return f"Kept the treatment {name}"
        case ChangeTreatment(_, name):
            return f"Changed the treatment {name}"
        case UseTreatment(treatment_id, photos):
            on = "a photo" if photos == 1 else f"{photos} photos"
            return f"{treatment_in(before, treatment_id).name} on {on}"
        case RemoveTreatment():
            return "Removed a treatment"


def treatment_in(layout: Layout, treatment_id: int) -> NamedTreatment:
    """One treatment. Raises NotFoundError."""
    return _found(layout.treatments, treatment_id, "treatment")


def _found(named: Sequence[_Named], wanted_id: int, noun: str) -> _Named:
    for each in named:
        if each.id == wanted_id:
            return each
    raise NotFoundError(f"There is no {noun} {wanted_id}.")


def _exchanged(named: Sequence[_Named], changed: _Named, noun: str) -> tuple[_Named, ...]:
    _found(named, changed.id, noun)
    return tuple(changed if each.id == changed.id else each for each in named)


def _without(named: Sequence[_Named], removed_id: int, noun: str) -> tuple[_Named, ...]:
    _found(named, removed_id, noun)
    return tuple(each for each in named if each.id != removed_id)


def _next_id(named: Sequence[_Named]) -> int:
    return max((each.id for each in named), default=0) + 1
