"""At which quality a JPEG was last saved, as its encoder counts, from its luma quantisation table.

Encoders of the IJG family scale one of a few tables by quality (libjpeg, `jcparam.c`); jpegli makes
one for each quality. A table is of the encoder and quality whose own is nearest to it, in the
logarithm, which also says something of tables that other encoders made.
"""

import io
from functools import lru_cache

import numpy as np
import pyjpegli
import pyvips
from PIL import Image

from lean_parcel.core.arrays import F64

#: MozJPEG's tables by number; the first is the example of ITU-T T.81, annex K, which most encoders
#: scale.
_SCALED_TABLES = range(9)
#: At this quality a table is scaled by 1.
_UNSCALED = 50
_QUALITIES = np.arange(1, 101)
_SIDE_PX = 16


def estimate_quality(data: bytes) -> int | None:
    """1 to 100; None for a file that is no JPEG or has no such table."""
    table = _table_of(data)
    if table is None:
        return None
    distances = np.abs(_known_tables() - np.log(table)).mean(-1)
    return int(_QUALITIES[int(distances.argmin()) % len(_QUALITIES)])


def _table_of(data: bytes) -> F64 | None:
    """The luma table in zigzag order, (64,)."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            tables = getattr(image, "quantization", {})
    except (OSError, SyntaxError, ValueError):
        return None
    return np.maximum(np.array(tables[0], np.float64), 1) if 0 in tables else None


@lru_cache(maxsize=1)
def _known_tables() -> F64:
    """The logarithms of all tables by encoder and quality, (encoders * 100, 64); those that are
    told apart by nothing come in the order of how usual their encoders are."""
    grey = pyvips.Image.black(_SIDE_PX, _SIDE_PX)
    bases = [
        _made(bytes(grey.jpegsave_buffer(Q=_UNSCALED, quant_table=number)))
        for number in _SCALED_TABLES
    ]
    pixels = np.zeros((_SIDE_PX, _SIDE_PX, 3), np.uint8)
    adaptive = [
        _made(bytes(pyjpegli.encode(pixels, _SIDE_PX, _SIDE_PX, quality=int(quality))))
        for quality in _QUALITIES
    ]
    tables = np.concatenate([*(_scaled(base) for base in bases), np.array(adaptive)])
    return np.asarray(np.log(tables))


def _made(data: bytes) -> F64:
    table = _table_of(data)
    assert table is not None
    return table


def _scaled(base: F64) -> F64:
    """A table at every quality, as libjpeg scales it, (100, 64)."""
    percent = np.where(_QUALITIES < 50, 5000 // _QUALITIES, 200 - 2 * _QUALITIES)
    return np.asarray(np.clip((base * percent[:, None] + 50) // 100, 1, 255))
