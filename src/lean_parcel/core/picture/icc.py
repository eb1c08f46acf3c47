"""ICC profiles made from numbers: primaries, white and transfer, as files signal them that carry no
profile.

A three-component matrix-based profile (ICC.1:2022, 8.3.3) with parametric curves (10.18). Colours
are adapted from their white to D50 by the linear Bradford transform (annex E).
"""

import struct
from dataclasses import dataclass

import numpy as np

from lean_parcel.core.arrays import F64

D65 = (0.3127, 0.3290)
_D50_XYZ = (0.9642, 1.0, 0.8249)
_BRADFORD = np.array(
    [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]
)
_XY = tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourSpace:
    """Chromaticities (CIE xy) of red, green, blue and white, and the transfer from codes to light:
    a power, or the five parameters (g, a, b, c, d) of an ICC parametric curve of type 3."""

    red: _XY
    green: _XY
    blue: _XY
    white: _XY
    transfer: float | tuple[float, float, float, float, float]


def matrix_profile(space: ColourSpace) -> bytes:
    """A profile of a colour space. Raises ValueError for primaries that span no colours."""
    colorants = _colorants_d50(space)
    curve = _curve(space.transfer)
    tags = [
        (b"desc", _text("made from numbers")),
        (b"cprt", _text("no copyright")),
        (b"wtpt", _xyz(_D50_XYZ)),
        *((name, _xyz(colorants[:, i])) for i, name in enumerate((b"rXYZ", b"gXYZ", b"bXYZ"))),
        *((name, curve) for name in (b"rTRC", b"gTRC", b"bTRC")),
    ]
    at = 128 + 4 + 12 * len(tags)
    table, payload = struct.pack(">I", len(tags)), b""
    for name, data in tags:
        table += struct.pack(">4sII", name, at + len(payload), len(data))
        payload += data + bytes(-len(data) % 4)
    header = struct.pack(
        ">I4sI4s4s4s12s4s4sI4s4sQI12s4s44x",
        at + len(payload), b"", 0x04400000, b"mntr", b"RGB ", b"XYZ ", bytes(12), b"acsp", b"",
        0, b"", b"", 0, 0, _fixed(_D50_XYZ), b"",
    )  # fmt: skip
    return header + table + payload


def _colorants_d50(space: ColourSpace) -> F64:
    """The XYZ of full red, green and blue, as columns, adapted to D50."""
    primaries = np.array([_xyz_of(xy) for xy in (space.red, space.green, space.blue)]).T
    white = _xyz_of(space.white)
    try:
        colorants = primaries * np.linalg.solve(primaries, white)
    except np.linalg.LinAlgError as error:
        raise ValueError("these primaries span no colours") from error
    cones = (_BRADFORD @ _D50_XYZ) / (_BRADFORD @ white)
    adapted: F64 = np.linalg.inv(_BRADFORD) @ np.diag(cones) @ _BRADFORD @ colorants
    if not np.isfinite(adapted).all() or abs(adapted).max() > 32_000:
        raise ValueError("these primaries span no colours")
    return adapted


def _xyz_of(xy: _XY) -> F64:
    x, y = xy
    if y <= 0:
        raise ValueError("a chromaticity without luminance")
    return np.array([x / y, 1.0, (1 - x - y) / y])


def _curve(transfer: float | tuple[float, float, float, float, float]) -> bytes:
    parameters = (transfer,) if isinstance(transfer, float) else transfer
    kind = 0 if isinstance(transfer, float) else 3
    return struct.pack(">4sIHH", b"para", 0, kind, 0) + _fixed(parameters)


def _xyz(values: F64 | tuple[float, float, float]) -> bytes:
    return b"XYZ \0\0\0\0" + _fixed(values)


def _fixed(values: F64 | tuple[float, ...]) -> bytes:
    """s15Fixed16Numbers."""
    return b"".join(struct.pack(">i", round(float(value) * 65536)) for value in values)


def _text(words: str) -> bytes:
    text = words.encode("utf-16-be")
    return struct.pack(">4sIIIHHII", b"mluc", 0, 1, 12, 0x656E, 0x5553, len(text), 28) + text
