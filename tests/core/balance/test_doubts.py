"""Which encodes are asked for, and that they make an allocation sure."""

import math

import pytest

from lean_parcel.core.balance.allocation import Objective, Share, allocated
from lean_parcel.core.balance.doubts import Doubt, Outlook, trial_for
from lean_parcel.core.candidates.trial import Measured, Trial
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    JpegSettings,
    PassThrough,
    PngSettings,
    Settings,
    WebpSettings,
)
from tests.recorded import Recorded

PHOTOS = 4
BUDGET_BYTES = 90_000


def trial(settings: Settings, width_px: int = 300) -> Trial:
    return Trial(settings=settings, width_px=width_px, height_px=200)


def jpeg(quality: int, width_px: int = 300) -> Trial:
    return trial(JpegSettings(quality=quality, chroma="4:2:0"), width_px)


def measured(made: Trial, photo: int) -> Measured:
    """A photo of which twice the bytes are worth ten points, heavier than others by `photo`."""
    assert isinstance(made.settings, JpegSettings)
    size_bytes = round((photo + 1) * 900 * 1.04**made.settings.quality)
    return Measured(size_bytes=size_bytes, likeness=10 * math.log2(size_bytes / (photo + 1)) - 60)


def shares_of(trials: list[list[Trial]]) -> list[Share]:
    return [
        Share(options=tuple(measured(each, photo) for each in of_photo), weight=1 + photo / 2)
        for photo, of_photo in enumerate(trials)
    ]


def value(shares: list[Share], objective: Objective) -> float:
    chosen = allocated(shares, BUDGET_BYTES, objective).chosen
    found = [share.options[i].likeness for share, i in zip(shares, chosen, strict=True)]
    if objective == "worst":
        return min(found)
    return sum(each.weight * likeness for each, likeness in zip(shares, found, strict=True))


def outlook(trials: list[list[Trial]], budget_bytes: int, objective: Objective) -> Outlook:
    """Of photos with these encodes, of which all others can be made."""
    shares = shares_of(trials)

    def trial_of(doubt: Doubt) -> Trial | None:
        of_photo = trials[doubt.photo]
        return trial_for(doubt, of_photo, shares[doubt.photo].options, of_photo)

    return Outlook(shares, budget_bytes, objective, trial_of)


def off(shares: list[Share], budget_bytes: int, chosen: list[int], made: Trial | None) -> float:
    """By how much the first photo would change, where every doubt asks for the same encode."""
    return Outlook(shares, budget_bytes, "all", lambda _: made).changes(chosen)[0]


@pytest.mark.parametrize("objective", ["worst", "all"])
def test_a_few_encodes_a_photo_make_the_answer_as_good_as_all_there_are(
    objective: Objective,
) -> None:
    trials = [[jpeg(10), jpeg(50), jpeg(90)] for _ in range(PHOTOS)]
    before = value(shares_of(trials), objective)
    encodes = 0
    while missing := outlook(trials, BUDGET_BYTES, objective).missing():
        photo, wanted = missing[0]
        trials[photo].append(wanted)
        encodes += 1
    assert encodes <= 4 * PHOTOS
    after = value(shares_of(trials), objective)
    every = shares_of([[jpeg(quality) for quality in range(1, 101)] for _ in range(PHOTOS)])
    assert before < after
    assert value(every, objective) - after < (0.6 if objective == "worst" else 3)


def points(*pairs: tuple[int, float]) -> Share:
    return Share(options=tuple(Measured(size_bytes=size, likeness=at) for size, at in pairs))


def test_a_photo_is_off_by_what_it_would_get_of_encodes_that_are_missed() -> None:
    share = points((10_000, 50), (40_000, 80))
    change = off([share], 20_000, [0], jpeg(50))
    assert change == pytest.approx(15, abs=2)  # half-way on the logarithm of bytes


def test_a_photo_is_not_off_by_what_cannot_be_made() -> None:
    share = points((10_000, 50), (40_000, 80))
    assert off([share], 20_000, [0], None) < 1


def test_a_photo_whose_bytes_lie_at_a_measured_encode_is_hardly_off_however_wide_the_gaps() -> None:
    share = points((10_000, 50), (20_000, 65), (40_000, 80))
    assert off([share], 20_000, [1], jpeg(50)) < 0.5


