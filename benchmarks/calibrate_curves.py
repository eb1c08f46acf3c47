"""Measures the tables of `core/scales.py` and `core/fit.py`, and prints them as Python.

Run it after a change of an encoder's version or settings: `python -m benchmarks.calibrate_curves`.
"""

import math
import pprint
from collections import defaultdict
from collections.abc import Iterator
from statistics import mean

from benchmarks.encodes_per_fit import SCALES
from benchmarks.photos import demo_files, framed
from lean_parcel.core.arrays import U8
from lean_parcel.core.encode import PngSettings, Settings, WebpSettings, encode, probe_size_bytes
from lean_parcel.work.tasks import lossless_png

KNOTS = {
    "jpeg": (1, 4, 8, 15, 25, 40, 55, 65, 75, 82, 88, 92, 96, 100),
    "webp": (0, 5, 15, 30, 45, 60, 72, 80, 85, 90, 95, 100),
    "avif": (0, 10, 20, 30, 40, 50, 60, 70, 78, 85, 90, 95, 100),
    "png": (2, 4, 8, 16, 32, 64, 128, 256),
}


def trials() -> Iterator[tuple[str, int, Settings]]:
    """Scale, quality and settings of each encode to be made."""
    for scale in SCALES:
        for knot in KNOTS[scale.name.split()[0]]:
            quality = next(quality for quality in scale.qualities if quality >= knot)
            yield scale.name, quality, scale.settings(quality)


def lossless_ratios(pixels: U8) -> dict[str, float]:
    """Bytes of each lossless file over those of a quickly deflated PNG."""
    quick_size_bytes = len(lossless_png(pixels))
    lossless: dict[str, Settings] = {
        "webp": WebpSettings(quality=75, lossless=True),
        "png": PngSettings(colours=None),
    }
    return {name: len(encode(pixels, s)) / quick_size_bytes for name, s in lossless.items()}


def main() -> None:
    """Prints the mean curves, their spread between photos, and the lossless ratios."""
    logs: dict[str, dict[int, list[float]]] = defaultdict(lambda: defaultdict(list))
    for name, data in demo_files().items():
        pixels = framed(data, name, 480)
        probe = probe_size_bytes(pixels)
        for scale_name, quality, settings in trials():
            logs[scale_name][quality].append(math.log(len(encode(pixels, settings)) / probe))
        print(f"# {name}: {lossless_ratios(pixels)}", flush=True)
    curves = {
        name: {q: round(mean(values), 3) for q, values in by_quality.items()}
        for name, by_quality in logs.items()
    }
    pprint.pprint(curves, sort_dicts=False)
    for name, by_quality in logs.items():
        spreads = {q: round(max(v) - min(v), 2) for q, v in by_quality.items()}
        print(f"# spread {name}: {spreads}")


if __name__ == "__main__":
    main()
