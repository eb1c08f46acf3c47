"""What more bytes buy: where the lighter of two candidates is more damaged than the heavier."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from lean_parcel.core.arrays import F32
from lean_parcel.core.damage.found import Damage, codes_of_strengths, strengths_by_kind
from lean_parcel.core.damage.kinds import (
    KIND_NAMES,
    KINDS,
    LEVELS_FROM,
    SEEN,
    Kind,
    seen_words,
)
from lean_parcel.core.damage.spots import area_of, trouble_spots
from lean_parcel.core.damage.verdict import where_most
from lean_parcel.core.formats import enumerated
from lean_parcel.core.likeness.levels import NO_CHANGE
from lean_parcel.core.picture.box import Box
from lean_parcel.core.size import format_size


@dataclass(frozen=True, slots=True, kw_only=True)
class LessArea:
    """An area in pixels of the place in which a kind of damage is of a lower level in one of two
    candidates: its level in the other (`before`), and in that one (`after`), in words."""

    kind: Kind
    box: Box
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LessKind:
    """A kind of damage that is of a lower level somewhere in one of two candidates: its levels
    where it is lower by most, and in which part of the picture most of that is."""

    kind: Kind
    before: str
    after: str
    where: str

    @property
    def what(self) -> str:
        """Such as `banding at the top`."""
        return f"{KIND_NAMES[self.kind]} {self.where}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Bought:
    """What `more_bytes` buy: the kinds of which there is less in the heavier candidate (`taken`),
    and those of which there is more (`brought`), each kind once, by how much; and the areas, of
    these the worst."""

    more_bytes: int
    taken: tuple[LessKind, ...] = ()
    brought: tuple[LessKind, ...] = ()
    gains: tuple[LessArea, ...] = ()
    losses: tuple[LessArea, ...] = ()

    @property
    def sentence(self) -> str:
        """What is bought, with its price."""
        price = f"{format_size(self.more_bytes)} more" if self.more_bytes else "The same bytes"
        taken = enumerated(f"{one.what} ({one.before} to {one.after})" for one in self.taken)
        brought = enumerated(f"{one.what} ({one.after} to {one.before})" for one in self.brought)
        if not taken and not brought:
            return f"{price} buy nothing that is seen."
        bought = f"take away {taken}" if taken else "buy nothing that is seen"
        cost = f", but bring {brought}" if brought else ""
        return f"{price} {bought}{cost}; elsewhere they are alike."


def bought(lighter: Damage, heavier: Damage, size_px: tuple[int, int], more_bytes: int) -> Bought:
    """What a heavier candidate has over a lighter one of the same place, `size_px` wide and high,
    from what was found in both; nothing where neither shows a visible change."""
    if min(lighter.likeness, heavier.likeness) >= NO_CHANGE:
        return Bought(more_bytes=more_bytes)
    less, more = _less(lighter, heavier), _less(heavier, lighter)
    return Bought(
        more_bytes=more_bytes,
        taken=tuple(_kinds(less, lighter, heavier)),
        brought=tuple(_kinds(more, heavier, lighter)),
        gains=tuple(_areas(less, lighter, heavier, size_px)),
        losses=tuple(_areas(more, heavier, lighter, size_px)),
    )


def _less(worse: Damage, better: Damage) -> F32:
    """By how much less there is of each kind, (kinds, rows, columns), strengths 0 to 100; 0 where
    that is of no lower level, or too little to be seen. One kind may hide another, so it counts
    only where the one is less alike than the other."""
    before, after = strengths_by_kind(worse.maps), strengths_by_kind(better.maps)
    is_lower = np.digitize(before, LEVELS_FROM) > np.digitize(after, LEVELS_FROM)
    is_less = is_lower & (before - after >= SEEN) & (worse.unlike > better.unlike)
    return np.asarray(np.where(is_less, before - after, 0), np.float32)


def _kinds(less: F32, worse: Damage, better: Damage) -> Iterator[LessKind]:
    most = less.max((1, 2))
    for number in np.argsort(-most, kind="stable"):
        if most[number]:
            at = np.unravel_index(int(less[number].argmax()), less[number].shape)
            before, after = _words_at(worse, better, int(number), at)
            where = where_most(less[number] / (100 - less[number]))
            yield LessKind(kind=KINDS[number], before=before, after=after, where=where)


def _areas(
    less: F32, worse: Damage, better: Damage, size_px: tuple[int, int]
) -> Iterator[LessArea]:
    maps = {kind: codes_of_strengths(less[number]) for number, kind in enumerate(KINDS)}
    for spot in trouble_spots(replace(worse, maps=maps), size_px):
        number, (rows, columns) = KINDS.index(spot.kind), area_of(spot.box)
        inside = less[number][rows, columns]
        row, column = np.unravel_index(int(inside.argmax()), inside.shape)
        at = rows.start + row, columns.start + column
        before, after = _words_at(worse, better, number, at)
        yield LessArea(kind=spot.kind, box=spot.box, before=before, after=after)


def _words_at(
    worse: Damage, better: Damage, number: int, at: tuple[np.intp, ...]
) -> tuple[str, str]:
    """The levels of a kind in both at a cell, in words."""
    before, after = (strengths_by_kind(each.maps)[number][at] for each in (worse, better))
    return seen_words(float(before)), seen_words(float(after))
