"""What was decided in earlier versions comes to the pixels that it had."""

from typing import Any

import pytest

from lean_parcel.core.decisions.earlier import with_one_size
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import plan_framing
from tests.builders import source

COLUMN = {"css_width_px": 600, "css_height_px": None, "fit": "cover", "density": 2.0}
BANNER = {"css_width_px": 1440, "css_height_px": 600, "fit": "cover", "density": 1.0}


@pytest.mark.parametrize(
    ("size", "place", "now", "sent_px"),
    [
        ({}, COLUMN, "600 px", (1200, 800)),
        ({"by": "place"}, BANNER, "1440 × 600 px", (1440, 600)),
        ({"by": "place"}, {**BANNER, "fit": "contain"}, "1440 × 600 px contained", (900, 600)),
        ({"by": "width", "width_px": 1501}, COLUMN, "750.5 px", (1501, 1001)),
        ({"by": "height", "height_px": 500}, COLUMN, "250 px high", (750, 500)),
        ({"by": "longest", "longest_px": 900}, BANNER, "900 px long", (900, 600)),
        ({"by": "percent", "percent": 60}, COLUMN, "60 %", (1800, 1200)),
        ({"by": "percent", "percent": 100}, BANNER, "as it came", (3000, 2000)),
        ({"by": "box", "width_px": 301, "height_px": 77}, BANNER, "301 × 77 px", (301, 77)),
        (
            {"by": "box", "width_px": 500, "height_px": 500, "fit": "contain"},
            COLUMN,
            "250 × 250 px contained",
            (500, 333),
        ),
        (
            {"by": "width", "width_px": 1182, "unit": "cm", "dpi": 300},
            COLUMN,
            "10.0076 cm wide at 300 dpi",
            (1182, 788),
        ),
        (
            {"by": "height", "height_px": 384, "unit": "in", "dpi": 96},
            BANNER,
            "4 in high at 96 dpi",
            (576, 384),
        ),
    ],
)
def test_a_photo_has_the_size_that_it_had(
    size: dict[str, Any], place: dict[str, Any], now: str, sent_px: tuple[int, int]
) -> None:
    state = {"framing": {"size": size, "kernel": "linear"}, "aim": {"place": place, "likeness": 9}}
    after = with_one_size({"pages": [{"state": state}]})["pages"][0]["state"]
    assert after["framing"] == {"kernel": "linear"}
    assert after["aim"]["likeness"] == 9
    became = Place(**after["aim"]["place"])
    assert (became.size, became.density) == (now, place["density"])
    plan = plan_framing(source(3000, 2000), Framing(), became)
    assert (plan.width_px, plan.height_px) == sent_px
    assert after["aim"].get("fewer_pixels") == (True if became.dimensions.is_exact else None)


def test_places_are_converted_and_the_rest_is_as_it_was() -> None:
    named = {"id": 1, "name": "Card", "place": {"css_width_px": 380, "density": 2.0}}
    others = {"place": "of birth", "aim": {"place": None}, "n": [1, None, "css_width_px"]}
    after = with_one_size({"places": [named], "others": others})
    assert after["places"] == [
        {"id": 1, "name": "Card", "place": {"size": "380 px", "density": 2.0}}
    ]
    assert after["others"] == others
