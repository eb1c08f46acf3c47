"""Which format looks best within the same bytes, by the kind of the picture: what the advice on a
format to begin with is derived from. `python -m benchmarks.format_advice` prints it.

Half of the pictures count for the advice, and the other half says how often it is right there.
"""

from collections import Counter, defaultdict
from dataclasses import dataclass

import cv2
import numpy as np
from rich.console import Console
from rich.table import Table

from benchmarks.fitting import fit_file
from benchmarks.photos import demo_files
from benchmarks.pictures import WIDTH_PX, pictures
from lean_parcel.core.arrays import U8
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.encoders import probe_size_bytes
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.picture_kind import advice_group, advise_format, classify
from lean_parcel.core.original.source import Limits
from lean_parcel.work.queue.pool import PoolSettings, WorkerPool

#: Limits as shares of the bytes of a quick JPEG.
_SHARES = (0.3, 0.6, 1.2)
#: A format that is no further behind is as good.
_AS_GOOD = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A picture within a limit: its kind, the advice, and the likeness of each format."""

    picture: str
    kind: str
    advised: Format
    likeness: dict[Format, float]

    @property
    def winner(self) -> Format:
        """The format that looks best."""
        return max(self.likeness, key=lambda name: self.likeness[name])

    def is_right(self, name: Format) -> bool:
        """Whether a format looks best, or as good."""
        return self.likeness.get(name, -np.inf) >= self.likeness[self.winner] - _AS_GOOD


def measure() -> list[Row]:
    """Every picture within every limit."""
    pool = WorkerPool(PoolSettings())
    try:
        return [
            _row(pool, name, pixels, share)
            for name, pixels in _all_pictures().items()
            for share in _SHARES
        ]
    finally:
        pool.shutdown(cancel_futures=True)


def _all_pictures() -> dict[str, U8]:
    demo = {name: _small(open_pixels(data, name, Limits())) for name, data in demo_files().items()}
    return {**demo, **pictures()}


def _small(pixels: U8) -> U8:
    height_px = round(pixels.shape[0] * WIDTH_PX / pixels.shape[1])
    small = cv2.resize(pixels, (WIDTH_PX, height_px), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.uint8)


def _row(pool: WorkerPool, name: str, pixels: U8, share: float) -> Row:
    limit_bytes = max(400, round(share * probe_size_bytes(pixels)))
    aim = Aim(place=Place(size=str(WIDTH_PX)), limit_bytes=limit_bytes)
    data = cv2.imencode(".png", cv2.cvtColor(pixels, _to_bgr(pixels)))[1].tobytes()
    found = fit_file(pool, f"{name}.png", data, aim)
    kind = classify(pixels)
    return Row(
        picture=name,
        kind=advice_group(kind),
        advised=advise_format(kind).format,
        likeness={
            offer.encode.trial.settings.format: offer.encode.measured.likeness
            for offer in found.offers
            if offer.meets_aim
        }
        or {"avif": 0.0},
    )


def _to_bgr(pixels: U8) -> int:
    return cv2.COLOR_RGBA2BGRA if pixels.shape[2] == 4 else cv2.COLOR_RGB2BGR


def main() -> None:
    """Prints who wins by kind, in both halves."""
    rows = measure()
    table = Table(title=f"Best within the same bytes, or within {_AS_GOOD:g} point of it")
    for heading in ("kind", "pictures", *FORMATS, "advised", "right", "right, other half"):
        table.add_column(heading)
    names = sorted({row.picture for row in rows})
    kept_out = set(names[1::2])
    by_kind = defaultdict(list)
    for row in rows:
        by_kind[row.kind].append(row)
    for kind, of_kind in sorted(by_kind.items()):
        wins = Counter(name for row in of_kind for name in FORMATS if row.is_right(name))
        ours = [row for row in of_kind if row.picture not in kept_out]
        others = [row for row in of_kind if row.picture in kept_out]
        table.add_row(
            kind,
            str(len({row.picture for row in of_kind})),
            *(f"{wins[name]} of {len(of_kind)}" for name in FORMATS),
            of_kind[0].advised,
            *(
                f"{sum(row.is_right(row.advised) for row in half)} of {len(half)}"
                for half in (ours, others)
            ),
        )
    console = Console(width=132)
    console.print(table)
    for row in rows:
        figures = ", ".join(f"{name} {value:.1f}" for name, value in sorted(row.likeness.items()))
        console.print(f"{row.picture}: {row.kind}: {figures}")


if __name__ == "__main__":
    main()
