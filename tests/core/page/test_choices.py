import pytest

from lean_parcel.core.decisions.aim import FIRST_AIM
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.framing.framing import FIRST_FRAMING
from lean_parcel.core.framing.place import Place
from lean_parcel.core.page import choices
from lean_parcel.core.page.layout import Layout, NamedTreatment
from lean_parcel.core.page.page_acts import PageAct

TREATMENT = Treatment(framing=FIRST_FRAMING, aim=FIRST_AIM)
SHELF = Place(size="300")


def after(*acts: PageAct) -> Layout:
    layout = Layout()
    for act in acts:
        assert act.words
        layout = act.done(layout)
    return layout


def test_places_are_added_changed_and_removed() -> None:
    acts = [choices.add_place("Shelf", SHELF), choices.add_place("Sill", SHELF)]
    wide = Place(size="320")
    layout = after(*acts, choices.change_place(1, "Window shelf", wide))
    assert [(p.id, p.name, p.place) for p in layout.places] == [
        (1, "Window shelf", wide),
        (2, "Sill", SHELF),
    ]
    assert [place.id for place in choices.remove_place(1).done(layout).places] == [2]


def test_the_treatment_that_was_used_last_is_offered_first() -> None:
    kept = [choices.keep_treatment(name, TREATMENT) for name in ("One", "Two", "Three")]
    layout = after(*kept)
    assert [each.id for each in layout.treatments] == [3, 2, 1]
    use = choices.use_treatment(choices.treatment_in(layout, 2), range(5))
    used = use.done(layout)
    assert [each.id for each in used.treatments] == [2, 3, 1]
    assert use.words == "Two on 5 photos"
    changed = choices.change_treatment(2, "Deux", TREATMENT).done(used)
    assert changed.treatments[0].name == "Deux"
    assert [each.id for each in choices.remove_treatment(3).done(changed).treatments] == [2, 1]


@pytest.mark.parametrize(
    "act",
    [
        choices.change_place(7, "x", SHELF),
        choices.remove_place(7),
        choices.change_treatment(7, "x", TREATMENT),
        choices.use_treatment(NamedTreatment(id=7, name="x", treatment=TREATMENT), [1]),
        choices.remove_treatment(7),
    ],
    ids=lambda act: act.words,
)
def test_what_is_not_there_cannot_be_changed(act: PageAct) -> None:
    with pytest.raises(NotFoundError):
        act.done(Layout())


def test_a_choice_needs_a_name() -> None:
    with pytest.raises(UsageError):
        choices.add_place("  ", SHELF).done(Layout())
