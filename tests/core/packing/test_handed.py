import pytest

from lean_parcel.core.packing.handed import chosen, taken
from tests.core.packing.handing import handed, handed_file


@pytest.mark.parametrize(
    ("slot_css_px", "density", "path"),
    [
        (720, 1, "new-720.avif"),
        (720, 1.01, "new-1440.avif"),
        (360, 2, "new-720.avif"),
        (390, 2, "new-1440.avif"),
        (720, 3, "new-1440.avif"),
        (600, 1, "new-720.avif"),  # more than are sent, but not more than it stands for
    ],
)
def test_the_smallest_that_has_the_pixels_is_taken(
    slot_css_px: float, density: float, path: str
) -> None:
    assert chosen(handed().of_format("avif"), slot_css_px, density).path == path


def test_the_first_format_that_is_accepted_is_taken() -> None:
    assert taken(handed(), 1440, 1).path == "new-720.avif"
    assert taken(handed(), 1440, 1, ("jpeg", "webp")).path == "new-720.jpg"
    assert taken(handed(), 1440, 1, ()).path == "new-720.jpg"
    assert taken(handed(), 300, 2).path == "new-720.avif"
    assert taken(handed(), 1440, 1.4).path == "new-720.avif"  # its place is narrower
    assert taken(handed(), 1440, 1.6).path == "new-1440.avif"


def test_the_fallback_opens_everywhere_and_comes_last() -> None:
    assert handed().fallback.path == "new-720.jpg"
    assert handed().formats == ("avif", "jpeg")
    webp = handed_file("a.webp", "webp", 1, 720, 2_000)
    both = handed().__class__(files=(*handed().files, webp), css_width_px=720, css_height_px=360)
    assert both.formats == ("webp", "avif", "jpeg")  # the lightest first
    assert handed().beside().files[0].path == "new-1440.avif"


def test_formats_are_compared_where_they_are_densest() -> None:
    photo = handed(
        files=(
            handed_file("a-2.webp", "webp", 2, 960, 5_000),
            handed_file("a-1.webp", "webp", 1, 480, 3_000),
            handed_file("a-2.avif", "avif", 2, 960, 6_000),
            handed_file("a-1.avif", "avif", 1, 480, 2_000),
            handed_file("a-1.jpg", "jpeg", 1, 480, 9_000),
        )
    )
    assert photo.formats == ("webp", "avif", "jpeg")
