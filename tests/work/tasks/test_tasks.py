import io

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.arrays import U8
from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.settings import JpegSettings, WebpSettings
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.pixels import enlarged
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import decode, lossless_png
from lean_parcel.core.search.ladder import PIXEL_RATIOS
from lean_parcel.work.tasks.damage import likeness_task
from lean_parcel.work.tasks.encoder_input import EncoderInput, pixels_sent, reference_of
from lean_parcel.work.tasks.encoding import encode_task, measure_ladder_task
from lean_parcel.work.tasks.framing import frame_task
from tests.builders import cutout, file, photo

PLACE = Place(size="200")


def test_framing_and_the_ladder_say_what_a_search_needs_to_know() -> None:
    framed = frame_task(file(photo(400, 300)), "p.png", Framing(), PLACE, Limits())
    assert [rung.width_px for rung in framed.search_input.rungs] == [200]
    assert not framed.search_input.is_measured
    encoder_input = EncoderInput(pixels_png=framed.pixels_png)
    search_input = measure_ladder_task(encoder_input, framed.search_input)
    assert search_input.is_measured
    rungs = search_input.rungs
    assert [rung.width_px for rung in rungs] == [round(200 * ratio) for ratio in PIXEL_RATIOS]
    assert rungs[0].ceiling == 100
    assert [rung.ceiling for rung in rungs] == sorted((r.ceiling for r in rungs), reverse=True)
    pixels = decode(framed.pixels_png)
    assert pixels.shape == (150, 200, 3)
    half = enlarged(reduce(pixels, rungs[2].width_px, rungs[2].height_px), 200, 150)
    assert rungs[2].ceiling == Reference(pixels).likeness(half)
    assert rungs[0].quick_png_size_bytes == len(framed.pixels_png)
    with Image.open(io.BytesIO(framed.thumbnail_webp)) as thumbnail:
        assert thumbnail.size == (168, 126)


@pytest.mark.parametrize(("width_px", "count"), [(1, 1), (15, 1), (24, 2), (64, 5)])
def test_pixel_counts_end_where_they_are_of_no_use(width_px: int, count: int) -> None:
    framed = frame_task(file(photo(width_px, 9)), "p.png", Framing(), PLACE, Limits())
    encoder_input = EncoderInput(pixels_png=framed.pixels_png)
    search_input = measure_ladder_task(encoder_input, framed.search_input)
    assert len(search_input.rungs) == count


def test_transparency_is_told_from_an_alpha_that_is_not_used() -> None:
    opaque = np.dstack([photo(), np.full((64, 96), 255, np.uint8)])
    for pixels, is_transparent in ((opaque, False), (cutout(), True)):
        framed = frame_task(file(pixels), "p.png", Framing(), PLACE, Limits())
        assert framed.search_input.is_transparent == is_transparent


def test_grey_is_told_from_colour() -> None:
    def is_grey(pixels: U8) -> bool:
        framed = frame_task(file(pixels), "p.png", Framing(), PLACE, Limits())
        encoder_input = EncoderInput(pixels_png=framed.pixels_png)
        return measure_ladder_task(encoder_input, framed.search_input).is_grey

    assert is_grey(np.repeat(photo()[..., :1], 3, axis=2))
    assert not is_grey(photo())


def test_an_encode_is_measured_in_its_place() -> None:
    framed = frame_task(file(photo()), "p.png", Framing(), PLACE, Limits())
    trial = Trial(settings=WebpSettings(quality=80), width_px=48, height_px=32)
    made = encode_task(EncoderInput(pixels_png=framed.pixels_png), trial)
    with Image.open(io.BytesIO(made.data)) as image:
        assert image.size == (48, 32)
    in_place = enlarged(decode(made.data), 96, 64)
    assert made.measured.likeness == Reference(photo()).likeness(in_place)


def test_a_filled_jpeg_is_compared_on_its_own_colour() -> None:
    framed = frame_task(file(cutout()), "c.png", Framing(), PLACE, Limits())
    settings = JpegSettings(quality=95, chroma="4:4:4", background="#204060")
    trial = Trial(settings=settings, width_px=96, height_px=64)
    made = encode_task(EncoderInput(pixels_png=framed.pixels_png), trial)
    assert made.measured.likeness > 40


def test_likeness_of_files_reads_any_format() -> None:
    png, webp = file(photo()), file(photo(), "WEBP", lossless=True)
    assert likeness_task(png, "a.png", webp, "b.webp", Limits()) == 100


def test_the_pixels_of_an_encode_are_reduced_once_and_few_are_kept() -> None:
    encoder_input = EncoderInput(pixels_png=lossless_png(photo(96, 64)))
    assert pixels_sent(encoder_input, 96, 64) is reference_of(encoder_input).pixels
    first = pixels_sent(encoder_input, 48, 32)
    assert np.array_equal(first, reduce(photo(96, 64), 48, 32))
    assert pixels_sent(encoder_input, 48, 32) is first
    for width_px in (24, 30, 36, 42):
        pixels_sent(encoder_input, width_px, 20)
    assert pixels_sent(encoder_input, 48, 32) is not first
