import io

import pyexiv2
import pytest
from PIL import Image

from lean_parcel import demo
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.metadata.reading import find_credit, read_metadata
from lean_parcel.core.original.photo import open_photo
from lean_parcel.core.original.source import Limits

OFFERS = [(photo, width_px) for photo in demo.library() for width_px in photo.widths_px]
SMALL = [(photo, photo.widths_px[0]) for photo in demo.library() if len(photo.widths_px) > 1]


@pytest.mark.parametrize(("photo", "width_px"), OFFERS)
def test_every_offer_is_sent_in_the_width_that_it_says(
    photo: demo.LibraryPhoto, width_px: int
) -> None:
    data = demo.fetch(photo.file, width_px)
    source, _ = open_photo(data, photo.file_name(width_px), Limits())
    assert source.width_px == width_px


@pytest.mark.parametrize(("photo", "width_px"), SMALL)
def test_a_smaller_copy_names_whom_the_library_names(
    photo: demo.LibraryPhoto, width_px: int
) -> None:
    data = demo.fetch(photo.file, width_px)
    with Image.open(io.BytesIO(data)) as image:
        kind = str(image.format).lower()
    assert find_credit(read_metadata(data, kind)) == photo.credit
    with pyexiv2.ImageData(data) as read:
        assert read.read_xmp()["Xmp.photoshop.Credit"] == demo.LIBRARY_NAME


def test_the_widest_offer_is_the_original_itself() -> None:
    for photo in demo.library():
        assert demo.fetch(photo.file, photo.widths_px[-1]) == demo.original(photo.file)


@pytest.mark.parametrize(
    ("file", "width_px"), [("dusk-window.jpg", 799), ("dusk-window.jpg", -1), ("../x.jpg", 800)]
)
def test_what_is_not_on_offer_is_not_sent(file: str, width_px: int) -> None:
    with pytest.raises(NotFoundError):
        demo.fetch(file, width_px)


def test_pages_of_the_demo_have_photos_within_their_budget_of_limits() -> None:
    keys = {page.key for page in demo.sample_pages()}
    assert {sample.page for sample in demo.samples()} == keys
    for page in demo.sample_pages():
        limits = [
            sample.limit_bytes or page.limit_bytes
            for sample in demo.samples()
            if sample.page == page.key
        ]
        assert len(limits) > 3
        assert page.budget_bytes > max(limits)
