"""Measures the tables of `core/search/curves.py`, and prints them as Python.

Run it after a change of an encoder's version or settings: `python -m benchmarks.calibrate_curves`.
"""

import math
import pprint
from collections import defaultdict
from collections.abc import Iterator
from statistics import linear_regression, mean

from benchmarks.encodes_per_fit import SCALES
from benchmarks.photos import demo_files, framed, rung_of
from lean_parcel.core.arrays import U8
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import PngSettings, Settings, WebpSettings, draft_settings
from lean_parcel.core.search.curves import DRAFT_EXCESS
from lean_parcel.core.search.ladder import Rung

KNOTS = {
    "jpeg": (1, 4, 8, 15, 25, 40, 55, 65, 75, 82, *range(88, 101)),
    "webp": (0, 5, 15, 30, 45, 60, 75, 80, 85, 90, 95, 99, 100),
    "avif": (0, 10, 20, 30, 40, 50, 60, 70, 78, 85, 90, 95, 98, 100),
    "png": (2, 4, 8, 16, 33, 64, 128, 256),
}


def trials() -> Iterator[tuple[str, int, Settings, Settings]]:
    """Scale, quality and settings of each encode to be made, at full effort and as a draft."""
    for scale in SCALES:
        for knot in KNOTS[scale.name.split()[0]]:
            quality = next(quality for quality in scale.qualities if quality >= knot)
            settings = scale.settings(quality)
            draft = draft_settings(settings) if scale.format in DRAFT_EXCESS else settings
            yield scale.name, quality, settings, draft


def lossless_ratios(pixels: U8, rung: Rung) -> dict[str, float]:
    """Bytes of each lossless file over those of a quickly deflated PNG."""
    lossless: dict[str, Settings] = {
        "webp": WebpSettings(quality=75, lossless=True),
        "png": PngSettings(colours=None),
    }
    return {
        name: len(encode(pixels, s)) / rung.quick_png_size_bytes for name, s in lossless.items()
    }


def main() -> None:
    """Prints the mean curves, the excess of drafts, the spread of both between photos, and the
    lossless ratios."""
    logs: dict[str, dict[int, list[float]]] = defaultdict(lambda: defaultdict(list))
    excess: dict[str, dict[int, list[float]]] = defaultdict(lambda: defaultdict(list))
    grain: list[float] = []
    for name, data in demo_files().items():
        pixels = framed(data, name, 480)
        rung = rung_of(pixels)
        grain.append(math.log(rung.quick_png_size_bytes / rung.probe_size_bytes))
        for scale_name, quality, settings, draft in trials():
            size_bytes = len(encode(pixels, settings))
            logs[scale_name][quality].append(math.log(size_bytes / rung.probe_size_bytes))
            if draft != settings:
                draft_size_bytes = len(encode(pixels, draft))
                excess[scale_name][quality].append(math.log(draft_size_bytes / size_bytes))
        print(f"# {name}: {lossless_ratios(pixels, rung)}", flush=True)
    pprint.pprint(means(logs), sort_dicts=False)
    print(f"# usual grain {mean(grain):.2f}; its shares, by least squares")
    pprint.pprint(shares(logs, grain), sort_dicts=False)
    print("# drafts are heavier by")
    pprint.pprint(means(excess), sort_dicts=False)
    for title, values in (("spread", logs), ("spread of drafts", excess)):
        for name, by_quality in values.items():
            spreads = {q: round(max(v) - min(v), 2) for q, v in by_quality.items()}
            print(f"# {title} {name}: {spreads}")


def shares(
    logs: dict[str, dict[int, list[float]]], grain: list[float]
) -> dict[str, dict[int, float]]:
    """Which share of the photos' grain shows in their bytes."""
    return {
        name: {q: round(linear_regression(grain, log).slope, 2) for q, log in by_quality.items()}
        for name, by_quality in logs.items()
    }


def means(values: dict[str, dict[int, list[float]]]) -> dict[str, dict[int, float]]:
    """The mean over all photos."""
    return {
        name: {q: round(mean(logs), 3) for q, logs in by_quality.items()}
        for name, by_quality in values.items()
    }


if __name__ == "__main__":
    main()
