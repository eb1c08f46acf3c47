"""All that is found in originals, as recorded."""

import pytest

from lean_parcel import demo
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.work.tasks.inspection import inspect_task
from tests.builders import cutout, file, oriented, patches, photo
from tests.files import full_jpeg
from tests.recorded import Recorded

CREDIT = Credit(author="Mira Voss", rights="All rights reserved")
MADE = {
    "jpeg with all metadata": ("cup.jpg", full_jpeg()),
    "turned": ("cup.jpg", oriented(photo(60, 40), 6)),
    "poor": ("cup.jpeg", file(photo(300, 200), "JPEG", quality=15)),
    "graphic": ("sign.png", file(patches())),
    "cutout": ("bottle.png", file(cutout())),
    "misnamed": ("shown.webp", file(photo(), "TIFF", dpi=(300, 300))),
    "lossless webp": ("cup.webp", file(photo(), "WEBP", lossless=True)),
    "gif": ("cup.gif", file(photo(), "GIF")),
    "grey": ("cup.png", file(photo()[..., 1])),
}


def inspected(name: str, data: bytes) -> dict[str, object]:
    found = inspect_task(data, name, CREDIT, Limits())
    embedded = {
        policy: [len(segments.exif), len(segments.xmp)]
        for policy, segments in found.segments.items()
    }
    return {
        "findings": found.findings,
        "credit": found.credit,
        "costs": found.costs,
        "embedded": embedded,
        "preview": decode(found.preview_webp).shape,
    }


@pytest.mark.parametrize("sample", demo.samples(), ids=lambda sample: sample.file)
def test_of_the_demo(sample: demo.Sample, recorded: Recorded) -> None:
    recorded(inspected(sample.file, demo.original(sample.file)))


def test_of_files_made_here(recorded: Recorded) -> None:
    recorded({what: inspected(*of) for what, of in MADE.items()})
