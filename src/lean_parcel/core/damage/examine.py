"""Examining a candidate: the strength of each kind, over the whole picture and by place, and the
verdict."""

import cv2
import numpy as np

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.damage.found import Damage, codes_of
from lean_parcel.core.damage.kinds import KINDS, Maps, strength_of
from lean_parcel.core.damage.lost_profile import lost_profile
from lean_parcel.core.damage.measures.together import measured
from lean_parcel.core.damage.measures.view import CELL_PX, View, view_of
from lean_parcel.core.damage.spots import glanced
from lean_parcel.core.damage.verdict import NOTHING_SEEN, verdict
from lean_parcel.core.likeness.flip import Seen, flip, seen
from lean_parcel.core.likeness.reference import Comparison, Reference
from lean_parcel.core.picture.resample import reduce

#: Minkowski exponent of the sum over a picture: the worst areas count most, and more of them more.
_POOLING = 6


class Examiner:
    """Examines candidates of one original; what depends on the original alone is kept."""

    def __init__(self, reference: Reference) -> None:
        self.reference = reference
        self._originals: dict[str, View] = {}
        self._reduced: dict[tuple[str, int, int], View] = {}
        self._seen: dict[str, Seen] = {}

    def examine(self, candidate: U8, background: str | None = None) -> Damage:
        """The damage of a candidate, decoded, 8-bit (H, W, 3) or (H, W, 4); on the worse backdrop
        where it is transparent. Raises UsageError `sizes_differ` as `Reference.comparisons` does.
        """
        comparisons = self.reference.comparisons(candidate, background)
        likeness = min(one.likeness for one in comparisons)
        if all(one.is_identical for one in comparisons):
            return self._nothing(likeness)
        found = [self._measured(one) for one in comparisons]
        worst = _worst_of([maps for maps, _ in found])
        maps = {kind: self._cropped(plane) for kind, plane in worst.items()}
        unlike = self._in_place(self._cropped(np.maximum.reduce([plane for _, plane in found])))
        glances = {kind: self._in_place(plane) for kind, plane in glanced(maps).items()}
        return Damage(
            likeness=likeness,
            strengths={kind: strength_of(_pooled(plane)) for kind, plane in maps.items()},
            verdict=verdict(glances, lost_profile(comparisons[0], glances["colour-shift"])),
            maps={kind: codes_of(plane) for kind, plane in glances.items()},
            unlike=np.asarray(np.rint(250 * unlike), np.uint8),
        )

    def flip(self, candidate: U8, background: str | None = None) -> float:
        """The mean FLIP of a candidate, on the worse backdrop: 0 is identical, 1 the largest
        difference. About 250 ms a megapixel."""
        return max(self._flip(one) for one in self.reference.comparisons(candidate, background))

    def _flip(self, comparison: Comparison) -> float:
        if comparison.is_identical:
            return 0.0
        backdrop, gamut = comparison.backdrop, comparison.gamut
        if backdrop not in self._seen:
            self._seen[backdrop] = seen(comparison.original, gamut)
        return flip(self._seen[backdrop], seen(comparison.candidate, gamut))

    def _nothing(self, likeness: float) -> Damage:
        blank = np.zeros(self._shape, np.uint8)
        return Damage(
            likeness=likeness,
            strengths=dict.fromkeys(KINDS, 0.0),
            verdict=NOTHING_SEEN,
            maps=dict.fromkeys(KINDS, blank),
            unlike=blank,
        )

    @property
    def _shape(self) -> tuple[int, int]:
        return _cells_of(self.reference.size_px)

    def _cropped(self, plane: F32) -> F32:
        """Without the mirror image by which a small picture was continued."""
        rows, columns = _cells_of(self.reference.seen_size_px)
        return np.ascontiguousarray(plane[:rows, :columns])

    def _in_place(self, plane: F32) -> F32:
        """A map of cells as they are seen, on cells of the place."""
        size_px, seen_size_px = self.reference.size_px, self.reference.seen_size_px
        if seen_size_px == size_px:
            return plane
        across, down = np.array(seen_size_px) / size_px
        to_seen = np.array([[across, 0, (across - 1) / 2], [0, down, (down - 1) / 2]])
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        size = self._shape[::-1]
        made = cv2.warpAffine(plane, to_seen, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(made, np.float32)

    def _measured(self, comparison: Comparison) -> tuple[Maps, F32]:
        original = self._original(comparison)
        height_px, width_px = comparison.as_decoded.shape[:2]
        if (width_px, height_px) == self.reference.size_px == self.reference.seen_size_px:
            return measured(original, original, comparison)
        return measured(original, self._own(comparison, width_px, height_px), comparison)

    def _original(self, comparison: Comparison) -> View:
        backdrop = comparison.backdrop
        if backdrop not in self._originals:
            xyb = [level.xyb for level in comparison.pyramid]
            self._originals[backdrop] = view_of(comparison.original, comparison.gamut, xyb)
        return self._originals[backdrop]

    def _own(self, comparison: Comparison, width_px: int, height_px: int) -> View:
        """The original with as many pixels as the candidate; those of one size are kept."""
        key = (comparison.backdrop, width_px, height_px)
        if key not in self._reduced:
            kept = {one: view for one, view in self._reduced.items() if one[1:] == key[1:]}
            reduced = reduce(comparison.as_framed, width_px, height_px)
            self._reduced = {**kept, key: view_of(reduced, comparison.gamut)}
        return self._reduced[key]


def _cells_of(size_px: tuple[int, int]) -> tuple[int, int]:
    """Rows and columns of cells of a picture."""
    return -(-size_px[1] // CELL_PX), -(-size_px[0] // CELL_PX)


def _worst_of(found: list[Maps]) -> Maps:
    return {kind: np.maximum.reduce([maps[kind] for maps in found]) for kind in KINDS}


def _pooled(plane: F32) -> float:
    return float((plane.astype(np.float64) ** _POOLING).mean() ** (1 / _POOLING))
