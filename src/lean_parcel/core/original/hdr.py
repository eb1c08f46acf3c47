"""Pictures with more light than paper white, brought to what every screen shows.

Codes become light by the perceptual quantiser or by hybrid log-gamma (ITU-R BT.2100-2, tables 4 and
5). What is brighter than paper white, 203 cd/m2 (BT.2408-7, 2.1), is rolled off by the electrical-
electrical transfer function of BT.2390-11, 5.4.1, applied to the brightest of red, green and blue,
so that hues stay.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import pyvips

from lean_parcel.core.arrays import F64
from lean_parcel.core.picture.resample import to_codes

Transfer = Literal["pq", "hlg"]
#: Paper white, the peak of a picture that does not tell its own, and that of the quantiser.
PAPER_WHITE, USUAL_PEAK, _MOST = 203.0, 1000.0, 10_000.0
_CODES = 1 << 16
#: Luminance of BT.2020's red, green and blue; the system gamma of a display of 1,000 cd/m2.
_LUMINANCE, _SYSTEM_GAMMA = (0.2627, 0.6780, 0.0593), 1.2
#: The power by which light is spread over codes where a table is looked up.
_SPREAD = 0.25
_M1, _M2 = 2610 / 16384, 2523 / 4096 * 128
_C1, _C2, _C3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
_HLG_A, _HLG_B, _HLG_C = 0.17883277, 0.28466892, 0.55991073


@dataclass(frozen=True, slots=True, kw_only=True)
class Hdr:
    """How codes of a picture mean light, and the brightest of it in cd/m2."""

    transfer: Transfer
    peak: float = USUAL_PEAK


def tone_mapped(image: pyvips.Image, light: Hdr) -> pyvips.Image:
    """An image of RGB codes, 8 or 16 bit, with or without alpha, as 16-bit codes of the same
    primaries with sRGB's curve, where 1 is paper white."""
    deep = image if image.format == "ushort" else image.cast("ushort") * 257
    deep = deep.cast("ushort")
    peak = min(max(light.peak, PAPER_WHITE), _MOST)
    shares = _share_of_peak(deep[0:3], light.transfer, peak)
    brightest = shares[0].bandrank([shares[1], shares[2]], index=2)
    keys = (brightest**_SPREAD * (_CODES - 1)).rint().cast("ushort")
    mapped = shares * keys.maplut(_table(_gains(peak)))
    linear = (mapped * (_CODES - 1)).rint().cast("ushort")
    codes = np.rint(to_codes(np.arange(_CODES) / (_CODES - 1)) * (_CODES - 1))
    colours = linear.maplut(_table(codes)).cast("ushort").copy(interpretation="rgb16")
    return colours.bandjoin(deep[3]) if deep.bands > 3 else colours


def _share_of_peak(codes: pyvips.Image, transfer: Transfer, peak: float) -> pyvips.Image:
    """Light of a display as shares of the peak, 0 to 1."""
    values = np.arange(_CODES) / (_CODES - 1)
    if transfer == "pq":
        return codes.maplut(_table(np.minimum(light_of_pq(values) * (_MOST / peak), 1)))
    scene = codes.maplut(_table(light_of_hlg(values)))
    gain = scene.recomb(pyvips.Image.new_from_array([list(_LUMINANCE)])) ** (_SYSTEM_GAMMA - 1)
    return scene * gain * (USUAL_PEAK / peak)


def _table(values: np.ndarray) -> pyvips.Image:
    data = np.ascontiguousarray(values, np.float32)
    return pyvips.Image.new_from_memory(data.tobytes(), len(data), 1, 1, "float")


@lru_cache(maxsize=8)
def _gains(peak: float) -> F64:
    """What light is multiplied with to become a share of paper white, by the spread code of the
    brightest channel."""
    shares = (np.arange(1, _CODES) / (_CODES - 1)) ** (1 / _SPREAD)
    gains = rolled_off(shares * peak, peak) / PAPER_WHITE / shares
    return np.concatenate([[peak / PAPER_WHITE], gains])


def rolled_off(light: F64, peak: float) -> F64:
    """Light of a display with a peak, in cd/m2, as one shows it whose peak is paper white (BT.2390,
    5.4.1, with black at 0): what is dark stays, what is bright comes nearer."""
    top, white = pq_of_light(np.array([peak, PAPER_WHITE]) / _MOST)
    most = white / top
    values = np.minimum(pq_of_light(light / _MOST) / top, 1)
    knee = 1.5 * most - 0.5
    if knee >= 1:
        return light
    t = np.maximum((values - knee) / (1 - knee), 0)
    spline = (
        (2 * t**3 - 3 * t**2 + 1) * knee
        + (t**3 - 2 * t**2 + t) * (1 - knee)
        + (-2 * t**3 + 3 * t**2) * most
    )
    made: F64 = light_of_pq(np.where(values < knee, values, spline) * top) * _MOST
    return made


def light_of_pq(codes: F64) -> F64:
    """The perceptual quantiser's EOTF: light as a share of 10,000 cd/m2, of codes 0 to 1."""
    power = codes ** (1 / _M2)
    made: F64 = (np.maximum(power - _C1, 0) / (_C2 - _C3 * power)) ** (1 / _M1)
    return made


def pq_of_light(light: F64) -> F64:
    """The inverse of `light_of_pq`."""
    power = light**_M1
    made: F64 = ((_C1 + _C2 * power) / (1 + _C3 * power)) ** _M2
    return made


def light_of_hlg(codes: F64) -> F64:
    """Scene light, 0 to 1, of hybrid log-gamma codes: the inverse of its OETF."""
    bright = (np.exp((np.maximum(codes, 0.5) - _HLG_C) / _HLG_A) + _HLG_B) / 12
    return np.where(codes <= 0.5, codes**2 / 3, bright)
