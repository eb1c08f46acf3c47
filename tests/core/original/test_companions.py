"""What phones put into their files beside the picture, built as their formats say."""

import io
import struct

import numpy as np
import pillow_heif
import pytest
from PIL import Image

from lean_parcel.core.metadata.policy import segments_for
from lean_parcel.core.metadata.reading import read_metadata
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.companions import Companion, find_companions
from lean_parcel.core.original.source import Limits
from lean_parcel.work.tasks.inspection import inspect_task
from tests.builders import file, photo

MAIN = file(photo(), "JPEG")
SMALL = file(photo(24, 16), "JPEG")
GAIN_XMP = b'<x xmlns:hdrgm="http://ns.adobe.com/hdr-gain-map/1.0/" hdrgm:Version="1.0"/>'
VIDEO = (
    struct.pack(">I4s4sI", 16, b"ftyp", b"mp42", 0) + struct.pack(">I4s", 508, b"mdat") + bytes(500)
)
RDF = (
    '<x:xmpmeta xmlns:x="adobe:ns:meta/">'
    '<r:RDF xmlns:r="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
    '<r:Description xmlns:c="http://ns.google.com/photos/1.0/container/"'
    ' xmlns:i="http://ns.google.com/photos/1.0/container/item/"'
    ' xmlns:hdrgm="http://ns.adobe.com/hdr-gain-map/1.0/" hdrgm:Version="1.0"'
    ' xmlns:dc="http://purl.org/dc/elements/1.1/" dc:source="kept">'
    "<c:Directory><r:Seq>{}</r:Seq></c:Directory></r:Description></r:RDF></x:xmpmeta>"
)


def with_xmp(jpeg: bytes, xmp: bytes) -> bytes:
    payload = b"http://ns.adobe.com/xap/1.0/\0" + xmp
    return jpeg[:2] + b"\xff\xe1" + struct.pack(">H", len(payload) + 2) + payload + jpeg[2:]


def directory(*semantics: str) -> bytes:
    items = "".join(f'<r:li><c:Item i:Semantic="{word}"/></r:li>' for word in semantics)
    return RDF.format(items).encode()


def kinds(data: bytes, name: str = "jpeg") -> list[str]:
    return [companion.kind for companion in find_companions(data, name)]


def topics(data: bytes, name: str) -> dict[str, int | None]:
    found = inspect_task(data, name, Credit(), Limits()).findings
    return {finding.topic: finding.size_bytes for finding in found}


def test_a_gain_map_is_no_second_frame() -> None:
    frames = [Image.fromarray(photo(seed=seed)) for seed in (1, 2)]
    out = io.BytesIO()
    frames[0].save(out, "MPO", save_all=True, append_images=frames[1:])
    gain_map = with_xmp(SMALL, GAIN_XMP)
    data = with_xmp(MAIN, directory("Primary", "GainMap")) + gain_map
    assert find_companions(data, "jpeg") == (Companion(kind="gain_map", size_bytes=len(gain_map)),)
    found = topics(data, "phone.jpg")
    assert "animation" not in found
    assert found["gain_map"] == len(gain_map)
    assert "animation" not in topics(out.getvalue(), "two.jpg")
    assert kinds(out.getvalue()) == ["picture"]


def test_parts_are_told_by_what_they_are_and_else_by_the_directory() -> None:
    assert kinds(MAIN + with_xmp(SMALL, GAIN_XMP)) == ["gain_map"]
    assert kinds(MAIN + with_xmp(SMALL, b"<x type='depthmap'/>")) == ["depth_map"]
    assert kinds(with_xmp(MAIN, directory("Primary", "DepthMap")) + SMALL) == ["depth_map"]
    both = with_xmp(MAIN, directory("Primary", "GainMap", "MotionPhoto")) + SMALL + VIDEO
    assert kinds(both) == ["gain_map", "video"]
    assert kinds(MAIN + SMALL) == ["picture"]
    assert kinds(MAIN) == []


def test_video_and_unknown_bytes_are_named_with_their_sizes() -> None:
    data = MAIN + bytes(32) + VIDEO + b"trailer"
    assert find_companions(data, "jpeg") == (
        Companion(kind="unknown", size_bytes=32),
        Companion(kind="video", size_bytes=len(VIDEO)),
        Companion(kind="unknown", size_bytes=7),
    )
    found = topics(data, "moving.jpg")
    assert (found["video"], found["unknown"]) == (len(VIDEO), 39)


@pytest.mark.parametrize("kind", ["PNG", "WEBP", "AVIF", "HEIF"])
def test_bytes_after_the_end_are_named_in_every_format(kind: str) -> None:
    name = {"HEIF": "heic"}.get(kind, kind.lower())
    assert kinds(file(photo(), kind), name) == []
    assert find_companions(file(photo(), kind) + b"more bytes", name) == (
        Companion(kind="unknown", size_bytes=10),
    )


def test_of_very_many_the_rest_is_taken_as_one() -> None:
    data = MAIN + b"\xff\xd8\xff" * 100_000
    found = find_companions(data, "jpeg")
    assert len(found) < 40
    assert sum(companion.size_bytes for companion in found) == 300_000


def test_large_thumbnails_of_mpf_are_previews() -> None:
    entries = b"".join(struct.pack("<IIIHH", kind, 0, 0, 0, 0) for kind in (0x20030000, 0x00010002))
    ifd = struct.pack("<H", 1) + struct.pack("<HHII", 0xB002, 7, len(entries), 26) + bytes(4)
    mpf = b"MPF\0II*\0" + struct.pack("<I", 8) + ifd + entries
    segment = b"\xff\xe2" + struct.pack(">H", len(mpf) + 2) + mpf
    data = MAIN[:2] + segment + MAIN[2:] + SMALL
    assert find_companions(data, "jpeg") == (Companion(kind="preview", size_bytes=len(SMALL)),)


def test_thumbnails_of_a_heic_are_previews_and_depth_is_told() -> None:
    image = pillow_heif.from_pillow(Image.fromarray(photo(600, 400)))
    out = io.BytesIO()
    image.save(out, thumbnails=[128])
    (found,) = find_companions(out.getvalue(), "heic")
    assert found.kind == "preview"
    assert 0 < found.size_bytes < len(out.getvalue()) / 3


def test_the_alpha_of_an_avif_belongs_to_its_picture() -> None:
    transparent = np.dstack([photo(), photo()[..., 0]])
    assert kinds(file(transparent, "AVIF"), "avif") == []


def test_what_describes_companions_does_not_travel_on() -> None:
    data = with_xmp(MAIN, directory("Primary", "GainMap")) + SMALL
    kept = segments_for("everything", read_metadata(data, "jpeg"), Credit())
    assert b"kept" in kept.xmp
    for stale in (b"hdr-gain-map", b"container"):
        assert stale not in kept.xmp


@pytest.mark.parametrize("name", ["jpeg", "png", "webp", "avif", "heic", "tiff"])
def test_broken_files_have_no_companions_and_raise_nothing(name: str) -> None:
    whole = {"heic": file(photo(), "HEIF"), "avif": file(photo(), "AVIF")}.get(name, MAIN)
    for end in range(0, len(whole), 7):
        find_companions(whole[:end], name)
        find_companions(whole[:end] + b"\xff" * 9 + whole[end + 9 :], name)
