"""What more bytes buy: where the lighter of two candidates is more damaged than the heavier."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.found import Damage, codes_of_strengths, strengths_by_kind
from lean_parcel.core.damage.kinds import KIND_NAMES, KINDS, SEEN, Kind, level_of
from lean_parcel.core.damage.spots import area_of, trouble_spots
from lean_parcel.core.damage.verdict import where_most
from lean_parcel.core.formats import enumerated
from lean_parcel.core.likeness.levels import NO_CHANGE
from lean_parcel.core.picture.box import Box
from lean_parcel.core.size import format_size

NOT_SEEN = "nothing seen"


@dataclass(frozen=True, slots=True, kw_only=True)
class Gain:
    """An area in pixels of the place in which a kind of damage is of a lower level in one candidate
    than in another: its level in that one (`before`), and in the first (`after`), and in which part
    of the picture most of the kind is lost."""

    kind: Kind
    box: Box
    before: str
    after: str
    where: str

    @property
    def words(self) -> str:
        """Such as `banding at the top (mild to nothing seen)`."""
        return f"{self.what} ({self.before} to {self.after})"

    @property
    def what(self) -> str:
        """Such as `banding at the top`."""
        return f"{KIND_NAMES[self.kind]} {self.where}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Bought:
    """What `more_bytes` buy: areas that are less damaged in the heavier candidate, worst first, and
    those that are more damaged in it."""

    more_bytes: int
    gains: tuple[Gain, ...]
    losses: tuple[Gain, ...]

    @property
    def sentence(self) -> str:
        """What is bought, with its price."""
        price = f"{format_size(self.more_bytes)} more" if self.more_bytes else "The same bytes"
        gained = _listed(gain.words for gain in _first_of_each_kind(self.gains))
        lost = _listed(
            f"{loss.what} ({loss.after} to {loss.before})"
            for loss in _first_of_each_kind(self.losses)
        )
        if not gained and not lost:
            return f"{price} buy nothing that is seen."
        bought = f"take away {gained}" if gained else "buy nothing that is seen"
        cost = f", but bring {lost}" if lost else ""
        return f"{price} {bought}{cost}; elsewhere they are alike."


def bought(lighter: Damage, heavier: Damage, size_px: tuple[int, int], more_bytes: int) -> Bought:
    """What a heavier candidate has over a lighter one of the same place, `size_px` wide and high,
    from what was found in both; nothing where neither shows a visible change."""
    if min(lighter.likeness, heavier.likeness) >= NO_CHANGE:
        return Bought(more_bytes=more_bytes, gains=(), losses=())
    return Bought(
        more_bytes=more_bytes,
        gains=tuple(_gains(lighter, heavier, size_px)),
        losses=tuple(_gains(heavier, lighter, size_px)),
    )


def _gains(worse: Damage, better: Damage, size_px: tuple[int, int]) -> Iterator[Gain]:
    """The trouble spots of what is in one and not in the other, where that is another level. One
    kind may hide another, so it counts only where the one is less alike than the other."""
    before, after = strengths_by_kind(worse.maps), strengths_by_kind(better.maps)
    is_worse = (before >= SEEN) & (worse.unlike > better.unlike)
    less = np.where(is_worse, np.maximum(before - after, 0), 0).astype(np.float32)
    maps = {kind: codes_of_strengths(less[number]) for number, kind in enumerate(KINDS)}
    for spot in trouble_spots(replace(worse, maps=maps), size_px):
        number = KINDS.index(spot.kind)
        at = _worst_cell(less[number], spot.box)
        words = [_level(strengths[number][at]) for strengths in (before, after)]
        if words[0] != words[1]:
            yield Gain(
                kind=spot.kind,
                box=spot.box,
                before=words[0],
                after=words[1],
                where=where_most(less[number] / (100 - less[number])),
            )


def _worst_cell(plane: F32, box: Box) -> tuple[int, int]:
    rows, columns = area_of(box)
    inside = plane[rows, columns]
    row, column = np.unravel_index(int(inside.argmax()), inside.shape)
    return rows.start + int(row), columns.start + int(column)


def _level(strength: float) -> str:
    return level_of(strength) if strength >= SEEN else NOT_SEEN


def _listed(words: Iterable[str]) -> str:
    each = list(words)
    return enumerated(each) if each else ""


def _first_of_each_kind(gains: Sequence[Gain]) -> list[Gain]:
    return list({gain.kind: gain for gain in reversed(gains)}.values())[::-1]
