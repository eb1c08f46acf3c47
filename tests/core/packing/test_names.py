import pytest

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.settings import AvifSettings, JpegSettings
from lean_parcel.core.packing.names import safe_name

AVIF = Trial(settings=AvifSettings(quality=60, chroma="4:4:4"), width_px=1000, height_px=9)
JPEG = Trial(settings=JpegSettings(quality=60, chroma="4:4:4"), width_px=640, height_px=9)


@pytest.mark.parametrize(
    ("photo_name", "trial", "name"),
    [
        ("Röte Tasse.JPG", AVIF, "rote-tasse-1000.avif"),
        ("../../etc/passwd", JPEG, "etc-passwd-640.jpg"),
        ("a/b\\c<script>.png", JPEG, "b-c-script-640.jpg"),
        ("Cup v1.2, side", JPEG, "cup-v1-2-side-640.jpg"),
        ("....", AVIF, "photo-1000.avif"),
        ("x" * 300 + ".png", JPEG, "x" * 80 + "-640.jpg"),
    ],
)
def test_names_are_safe_anywhere(photo_name: str, trial: Trial, name: str) -> None:
    assert safe_name(photo_name, trial) == name
