"""What a PNG says of its colours beside a profile: `cICP`, `sRGB`, `gAMA` and `cHRM` chunks, by
their precedence (PNG 3rd edition, 4.3 and 11.3.2), read as browsers read them.

Where the standard leaves a choice, it is what Chromium 156 does, measured by its canvas: a transfer
of BT.709 is shown as the power of 2.4 of a reference display (BT.1886), `cHRM` counts beside `gAMA`
only, a `gAMA` of 1/2.2 alone is that of sRGB, and a `cICP` of a narrow range does not count.
"""

import struct
from dataclasses import dataclass

from lean_parcel.core.metadata.containers import png_parts
from lean_parcel.core.picture.icc import D65, ColourSpace, matrix_profile

#: Primaries and white by their code (ITU-T H.273, table 2).
_PRIMARIES = {
    1: ((0.640, 0.330), (0.300, 0.600), (0.150, 0.060), D65),
    5: ((0.640, 0.330), (0.290, 0.600), (0.150, 0.060), D65),
    6: ((0.630, 0.340), (0.310, 0.595), (0.155, 0.070), D65),
    9: ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046), D65),
    12: ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060), D65),
}
_SRGB_CURVE = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
#: Transfers by their code (ITU-T H.273, table 3), those of more light than paper white left out.
_TRANSFERS: dict[int, float | tuple[float, float, float, float, float]] = {
    1: 2.4,
    4: 2.2,
    5: 2.8,
    6: 2.4,
    8: 1.0,
    13: _SRGB_CURVE,
    14: 2.4,
    15: 2.4,
}
_PQ, _HLG = 16, 18
_SIGNALS = {b"cICP", b"iCCP", b"sRGB", b"gAMA", b"cHRM"}
#: `gAMA` has the power by which light becomes codes, times this; 1/2.2 alone stands for sRGB.
_GAMMA_UNIT, _USUAL_GAMMA = 100_000, 45_455


@dataclass(frozen=True, slots=True, kw_only=True)
class Signalled:
    """What a file says of its colours without a profile: they are those of a profile made for them,
    plain sRGB where that is empty, or `is_hdr`, of a transfer with more light than paper white."""

    profile: bytes = b""
    is_hdr: bool = False


def signalled(data: bytes, kind: str) -> Signalled | None:
    """What a file of a format says; None where it says nothing that goes before its profile."""
    if kind != "png":
        return None
    chunks = {
        part.kind: data[part.payload_start : part.end - 4]
        for part in png_parts(data)
        if part.kind in _SIGNALS
    }
    if (found := _of_cicp(chunks.get(b"cICP", b""))) is not None:
        return found
    if b"iCCP" in chunks or b"sRGB" in chunks:
        return None
    return _of_gamma(chunks.get(b"gAMA", b""), chunks.get(b"cHRM", b""))


def _of_cicp(payload: bytes) -> Signalled | None:
    if len(payload) != 4 or payload[2] != 0 or payload[3] != 1:
        return None
    primaries, transfer = _PRIMARIES.get(payload[0]), payload[1]
    if transfer in (_PQ, _HLG):
        return Signalled(is_hdr=True)
    if primaries is None or transfer not in _TRANSFERS:
        return None
    return _of(*primaries, _TRANSFERS[transfer])


def _of_gamma(gama: bytes, chrm: bytes) -> Signalled | None:
    gamma = int.from_bytes(gama, "big") if len(gama) == 4 else 0
    primaries = _PRIMARIES[1]
    if len(chrm) == 32:
        white, red, green, blue = (
            (x / _GAMMA_UNIT, y / _GAMMA_UNIT) for x, y in struct.iter_unpack(">II", chrm)
        )
        primaries = red, green, blue, white
    elif gamma == _USUAL_GAMMA:
        return None
    return _of(*primaries, _GAMMA_UNIT / gamma) if 0 < gamma < 2**31 else None


def _of(
    red: tuple[float, float],
    green: tuple[float, float],
    blue: tuple[float, float],
    white: tuple[float, float],
    transfer: float | tuple[float, float, float, float, float],
) -> Signalled | None:
    if (red, green, blue, white) == _PRIMARIES[1] and transfer == _SRGB_CURVE:
        return Signalled()
    space = ColourSpace(red=red, green=green, blue=blue, white=white, transfer=transfer)
    try:
        return Signalled(profile=matrix_profile(space))
    except (ValueError, struct.error):  # of numbers that are no colours
        return None
