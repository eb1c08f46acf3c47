"""Originals that go out as they are: only what was decoded again, and is what was framed."""

import io
import struct

import numpy as np
import pytest
from PIL import Image

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.encoding.settings import PassThrough
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.original.source import Limits
from lean_parcel.core.picture.serialisation import decode
from lean_parcel.work.tasks.encoder_input import EncoderInput
from lean_parcel.work.tasks.encoding import Encoded
from lean_parcel.work.tasks.framing import frame_task
from lean_parcel.work.tasks.original import pass_through_task
from tests.builders import cutout, file, oriented, photo
from tests.files import cicp, gamma, png

JPEG = file(photo(), "JPEG", quality=90)
TABLE_AT, SCAN_AT = JPEG.index(b"\xff\xdb"), JPEG.index(b"\xff\xda")


def passed(
    data: bytes, name: Format = "jpeg", *, keeps: bool = False, repacked: bool = False
) -> Encoded | None:
    framed = frame_task(data, "a", Framing(), Place(size="4000"), Limits())
    settings = PassThrough(format=name, keeps_metadata=keeps, repacked=repacked)
    source = framed.source
    trial = Trial(settings=settings, width_px=source.width_px, height_px=source.height_px)
    pixels = EncoderInput(pixels_png=framed.pixels_png)
    return pass_through_task(pixels, data, "a", trial, Limits())


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("jpeg", JPEG),
        ("jpeg", file(photo()[..., 0], "JPEG")),
        ("jpeg", file(photo(), "JPEG", progressive=True)),
        ("png", file(cutout())),
        ("png", file(photo()[..., 0])),
        ("png", png(gamma(100_000))),
        ("png", png(cicp(12, 13))),
        ("webp", file(cutout(), "WEBP", quality=80)),
        ("avif", file(cutout(), "AVIF", quality=80)),
    ],
)
def test_what_goes_out_has_the_pixels_that_were_framed(name: Format, data: bytes) -> None:
    for keeps in (False, True):
        made = passed(data, name, keeps=keeps)
        assert made
        assert made.measured.likeness == 100
        assert made.measured.size_bytes == len(made.data)
        assert np.array_equal(decode(made.data), decode(data))


@pytest.mark.parametrize(
    "data",
    [
        JPEG[:TABLE_AT] + bytes(4) + JPEG[TABLE_AT:],
        JPEG[:SCAN_AT] + b"\0" + JPEG[SCAN_AT:],
        JPEG[:TABLE_AT] + b"\xff\xe1\x00\x01" + JPEG[TABLE_AT:],
    ],
)
def test_a_jpeg_with_stray_bytes_never_goes_out_as_a_part_of_itself(data: bytes) -> None:
    for repacked in (False, True):
        made = passed(data, repacked=repacked)
        if made is not None:
            assert np.array_equal(decode(made.data), decode(data))
            assert len(made.data) > len(JPEG) // 2


def test_inks_and_more_light_than_paper_white_do_not_go_out_as_they_are() -> None:
    out = io.BytesIO()
    Image.fromarray(photo()).convert("CMYK").save(out, "JPEG", quality=95)
    for name, data in (("jpeg", out.getvalue()), ("png", png(cicp(9, 16)))):
        for keeps in (False, True):
            assert passed(data, name, keeps=keeps) is None  # type: ignore[arg-type]


def test_a_picture_that_is_upright_by_its_metadata_keeps_them_or_stays() -> None:
    data = oriented(photo(), 6)
    assert passed(data) is None
    made = passed(data, keeps=True)
    assert made
    assert made.data == data


def test_a_webp_of_one_moving_frame_never_goes_out_as_it_is() -> None:
    frame = file(photo(), "WEBP", quality=80)[12:]
    header = bytes(6) + b"".join((side - 1).to_bytes(3, "little") for side in photo().shape[1::-1])
    whole = chunk(b"ANMF", header + bytes(4) + frame + chunk(b"NOTE", b"hidden"))
    moving = chunk(b"VP8X", b"\x02" + bytes(3) + header[6:]) + chunk(b"ANIM", bytes(6)) + whole
    data = b"RIFF" + struct.pack("<I", 4 + len(moving)) + b"WEBP" + moving
    assert np.array_equal(decode(data)[..., :3], decode(file(photo(), "WEBP", quality=80))[..., :3])
    assert passed(data, "webp") is None


def chunk(kind: bytes, payload: bytes) -> bytes:
    """A chunk of a WebP."""
    return kind + struct.pack("<I", len(payload)) + payload + bytes(len(payload) % 2)
