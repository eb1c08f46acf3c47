"""Files of every format that is opened, with metadata, and what can become of them: parts that are
repeated, lost or moved, lengths that lie, and bytes that changed, with checksums that are right."""

import io
import zlib
from collections.abc import Callable, Iterator

import numpy as np
from hypothesis import strategies as st
from PIL import Image

from lean_parcel.core.metadata.containers import (
    PNG_SIGNATURE,
    FilePart,
    boxes,
    jpeg_parts,
    png_parts,
    webp_parts,
)
from tests.builders import cutout, file, photo, srgb_profile

_XMP = (
    b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF'
    b' xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description'
    b' xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:creator><rdf:Seq><rdf:li>Ilo Marn</rdf:li>'
    b"</rdf:Seq></dc:creator></rdf:Description></rdf:RDF></x:xmpmeta>"
)
#: Numbers at which lengths, offsets and counts go wrong.
_EDGES = (0, 1, 2, 0x7F, 0xFF, 0x7FFF, 0xFFFF, 0x7FFFFFFF, 0xFFFFFFFE, 0xFFFFFFFF)
_PARTS: dict[str, Callable[[bytes], Iterator[FilePart]]] = {
    "jpeg": jpeg_parts,
    "png": png_parts,
    "webp": webp_parts,
    "avif": boxes,
    "heif": boxes,
}


def _exif() -> bytes:
    exif = Image.Exif()
    exif[0x0112], exif[0x013B], exif[0x8298] = 6, "Ilo Marn", "© Ilo Marn"
    exif.get_ifd(0x8825).update({1: "N", 2: (51.0, 3.0, 0.0), 3: "E", 4: (4.0, 2.0, 0.0)})
    return exif.tobytes()


def _moving(kind: str) -> bytes:
    out = io.BytesIO()
    first, *rest = [Image.fromarray(photo(40, 30, seed)) for seed in range(3)]
    first.save(out, kind, save_all=True, append_images=rest)
    return out.getvalue()


def seeds() -> dict[str, tuple[bytes, ...]]:
    """Valid files, small ones, by their format."""
    told = {"exif": _exif(), "xmp": _XMP, "icc_profile": srgb_profile()}
    pixels, deep = photo(40, 30), np.arange(1200, dtype=np.uint16).reshape(30, 40) * 54
    cmyk, grey = Image.fromarray(pixels).convert("CMYK"), Image.fromarray(deep)
    made = io.BytesIO(), io.BytesIO(), io.BytesIO()
    cmyk.save(made[0], "JPEG")
    grey.save(made[1], "PNG")
    cmyk.save(made[2], "TIFF", compression="tiff_lzw")
    return {
        "jpeg": (
            file(pixels, "JPEG", **told),
            file(pixels, "JPEG", progressive=True),
            made[0].getvalue(),
        ),
        "png": (file(cutout(40, 30), "PNG", exif=_exif()), made[1].getvalue(), _moving("PNG")),
        "webp": (file(cutout(40, 30), "WEBP", **told), _moving("WEBP")),
        "avif": (file(pixels, "AVIF", **told), file(cutout(40, 30), "AVIF"), _moving("AVIF")),
        "heif": (file(pixels, "HEIF", **told),),
        "tiff": (file(pixels, "TIFF"), made[2].getvalue(), _moving("TIFF")),
        "gif": (file(pixels, "GIF"), _moving("GIF")),
    }


@st.composite
def hostile_files(draw: st.DrawFn, kind: str, known: tuple[bytes, ...]) -> bytes:
    """A file of a format to which up to four things have happened."""
    data = draw(st.sampled_from(known))
    happens: list[Callable[[st.DrawFn, bytes], bytes]] = [_bytes_changed, _number_changed, _cut]
    if kind in _PARTS:
        happens += [lambda draw, data: _parts_changed(draw, data, kind)] * 2
    for _ in range(draw(st.integers(1, 4))):
        data = draw(st.sampled_from(happens))(draw, data)
    return _with_right_checksums(data) if kind == "png" else data


def _at(draw: st.DrawFn, data: bytes) -> int:
    """A place, more often among the headers than anywhere."""
    end = min(len(data), 400) if draw(st.booleans()) else len(data)
    return draw(st.integers(0, max(0, end - 1)))


def _bytes_changed(draw: st.DrawFn, data: bytes) -> bytes:
    at, new = _at(draw, data), draw(st.binary(min_size=1, max_size=8))
    return data[:at] + new + data[at + len(new) :]


def _number_changed(draw: st.DrawFn, data: bytes) -> bytes:
    at, size = _at(draw, data), draw(st.sampled_from((1, 2, 4)))
    number = draw(st.sampled_from(_EDGES)) & (256**size - 1)
    order = draw(st.sampled_from(("big", "little")))
    return data[:at] + number.to_bytes(size, order) + data[at + size :]


def _cut(draw: st.DrawFn, data: bytes) -> bytes:
    start, length = _at(draw, data), draw(st.integers(0, 200))
    piece = data[start : start + length]
    return draw(
        st.sampled_from(
            (
                data[: start + 1],
                data[:start] + data[start + length :],
                data[:start] + piece + piece + data[start + length :],
                data + piece,
            )
        )
    )


def _parts_changed(draw: st.DrawFn, data: bytes, kind: str) -> bytes:
    """A part of a container repeated, left out, or put elsewhere."""
    parts = list(_PARTS[kind](data))
    if not parts:
        return data
    start, end = parts[0].start, parts[-1].end
    pieces = [data[part.start : part.end] for part in parts]
    index, other = (draw(st.integers(0, len(pieces) - 1)) for _ in range(2))
    piece = pieces[index]
    match draw(st.sampled_from(("repeat", "lose", "move", "very often"))):
        case "repeat":
            pieces.insert(other, piece)
        case "lose":
            del pieces[index]
        case "move":
            pieces.insert(other, pieces.pop(index))
        case "very often":
            pieces[index:index] = [piece] * draw(st.integers(2, 300))
    return data[:start] + b"".join(pieces) + data[end:]


def _with_right_checksums(data: bytes) -> bytes:
    """A PNG whose chunks have the checksums of what they hold, so that they are looked at."""
    if not data.startswith(PNG_SIGNATURE):
        return data
    fixed = bytearray(data)
    for part in png_parts(data):
        fixed[part.end - 4 : part.end] = zlib.crc32(data[part.start + 4 : part.end - 4]).to_bytes(4)
    return bytes(fixed)
