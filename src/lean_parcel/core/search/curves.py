"""How bytes and likeness depend on quality, on average: constants that a search starts from.

Measured by `benchmarks/calibrate_curves.py` over the demo photos at a 480 px place. They only
choose what to encode first: a wrong curve costs encodes, never the result.
"""

#: Natural logarithm of bytes over probe bytes, by scale, at knots of quality (PNG: colours). JPEG's
#: above 88, where bytes rise unevenly, were measured later, and joined to the others at 92.
CURVE_KNOTS: dict[str, dict[int, float]] = {
    "jpeg 4:2:0": {
        1: -2.662,
        4: -2.537,
        8: -2.112,
        15: -1.663,
        25: -1.282,
        40: -0.933,
        55: -0.685,
        65: -0.517,
        75: -0.298,
        82: -0.073,
        88: 0.181,
        89: 0.216,
        90: 0.303,
        91: 0.346,
        92: 0.411,
        93: 0.509,
        94: 0.604,
        95: 0.664,
        96: 0.867,
        97: 0.978,
        98: 1.147,
        99: 1.342,
        100: 1.514,
    },
    "jpeg 4:4:4": {
        1: -2.316,
        4: -2.218,
        8: -1.84,
        15: -1.407,
        25: -1.035,
        40: -0.685,
        55: -0.431,
        65: -0.258,
        75: -0.025,
        82: 0.214,
        88: 0.492,
        89: 0.527,
        90: 0.628,
        91: 0.674,
        92: 0.743,
        93: 0.858,
        94: 0.963,
        95: 1.026,
        96: 1.261,
        97: 1.381,
        98: 1.568,
        99: 1.782,
        100: 1.964,
    },
    "jpeg adaptive": {
        1: -1.732,
        4: -1.629,
        8: -1.485,
        15: -1.224,
        25: -0.915,
        40: -0.748,
        55: -0.581,
        65: -0.441,
        75: -0.247,
        82: -0.072,
        88: 0.19,
        89: 0.228,
        90: 0.291,
        91: 0.368,
        92: 0.422,
        93: 0.513,
        94: 0.589,
        95: 0.704,
        96: 0.806,
        97: 0.947,
        98: 1.107,
        99: 1.323,
        100: 1.469,
    },
    "avif 4:2:0": {
        0: -2.599,
        11: -2.229,
        20: -1.897,
        30: -1.566,
        41: -1.134,
        51: -0.774,
        60: -0.501,
        70: -0.239,
        79: 0.054,
        85: 0.306,
        90: 0.515,
        95: 0.845,
        98: 1.14,
        100: 1.451,
    },
    "avif 4:4:4": {
        0: -2.54,
        11: -2.166,
        20: -1.842,
        30: -1.512,
        41: -1.078,
        51: -0.717,
        60: -0.447,
        70: -0.202,
        79: 0.094,
        85: 0.377,
        90: 0.643,
        95: 1.055,
        98: 1.45,
        100: 1.921,
    },
    "webp": {
        0: -2.318,
        5: -1.863,
        15: -1.556,
        30: -1.257,
        45: -1.011,
        60: -0.823,
        75: -0.632,
        80: -0.422,
        85: -0.189,
        90: 0.111,
        95: 0.529,
        99: 0.865,
        100: 0.887,
    },
    "png": {
        2: -1.724,
        4: -0.636,
        8: -0.012,
        16: 0.408,
        33: 0.634,
        64: 0.868,
        128: 1.094,
        256: 1.303,
    },
}

#: Natural logarithm of a quickly deflated PNG's bytes over the probe's, on average; grain raises
#: it. And which share of a photo's excess over it shows in its bytes, by quality.
USUAL_GRAIN = 2.74
GRAIN_SHARES: dict[str, dict[int, float]] = {
    "jpeg": {0: 0.0},
    "webp": {0: 0.0},
    "avif": {41: 0.0, 95: 0.5},
    "png": {0: 0.8},
}

#: How many more bytes a draft with less effort takes, as the natural logarithm of the factor, by
#: quality. A search has none of JPEG, which takes little time, nor of palettes.
DRAFT_EXCESS: dict[str, dict[int, float]] = {
    "webp": {0: 0.09, 15: 0.134, 30: 0.123, 72: 0.099, 95: 0.046, 99: 0.05, 100: 0.0},
    "avif": {0: 0.1, 20: 0.05, 41: 0.03, 79: 0.044, 90: 0.042, 95: 0.022, 100: 0.035},
}

#: Damage, which is what likeness lacks to its ceiling, falls with bytes as their power of minus
#: this: measured at 1000 px over eleven photos between 40 and 200 kB; PNG roughly, over four.
DAMAGE_DECAY = {"jpeg": 0.6, "webp": 0.6, "avif": 0.6, "png": 1.4}

#: The lowest quality that is worth offering; below it fewer pixels look better. PNG: colours.
MIN_QUALITY = {"jpeg": 20, "webp": 5, "avif": 20, "png": 8}

#: The quality with which a survey begins, where some pixel count allows it: with less, fewer
#: pixels nearly always look better. PNG: colours.
START_QUALITY = {"jpeg": 30, "webp": 20, "avif": 25, "png": 56}
