import pytest

from lean_parcel.core.candidates.close_call import (
    TOO_CLOSE,
    close_call,
    offered,
    second_opinion,
)
from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    EncoderSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
)
from lean_parcel.core.framing.place import Place

LIMIT = Aim(place=Place(size="100"), limit_bytes=10_000)
JPEG = JpegSettings(quality=80, chroma="4:2:0")
WEBP, AVIF, PNG = (
    WebpSettings(quality=80),
    AvifSettings(quality=60, chroma="4:2:0"),
    PngSettings(colours=64),
)


def in_order(*measured: tuple[EncoderSettings, int, float], aim: Aim = LIMIT) -> list[Candidate]:
    return ranked(
        [
            judged(
                Trial(settings=settings, width_px=100, height_px=80),
                Measured(size_bytes=size_bytes, likeness=likeness),
                aim,
            )
            for settings, size_bytes, likeness in measured
        ],
        aim,
    )


def formats(candidates: list[Candidate]) -> list[str]:
    return [each.trial.settings.format for each in candidates]


def test_of_two_as_good_the_lighter_one_is_the_better_buy() -> None:
    ranking = in_order((AVIF, 9_900, 84.0), (WEBP, 7_000, 84.0 - 0.9 * TOO_CLOSE), (PNG, 9_000, 60))
    call = close_call(ranking, LIMIT)
    assert call
    assert formats(list(call.candidates)) == ["webp", "avif"]
    assert call.sentence == ("WebP and AVIF look equally good; WebP is lighter, by 2.9 kB.")
    assert formats(offered(ranking, close_call(ranking, LIMIT))) == ["webp", "avif", "png"]


def test_of_two_that_weigh_the_same_the_one_that_opens_everywhere_is() -> None:
    ranking = in_order((AVIF, 9_800, 84.0), (JPEG, 9_900, 83.5))
    call = close_call(ranking, LIMIT)
    assert call
    assert call.sentence.endswith("look equally good; JPEG opens everywhere.")


@pytest.mark.parametrize(("jpeg_bytes", "buys"), [(9_260, "JPEG"), (9_290, "AVIF")])
def test_what_weighs_three_percent_more_does_not_weigh_the_same(jpeg_bytes: int, buys: str) -> None:
    call = close_call(in_order((AVIF, 9_000, 84.0), (JPEG, jpeg_bytes, 83.5)), LIMIT)
    assert call
    assert f"; {buys} " in call.sentence


def test_three_are_named_in_a_row_and_each_format_once() -> None:
    ranking = in_order(
        (AVIF, 9_900, 84.0), (WEBP, 9_000, 83.9), (PNG, 9_100, 83.8), (PNG, 9_200, 83.7)
    )
    call = close_call(ranking, LIMIT)
    assert call
    assert call.sentence.startswith("PNG, WebP and AVIF look equally good; PNG opens")
    alone = close_call(in_order((PNG, 9_100, 83.8), (PNG, 9_200, 83.7)), LIMIT)
    assert alone
    assert alone.sentence.startswith("2 PNG files look equally good; the first is lighter")


def test_what_loses_transparency_is_no_better_buy() -> None:
    ranking = in_order((WEBP, 9_000, 84.0), (JPEG, 8_000, 83.5))
    assert close_call(ranking, LIMIT, is_transparent=True) is None
    assert close_call(ranking, LIMIT) is not None


@pytest.mark.parametrize(
    "measured",
    [
        [(AVIF, 9_900, 84.0), (WEBP, 7_000, 84.0 - TOO_CLOSE)],
        [(AVIF, 9_900, 84.0), (WEBP, 11_000, 83.9)],
        [(AVIF, 9_900, 84.0)],
        [(AVIF, 12_000, 84.0), (WEBP, 11_000, 83.9)],
        [],
    ],
    ids=["apart", "over the limit", "alone", "none fits", "none"],
)
def test_what_is_apart_is_no_close_call(
    measured: list[tuple[EncoderSettings, int, float]],
) -> None:
    ranking = in_order(*measured)
    assert close_call(ranking, LIMIT) is None
    assert offered(ranking, close_call(ranking, LIMIT)) == ranking


def test_under_a_likeness_bytes_decide() -> None:
    aim = Aim(place=Place(size="100"), limit_bytes=10_000, likeness=80)
    assert close_call(in_order((AVIF, 9_900, 84.0), (WEBP, 7_000, 83.9), aim=aim), aim) is None


def test_of_one_format_the_second_metric_names_files_by_their_bytes() -> None:
    ranking = in_order((WEBP, 9_900, 84.0), (WEBP, 9_000, 80.0))
    other = second_opinion(ranking, [0.06, 0.05], LIMIT)
    assert other
    assert "the WebP of 9.0 kB nearer to the original than that of 9.9 kB" in other.sentence


def test_a_second_metric_with_another_winner_is_told() -> None:
    ranking = in_order((AVIF, 9_900, 84.0), (WEBP, 9_000, 80.0), (JPEG, 9_000, 70.0))
    other = second_opinion(ranking, [0.06, 0.05, 0.08], LIMIT)
    assert other
    assert other.candidate == ranking[1]
    assert "WebP nearer to the original than AVIF" in other.sentence
    assert second_opinion(ranking, [0.05, 0.06, 0.08], LIMIT) is None
    assert second_opinion(ranking, [0.050, 0.0495, 0.08], LIMIT) is None  # too little to say
    assert second_opinion(ranking, [0.06, None, 0.08], LIMIT) is None


def test_what_loses_transparency_is_as_good_as_nothing() -> None:
    ranking = in_order((AVIF, 9_800, 84.0), (JPEG, 7_000, 83.8))
    assert close_call(ranking, LIMIT)
    assert close_call(ranking, LIMIT, is_transparent=True) is None
