"""The framed original, prepared once to be compared with many candidates."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lean_parcel.core.arrays import F32, U8
from lean_parcel.core.errors import UsageError
from lean_parcel.core.likeness import ssimulacra2
from lean_parcel.core.likeness.viewing import as_seen, seen_size_px
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.pixels import enlarged, has_alpha, is_opaque, over_background

#: The two backdrops that show faults of transparency, sRGB.
DARK, LIGHT = "#1a1a1a", "#e6e6e6"


@dataclass(frozen=True)
class Comparison:
    """The original and a candidate in its place on one backdrop, as they are seen: 8-bit codes
    (H, W, 3) of one gamut; the original `as_framed` and the candidate `as_decoded`, with the pixels
    that they have; and the prepared original."""

    backdrop: str
    gamut: Gamut
    original: U8
    candidate: U8
    as_framed: U8
    as_decoded: U8
    pyramid: list[ssimulacra2.PyramidLevel]

    @cached_property
    def candidate_xyb(self) -> list[F32]:
        """The candidate's XYB planes by scale."""
        return ssimulacra2.levels_xyb(self.candidate, self.gamut)

    @cached_property
    def is_identical(self) -> bool:
        """Whether every pixel that is seen is the same."""
        return np.array_equal(self.candidate, self.original)

    @cached_property
    def likeness(self) -> float:
        """SSIMULACRA 2, at most 100; on one core about 70 ms a megapixel."""
        if self.is_identical:
            return 100.0
        return ssimulacra2.score(self.pyramid, self.candidate_xyb)


@dataclass(frozen=True, slots=True)
class _Prepared:
    """The original on a backdrop: with all pixels, as it is seen, and its pyramid."""

    as_framed: U8
    original: U8
    pyramid: list[ssimulacra2.PyramidLevel]


class Reference:
    """A framed original, 8-bit (H, W, 3) or (H, W, 4), of which so many pixels as its `density` are
    a CSS pixel, and its prepared pyramids by backdrop. Candidates are in the same gamut.

    A backdrop is prepared when it is first needed: about 50 ms and 48 bytes a pixel that is seen.
    """

    def __init__(self, pixels: U8, gamut: Gamut = "srgb", density: float = 1.0) -> None:
        self.pixels = pixels
        self.gamut = gamut
        self.density = density
        self.seen_size_px = seen_size_px(*self.size_px, density)
        self._prepared: dict[str, _Prepared] = {}

    @property
    def size_px(self) -> tuple[int, int]:
        """Width and height."""
        return self.pixels.shape[1], self.pixels.shape[0]

    def likeness(self, candidate: U8, background: str | None = None) -> float:
        """SSIMULACRA 2 of a candidate, the worst of its `comparisons`."""
        return min(one.likeness for one in self.comparisons(candidate, background))

    def comparisons(self, candidate: U8, background: str | None = None) -> list[Comparison]:
        """A candidate beside the original, after the browser's enlargement where it has fewer
        pixels.

        With alpha on a dark and a light backdrop, of which the worse counts. A candidate composed
        on a `background` is compared with the original on that colour. Raises UsageError
        `sizes_differ` where the candidate has another shape.
        """
        in_place = self._in_place(candidate)
        if not has_alpha(self.pixels) or (is_opaque(self.pixels) and is_opaque(candidate)):
            backdrops = [LIGHT]  # nothing shines through
        else:
            backdrops = [background] if background else [DARK, LIGHT]
        return [self._on(backdrop, candidate, in_place) for backdrop in backdrops]

    def _in_place(self, candidate: U8) -> U8:
        width_px, height_px = self.size_px
        candidate_height_px, candidate_width_px = candidate.shape[:2]
        expected_height_px = height_px * candidate_width_px / width_px
        if candidate_width_px > width_px or abs(candidate_height_px - expected_height_px) > 1:
            raise UsageError(
                f"A candidate of {candidate_width_px} × {candidate_height_px} pixels cannot stand"
                f" where the original has {width_px} × {height_px}.",
                "sizes_differ",
            )
        return enlarged(candidate, width_px, height_px)

    def _on(self, backdrop: str, candidate: U8, in_place: U8) -> Comparison:
        if backdrop not in self._prepared:
            self._prepared[backdrop] = self._prepare(backdrop)
        prepared = self._prepared[backdrop]
        in_place_on = np.ascontiguousarray(over_background(in_place, backdrop, self.gamut))
        return Comparison(
            backdrop=backdrop,
            gamut=self.gamut,
            original=prepared.original,
            candidate=as_seen(in_place_on, self.seen_size_px),
            as_framed=prepared.as_framed,
            as_decoded=np.ascontiguousarray(over_background(candidate, backdrop, self.gamut)),
            pyramid=prepared.pyramid,
        )

    def _prepare(self, backdrop: str) -> _Prepared:
        as_framed = np.ascontiguousarray(over_background(self.pixels, backdrop, self.gamut))
        original = as_seen(as_framed, self.seen_size_px)
        return _Prepared(as_framed, original, ssimulacra2.prepare(original, self.gamut))


def likeness(reference: U8, candidate: U8) -> float:
    """How like an original, 8-bit sRGB (H, W, 3), a picture looks in its place, at most 100
    (SSIMULACRA 2); one of fewer pixels is enlarged as a browser does. Whoever compares several with
    one original prepares a `Reference` once.

    >>> grey = np.full((64, 64, 3), 128, np.uint8)
    >>> likeness(grey, grey), likeness(grey, grey[::2, ::2])
    (100.0, 100.0)
    >>> likeness(grey, grey + np.uint8(40)) < 80
    True
    """
    return Reference(reference).likeness(candidate)
