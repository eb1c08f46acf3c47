"""Acts on the places and treatments to choose from. Each raises NotFoundError, or UsageError
`invalid_name`, where it cannot be done."""

from collections.abc import Sequence
from dataclasses import replace
from typing import TypeVar

from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.framing.place import Place
from lean_parcel.core.page.layout import Layout, NamedPlace, NamedTreatment
from lean_parcel.core.page.names import checked_name
from lean_parcel.core.page.page_acts import PageAct, counted

_Named = TypeVar("_Named", NamedPlace, NamedTreatment)


def add_place(name: str, place: Place) -> PageAct:
    """Adds a place at the end."""

    def done(layout: Layout) -> Layout:
        new = NamedPlace(id=_next_id(layout.places), name=checked_name(name), place=place)
        return replace(layout, places=(*layout.places, new))

    return PageAct(f"New place {name}", done)


def change_place(place_id: int, name: str, place: Place) -> PageAct:
    """Gives a place another name and other numbers."""

    def done(layout: Layout) -> Layout:
        changed = NamedPlace(id=place_id, name=checked_name(name), place=place)
        return replace(layout, places=_exchanged(layout.places, changed, "place"))

    return PageAct(f"Changed the place {name}", done)


def remove_place(place_id: int) -> PageAct:
    """Removes a place; photos that stand there keep its numbers."""

    def done(layout: Layout) -> Layout:
        return replace(layout, places=_without(layout.places, place_id, "place"))

    return PageAct("Removed a place", done)


def keep_treatment(name: str, treatment: Treatment) -> PageAct:
    """Adds a treatment, which is offered first."""

    def done(layout: Layout) -> Layout:
        treatment_id = _next_id(layout.treatments)
        kept = NamedTreatment(id=treatment_id, name=checked_name(name), treatment=treatment)
        return replace(layout, treatments=(kept, *layout.treatments))

    return PageAct(f"Kept the treatment {name}", done)


def change_treatment(treatment_id: int, name: str, treatment: Treatment) -> PageAct:
    """Gives a treatment another name and other values; photos that had it stay as they are."""

    def done(layout: Layout) -> Layout:
        other = NamedTreatment(id=treatment_id, name=checked_name(name), treatment=treatment)
        return replace(layout, treatments=_exchanged(layout.treatments, other, "treatment"))

    return PageAct(f"Changed the treatment {name}", done)


def use_treatment(used: NamedTreatment, photo_ids: Sequence[int]) -> PageAct:
    """Does a treatment to photos: it is offered first from now on."""

    def done(layout: Layout) -> Layout:
        first = treatment_in(layout, used.id)
        others = _without(layout.treatments, used.id, "treatment")
        return replace(layout, treatments=(first, *others))

    return PageAct(f"{used.name} on {counted(photo_ids)}", done)


def remove_treatment(treatment_id: int) -> PageAct:
    """Removes a treatment; what it did stays."""

    def done(layout: Layout) -> Layout:
        return replace(layout, treatments=_without(layout.treatments, treatment_id, "treatment"))

    return PageAct("Removed a treatment", done)


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
