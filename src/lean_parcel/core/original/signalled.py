"""What a file says of its colours beside a profile, read as browsers read it: a PNG by its `cICP`,
`sRGB`, `gAMA` and `cHRM` chunks, by their precedence (PNG 3rd edition, 4.3 and 11.3.2); an AVIF or
HEIC by its `nclx` box where it has no profile (ISO/IEC 14496-12, 12.1.5).

Where standards leave a choice, it is what Chromium 156 does, measured by its canvas: in a PNG a
transfer of BT.709 is shown as the power of 2.4 of a reference display (BT.1886), in an AVIF as
sRGB's; `cHRM` counts beside `gAMA` only, a `gAMA` of 1/2.2 alone is that of sRGB, and a `cICP` of a
narrow range does not count.
"""

import struct
from collections.abc import Mapping
from dataclasses import dataclass

from lean_parcel.core.metadata.avif_parts import UnknownAvif, main_properties
from lean_parcel.core.metadata.containers import png_parts
from lean_parcel.core.original.hdr import Hdr, Transfer
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
_Curve = float | tuple[float, float, float, float, float]
#: Transfers by their code (ITU-T H.273, table 3), as a PNG and as an AVIF is shown.
_IN_BOTH: dict[int, _Curve] = {4: 2.2, 5: 2.8, 8: 1.0, 13: _SRGB_CURVE}
_IN_PNG = {**dict.fromkeys((1, 6, 14, 15), 2.4), **_IN_BOTH}
_IN_AVIF = {**dict.fromkeys((1, 6, 14, 15), _SRGB_CURVE), **_IN_BOTH}
_HDR_TRANSFERS: dict[int, Transfer] = {16: "pq", 18: "hlg"}
_SIGNALS = {b"cICP", b"iCCP", b"sRGB", b"gAMA", b"cHRM", b"cLLI"}
#: `gAMA` has the power by which light becomes codes, times this; 1/2.2 alone stands for sRGB.
_GAMMA_UNIT, _USUAL_GAMMA = 100_000, 45_455
#: Units of `cLLI` in a cd/m2.
_CLLI_UNIT = 10_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Signalled:
    """What a file says of its colours without a profile: they are those of a profile made for
    them, plain sRGB where that is empty; once tone-mapped, where it is `hdr`."""

    profile: bytes = b""
    hdr: Hdr | None = None


def signalled(data: bytes, kind: str) -> Signalled | None:
    """What a file of a format says; None where it says nothing that goes before its profile."""
    if kind == "png":
        return _of_png(data)
    return _of_properties(data) if kind in ("avif", "heic") else None


def _of_png(data: bytes) -> Signalled | None:
    chunks = {
        part.kind: data[part.payload_start : part.end - 4]
        for part in png_parts(data)
        if part.kind in _SIGNALS
    }
    cicp, clli = chunks.get(b"cICP", b""), chunks.get(b"cLLI", b"")
    if len(cicp) == 4 and cicp[2:] == b"\0\1":
        peak = int.from_bytes(clli[:4], "big") / _CLLI_UNIT if len(clli) == 8 else 0
        if (found := _of_codes(cicp[0], cicp[1], _IN_PNG, peak)) is not None:
            return found
    if b"iCCP" in chunks or b"sRGB" in chunks:
        return None
    return _of_gamma(chunks.get(b"gAMA", b""), chunks.get(b"cHRM", b""))


def _of_properties(data: bytes) -> Signalled | None:
    try:
        properties = main_properties(data)
    except UnknownAvif:
        return None
    colours = {each[:4]: each[4:] for each in properties.get(b"colr", [])}
    nclx = colours.get(b"nclx", b"")
    if len(nclx) < 6 or b"prof" in colours or b"rICC" in colours:
        return None
    primaries, transfer = struct.unpack_from(">HH", nclx)
    clli = properties.get(b"clli", [b""])[0]
    peak = int.from_bytes(clli[:2], "big") if len(clli) == 4 else 0
    return _of_codes(primaries, transfer, _IN_AVIF, peak)


def _of_codes(
    primaries: int, transfer: int, curves: Mapping[int, _Curve], peak: float
) -> Signalled | None:
    """Colours by code points of ITU-T H.273, and the brightest light of it in cd/m2, or 0."""
    known = _PRIMARIES.get(primaries)
    if transfer in _HDR_TRANSFERS:
        profile = _of(*(known or _PRIMARIES[9]), _SRGB_CURVE)
        light = Hdr(transfer=_HDR_TRANSFERS[transfer], **({"peak": peak} if peak else {}))
        return Signalled(profile=profile.profile if profile else b"", hdr=light)
    if known is None or transfer not in curves:
        return None
    return _of(*known, curves[transfer])


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
