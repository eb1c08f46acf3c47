import pytest

from lean_parcel.core.packing.handed import chosen, stands_for_px, taken
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
    both = handed(files=(*handed().files, handed_file("a.webp", "webp", 1, 720, 2_000)))
    assert both.formats == ("webp", "avif", "jpeg")  # the lightest first
    assert handed().beside().files[0].path == "new-1440.avif"


@pytest.mark.parametrize(
    ("density", "formats", "fetched", "by_old"),
    [
        (1, ("avif", "webp", "jpeg"), "a-1.avif", "a-1.jpg"),
        (2, ("webp", "avif", "jpeg"), "a-2.webp", "a-2.jpg"),
        (3, ("webp", "avif", "jpeg"), "a-2.webp", "a-2.jpg"),  # there are no more pixels
    ],
)
def test_what_is_fetched_is_compared_at_the_density_that_a_photo_is_made_for(
    density: float, formats: tuple[str, ...], fetched: str, by_old: str
) -> None:
    files = (
        handed_file("a-2.webp", "webp", 2, 960, 5_000),
        handed_file("a-1.webp", "webp", 1, 480, 3_000),
        handed_file("a-2.avif", "avif", 2, 960, 6_000),
        handed_file("a-1.avif", "avif", 1, 480, 2_000),
        handed_file("a-2.jpg", "jpeg", 2, 960, 18_000),
        handed_file("a-1.jpg", "jpeg", 1, 480, 9_000),
    )
    photo = handed(files=files, density=density)
    assert photo.formats == formats
    assert (photo.fetched.path, photo.fetched_by_old.path) == (fetched, by_old)
    assert photo.fetched == taken(photo, 1_440, density)


@pytest.mark.parametrize(
    ("width_px", "css_width_px", "density", "px"),
    [
        (2_400, 1_200, 2, 2_400),
        (1_543, 772, 2, 1_544),  # a whole CSS pixel is half a device pixel too wide
        (1_351, 675, 2, 1_350),
        (1_600, 1_200, 2, 1_600),  # the original has no more
        (1_541, 772, 2, 1_541),
        (480, 480, 1, 480),
    ],
)
def test_pixels_that_only_rounding_takes_away_are_there(
    width_px: int, css_width_px: int, density: float, px: int
) -> None:
    assert stands_for_px(width_px, css_width_px, density) == px
