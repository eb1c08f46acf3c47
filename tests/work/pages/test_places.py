import pytest

from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.framing.place import Place
from lean_parcel.work.workspace import Workspace


def test_places_are_stored_and_edited(workspace: Workspace) -> None:
    places = workspace.places
    first = [place.name for place in places.all()]
    assert first == ["Full-width banner", "Column", "Card", "Thumbnail", "E-mail"]
    place_id = places.add("Shelf", Place(css_width_px=300, density=2))
    places.change(place_id, "Window shelf", Place(css_width_px=320, density=1.5))
    changed = next(place for place in places.all() if place.id == place_id)
    assert (changed.name, changed.place.css_width_px) == ("Window shelf", 320)
    places.remove(place_id)
    assert [place.name for place in places.all()] == first
    with pytest.raises(NotFoundError):
        places.remove(place_id)
