"""The framed original, prepared once to be compared with many candidates."""

import numpy as np

from lean_parcel.core.arrays import U8
from lean_parcel.core.errors import UsageError
from lean_parcel.core.likeness import ssimulacra2
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.pixels import enlarged, has_alpha, is_opaque, over_background

#: The two backdrops that show faults of transparency, sRGB.
DARK, LIGHT = "#1a1a1a", "#e6e6e6"


class Reference:
    """A framed original, 8-bit (H, W, 3) or (H, W, 4), and its prepared pyramids by backdrop.
    Candidates are in the same gamut.

    A backdrop is prepared when it is first needed: about 50 ms and 48 bytes a pixel.
    """

    def __init__(self, pixels: U8, gamut: Gamut = "srgb") -> None:
        self.pixels = pixels
        self.gamut = gamut
        self._composed: dict[str, U8] = {}
        self._pyramids: dict[str, list[ssimulacra2.Level]] = {}

    @property
    def size_px(self) -> tuple[int, int]:
        """Width and height."""
        return self.pixels.shape[1], self.pixels.shape[0]

    def likeness(self, candidate: U8, background: str | None = None) -> float:
        """SSIMULACRA 2 of a candidate, at most 100, after the browser's enlargement where it has
        fewer pixels; on one core about 70 ms a megapixel.

        With alpha it is the worse of a dark and a light backdrop. A candidate composed on a
        `background` is compared with the original on that colour. Raises UsageError
        `sizes_differ` where the candidate has another shape.
        """
        in_place = self._in_place(candidate)
        if not has_alpha(self.pixels) or (is_opaque(self.pixels) and is_opaque(candidate)):
            backdrops = [LIGHT]  # nothing shines through
        else:
            backdrops = [background] if background else [DARK, LIGHT]
        return min(self._on(backdrop, in_place) for backdrop in backdrops)

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

    def _on(self, backdrop: str, candidate: U8) -> float:
        candidate = over_background(candidate, backdrop)
        if backdrop not in self._composed:
            self._composed[backdrop] = over_background(self.pixels, backdrop)
        if np.array_equal(candidate, self._composed[backdrop]):
            return 100.0
        if backdrop not in self._pyramids:
            self._pyramids[backdrop] = ssimulacra2.prepare(
                np.ascontiguousarray(self._composed[backdrop]), self.gamut
            )
        return ssimulacra2.score(
            self._pyramids[backdrop], np.ascontiguousarray(candidate), self.gamut
        )
