import pytest

from lean_parcel.core.decisions.aim import FIRST_AIM
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.framing.framing import FIRST_FRAMING
from lean_parcel.core.framing.place import Place
from lean_parcel.core.page.acts import PageAct, done, words
from lean_parcel.core.page.choices import (
    AddPlace,
    ChangePlace,
    ChangeTreatment,
    KeepTreatment,
    RemovePlace,
    RemoveTreatment,
    UseTreatment,
)
from lean_parcel.core.page.layout import Layout

TREATMENT = Treatment(framing=FIRST_FRAMING, aim=FIRST_AIM)
SHELF = Place(css_width_px=300)


def after(*acts: PageAct) -> Layout:
    layout = Layout()
    for act in acts:
        assert words(act, layout)
        layout = done(act, layout)
    return layout


def test_places_are_added_changed_and_removed() -> None:
    acts: list[PageAct] = [AddPlace("Shelf", SHELF), AddPlace("Sill", SHELF)]
    wide = Place(css_width_px=320)
    layout = after(*acts, ChangePlace(1, "Window shelf", wide))
    assert [(p.id, p.name, p.place) for p in layout.places] == [
        (1, "Window shelf", wide),
        (2, "Sill", SHELF),
    ]
    assert [place.id for place in done(RemovePlace(1), layout).places] == [2]


def test_the_treatment_that_was_used_last_is_offered_first() -> None:
    kept: list[PageAct] = [KeepTreatment(name, TREATMENT) for name in ("One", "Two", "Three")]
    layout = after(*kept)
    assert [each.id for each in layout.treatments] == [3, 2, 1]
    used = done(UseTreatment(2, 5), layout)
    assert [each.id for each in used.treatments] == [2, 3, 1]
    assert words(UseTreatment(2, 5), layout) == "Two on 5 photos"
    changed = done(ChangeTreatment(2, "Deux", TREATMENT), used)
    assert changed.treatments[0].name == "Deux"
    assert [each.id for each in done(RemoveTreatment(3), changed).treatments] == [2, 1]


@pytest.mark.parametrize(
    "act",
    [
        ChangePlace(7, "x", SHELF),
        RemovePlace(7),
        ChangeTreatment(7, "x", TREATMENT),
        UseTreatment(7, 1),
        RemoveTreatment(7),
    ],
    ids=lambda act: type(act).__name__,
)
def test_what_is_not_there_cannot_be_changed(act: PageAct) -> None:
    with pytest.raises(NotFoundError):
        done(act, Layout())


def test_a_choice_needs_a_name() -> None:
    with pytest.raises(UsageError):
        done(AddPlace("  ", SHELF), Layout())