def test_where_no_change_is_seen_nothing_is_off() -> None:
    shares = [points((10_000, 60), (20_000, 95)), points((10_000, 50), (20_000, 60))]
    assert off(shares, 10**6, [1, 1], jpeg(50)) == 0


def test_where_measured_encodes_are_dense_none_is_missed() -> None:
    share = points(*((round(1000 * 1.05**step), 50 + step) for step in range(20)))
    assert Outlook([share], 1800, "all", lambda _: jpeg(50)).missing() == []


@pytest.mark.parametrize("factor", [0.5, 2.0])
def test_it_goes_on_beyond_what_was_measured(factor: float) -> None:
    trials = [jpeg(50), jpeg(54)]
    (share,) = shares_of([trials])
    budget_bytes = round(factor * share.options[0].size_bytes)
    for _ in range(4):
        trials += [wanted for _, wanted in outlook([trials], budget_bytes, "all").missing()][:1]
    found = allocated(shares_of([trials]), budget_bytes, "all")
    assert found.missing_bytes == 0
    assert 0.94 * budget_bytes < found.spent_bytes


def wanted(
    nearest: Trial, other: Trial | None, size_bytes: float, *made: Trial, other_bytes: int = 2000
) -> Trial | None:
    """What a doubt asks for, where the nearest encode has 1000 bytes."""
    options = [Measured(size_bytes=size, likeness=50) for size in (1000, other_bytes)]
    trials = [nearest, other] if other else [nearest]
    doubt = Doubt(photo=0, nearest=0, other=1 if other else None, size_bytes=size_bytes, worth=1)
    return trial_for(doubt, trials, options, [*trials, *made])


def test_between_two_encodes_of_a_mode_lies_a_quality_that_is_not_made() -> None:
    middle = math.sqrt(2) * 1000
    assert wanted(jpeg(40), jpeg(60), middle) == jpeg(50)
    assert wanted(jpeg(40), jpeg(60), 1000 * 2**0.25) == jpeg(45)
    assert wanted(jpeg(40), jpeg(60), middle, jpeg(50)) in (jpeg(49), jpeg(51))
    assert wanted(jpeg(40), jpeg(41), middle) is None
    assert wanted(jpeg(60), jpeg(40), 707, other_bytes=500) == jpeg(50)


def test_beside_an_encode_of_another_mode_or_size_the_known_slope_holds() -> None:
    assert wanted(jpeg(60), jpeg(40, width_px=200), 1000 / 1.04**5, other_bytes=700) == jpeg(55)
    assert wanted(jpeg(60), None, 1000 * 1.04**5) == jpeg(65)
    avif = trial(AvifSettings(quality=60, chroma="4:2:0"))
    lower = wanted(avif, jpeg(40), 800, other_bytes=500)
    assert lower
    assert isinstance(lower.settings, AvifSettings)
    assert 45 < lower.settings.quality < 60


def test_palettes_have_steps_and_lossless_files_and_originals_have_none() -> None:
    palette = trial(PngSettings(colours=128))
    fewer = wanted(palette, None, 800)
    assert fewer
    assert isinstance(fewer.settings, PngSettings)
    assert 16 < (fewer.settings.colours or 0) < 128
    lossless = trial(PngSettings(colours=None))
    for settings in (WebpSettings(quality=75, lossless=True), PassThrough(format="jpeg")):
        assert wanted(trial(settings), lossless, 1400) is None
        assert wanted(trial(settings), jpeg(40), 2000 / 1.04**5) == jpeg(35)


@pytest.mark.parametrize("objective", ["worst", "all"])
def test_what_is_missed_at_many_budgets(objective: Objective, recorded: Recorded) -> None:
    trials = [[jpeg(12), jpeg(48), jpeg(55, 200)], [jpeg(20), jpeg(88)], [jpeg(70)]]
    shares = shares_of(trials)
    told = {}
    for budget_bytes in (8_000, 20_000, 45_000, 90_000, 300_000):
        found = outlook(trials, budget_bytes, objective)
        chosen = allocated(shares, budget_bytes, objective)
        told[budget_bytes] = {
            "chosen": chosen,
            "missed": found.missing(),
            "off by": found.changes(chosen.chosen),
        }
    recorded(told)
