"""At which quality a JPEG was last saved, from its luma quantisation table.

Encoders of the IJG family scale the example table of ITU-T T.81 annex K by quality (libjpeg,
`jcparam.c`). The scale is estimated as the median over the coefficients, so that it also says
something of tables that other encoders made.
"""

import io

import numpy as np
from PIL import Image

#: Luma, in natural order (T.81 table K.1).
_EXAMPLE = np.array(
    [
        [16, 11, 10, 16, 24, 40, 51, 61],
        [12, 12, 14, 19, 26, 58, 60, 55],
        [14, 13, 16, 24, 40, 57, 69, 56],
        [14, 17, 22, 29, 51, 87, 80, 62],
        [18, 22, 37, 56, 68, 109, 103, 77],
        [24, 35, 55, 64, 81, 104, 113, 92],
        [49, 64, 78, 87, 103, 121, 120, 101],
        [72, 92, 95, 98, 112, 100, 103, 99],
    ]
).ravel()


def estimate_quality(data: bytes) -> int | None:
    """1 to 100, as libjpeg counts; None for a file that is no JPEG or has no such table."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            tables = getattr(image, "quantization", {})
    except (OSError, SyntaxError, ValueError):
        return None
    if 0 not in tables:
        return None
    table = np.array(tables[0], float)
    percent = float(np.median(100 * table / _EXAMPLE))
    quality = 100 - percent / 2 if percent <= 100 else 5000 / percent
    return int(min(100, max(1, round(quality))))
