"""All that is found in encodes of pictures of several kinds, as recorded."""

import numpy as np
import pytest
from benchmarks.pictures import pictures

from lean_parcel.core.arrays import U8
from lean_parcel.core.damage.examine import Examiner
from lean_parcel.core.damage.spots import MarkedArea, trouble_spots, worst_of
from lean_parcel.core.encoding.encoders import encode
from lean_parcel.core.encoding.settings import (
    AvifSettings,
    JpegSettings,
    PngSettings,
    WebpSettings,
    background_of,
)
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.resample import reduce
from lean_parcel.core.picture.serialisation import decode
from tests.builders import demo_pixels
from tests.recorded import Recorded

PICTURES = ("noise", "gradient", "foliage", "lettering", "screen")
SETTINGS = {
    "jpeg 20": JpegSettings(quality=20, chroma="4:2:0"),
    "webp 10": WebpSettings(quality=10),
    "avif 25": AvifSettings(quality=25, chroma="4:2:0", speed=9),
    "png 12": PngSettings(colours=12, effort=0),
}
MARKED = (
    MarkedArea(box=Box(left_px=20, top_px=10, width_px=90, height_px=70), matters=True),
    MarkedArea(box=Box(left_px=140, top_px=90, width_px=80, height_px=60), matters=False),
)

#: By so much strengths of 0 to 100 differ from one processor to another.
NEAR = 0.1


def found(pixels: U8, density: float = 1.0, share: float = 1.0) -> dict[str, object]:
    """What is found in encodes of a picture that send a share of its width."""
    height_px, width_px = pixels.shape[:2]
    examiner = Examiner(Reference(pixels, density=density))
    sent = reduce(pixels, round(share * width_px), round(share * height_px))
    told = {}
    for name, settings in SETTINGS.items():
        file, background = decode(encode(sent, settings)), background_of(settings)
        damage = examiner.examine(file, background)
        told[name] = {
            "likeness": damage.likeness,
            "flip_percent": 100 * examiner.flip(file, background),
            "strengths": damage.strengths,
            "verdict": damage.verdict,
            "shown": {kind: [codes.mean(), codes.max()] for kind, codes in damage.maps.items()},
            "unlike": [float(np.mean(damage.unlike)), damage.unlike.max()],
            "spots": trouble_spots(damage, (width_px, height_px), MARKED),
            "worst": worst_of(damage),
        }
    return told


@pytest.mark.parametrize("name", PICTURES)
def test_of_a_picture(name: str, recorded: Recorded) -> None:
    recorded(found(pictures()[f"{name} 1"][:200, :240]), NEAR)


def test_of_a_cutout_on_its_worse_backdrop(recorded: Recorded) -> None:
    recorded(found(pictures()["cut-out 1"][80:240, 100:300]), NEAR)


def test_with_fewer_pixels(recorded: Recorded) -> None:
    recorded(found(demo_pixels("kiln-night.jpg", 420), share=0.5), NEAR)


def test_at_twice_the_density(recorded: Recorded) -> None:
    recorded(found(demo_pixels("kiln-night.jpg", 420), density=2), NEAR)


def test_of_a_small_picture(recorded: Recorded) -> None:
    recorded(found(demo_pixels("glaze-samples-p3.jpg", 90)), NEAR)
