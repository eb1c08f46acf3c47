"""The person's own eye: blind rounds that the page knows no answers of.

A series lives in memory until it is done, and only the newest are kept; what comes of it is an
entry of the photo's journal.
"""

import secrets
import threading
from collections import OrderedDict
from dataclasses import dataclass, replace

import numpy as np

from lean_parcel.core.decisions import acts
from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.eye.blind import Blind, Side, blind
from lean_parcel.core.eye.outcome import (
    Outcome,
    RoundsKind,
    check_outcome,
    choice_outcome,
    threshold_outcome,
)
from lean_parcel.core.eye.staircase import Staircase, staircase
from lean_parcel.core.formats import FORMAT_NAMES, MEDIA_TYPES
from lean_parcel.core.metadata.embed import NO_SIZES
from lean_parcel.core.size import format_size
from lean_parcel.store import blobs, encodes, framed
from lean_parcel.store.encodes import Encode
from lean_parcel.work.context import Context
from lean_parcel.work.photos.deciding import Deciding
from lean_parcel.work.photos.missing import ensure_framed_pixels
from lean_parcel.work.results.encodes import encode_of

_KEPT = 32
#: Fewer candidates of a format do not make a curve to climb.
_LEAST_LEVELS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Series:
    """Blind rounds of a photo. The first picture is the original, None, but in a choice; a
    threshold has a staircase, whose levels are encodes, and tosses one round at a time."""

    id: int
    photo_id: int
    kind: RoundsKind
    first: Encode | None
    seconds: tuple[Encode, ...]
    rounds: Blind
    stairs: Staircase | None = None
    outcome: Outcome | None = None

    @property
    def second(self) -> Encode:
        """The candidate of the present round."""
        return self.seconds[self.stairs.at if self.stairs else 0]

    @property
    def round(self) -> int:
        """The number of the present round, from 0."""
        return self.stairs.answers if self.stairs else self.rounds.round


class Eye:
    """Begins series, hands out their pictures, and takes answers."""

    def __init__(self, context: Context, deciding: Deciding, chance: np.random.Generator) -> None:
        self._context = context
        self._deciding = deciding
        self._chance = chance
        self._lock = threading.Lock()
        self._series: OrderedDict[int, Series] = OrderedDict()

    def check(self, photo_id: int, encode_id: int) -> Series:
        """Rounds in which the original and an encode are to be told apart. Raises NotFoundError."""
        encode = self._encode(photo_id, encode_id)
        return self._begin(photo_id, "check", None, (encode,))

    def choice(self, photo_id: int, first_id: int, second_id: int) -> Series:
        """Rounds in which the nearer of two encodes is to be chosen. Raises NotFoundError."""
        first = self._encode(photo_id, first_id)
        return self._begin(photo_id, "choice", first, (self._encode(photo_id, second_id),))

    def threshold(self, photo_id: int, encode_id: int, *, from_ruin: bool) -> Series:
        """A series over all encodes of the format of one. Raises NotFoundError, and UsageError
        `too_few_candidates`."""
        chosen = self._encode(photo_id, encode_id)
        with self._context.connection() as connection:
            made = encodes.of_framed(connection, chosen.framed_id, NO_SIZES)
        by_likeness = {
            round(each.measured.likeness, 1): each
            for each in made
            if each.trial.settings.format == chosen.trial.settings.format
            and not each.trial.is_pass_through
        }
        if len(by_likeness) < _LEAST_LEVELS:
            raise UsageError(
                f"A threshold needs at least {_LEAST_LEVELS} candidates of the format: move one"
                " along its curve first.",
                "too_few_candidates",
            )
        stairs = staircase(list(by_likeness), from_ruin=from_ruin)
        seconds = tuple(by_likeness[level] for level in stairs.levels)
        return self._begin(photo_id, "threshold", None, seconds, stairs)

    def picture(self, series_id: int, number: int, side: Side) -> tuple[bytes, str]:
        """A picture of the present round and its media type. Raises NotFoundError."""
        with self._lock:
            series = self._present(series_id, number)
        shown = series.first if series.rounds.is_first(side) else series.second
        if shown is None:
            ensure_framed_pixels(self._context, series.second.framed_id)
        with self._context.connection() as connection:
            if shown is None:
                row = framed.get(connection, series.second.framed_id)
                return blobs.get(connection, row.pixels_sha256), "image/png"
            data = blobs.get(connection, shown.file_sha256)
        return data, MEDIA_TYPES[shown.trial.settings.format]

    def answer(self, series_id: int, number: int, side: Side) -> Series:
        """Takes the answer of a round, once; with the last one what came of it is stored in the
        journal, or the round stays open. Raises NotFoundError or StorageError."""
        with self._lock:
            series = self._answered(self._present(series_id, number), side)
            if series.outcome:
                self._deciding.do(series.photo_id, acts.keep_outcome(series.outcome))
            self._series[series_id] = series
        return series

    def _present(self, series_id: int, number: int) -> Series:
        """A series in its present round."""
        series = self._series.get(series_id)
        if series is None or number != series.round or series.outcome:
            raise NotFoundError("This round is over.")
        return series

    def _answered(self, series: Series, side: Side) -> Series:
        rounds, name = series.rounds.answered(side), _name(series.second)
        if series.stairs is None:
            if not rounds.is_done:
                return replace(series, rounds=rounds)
            outcome = (
                choice_outcome(rounds, _name(series.first), name)
                if series.first
                else check_outcome(rounds, name)
            )
            return replace(series, rounds=rounds, outcome=outcome)
        stairs = series.stairs.answered(is_right=rounds.chose_first[-1])
        if not stairs.is_done:
            return replace(series, rounds=blind(self._chance, 1), stairs=stairs)
        format_name = FORMAT_NAMES[series.second.trial.settings.format]
        return replace(
            series, stairs=stairs, outcome=threshold_outcome(stairs.threshold, format_name)
        )

    def _begin(
        self,
        photo_id: int,
        kind: RoundsKind,
        first: Encode | None,
        seconds: tuple[Encode, ...],
        stairs: Staircase | None = None,
    ) -> Series:
        with self._lock:
            series = Series(
                id=secrets.randbelow(2**53),
                photo_id=photo_id,
                kind=kind,
                first=first,
                seconds=seconds,
                rounds=blind(self._chance, 1) if stairs else blind(self._chance),
                stairs=stairs,
            )
            self._series[series.id] = series
            while len(self._series) > _KEPT:
                self._series.popitem(last=False)
        return series

    def _encode(self, photo_id: int, encode_id: int) -> Encode:
        with self._context.connection() as connection:
            return encode_of(connection, photo_id, encode_id).encode


def _name(encode: Encode) -> str:
    trial = encode.trial
    name = "the original" if trial.is_pass_through else FORMAT_NAMES[trial.settings.format]
    return f"{name}, {format_size(encode.measured.size_bytes)}"
