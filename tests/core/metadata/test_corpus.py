"""What is read of files of every kind, and what of it goes out, as recorded."""

import io
from hashlib import sha256

import pytest
from PIL import ExifTags, Image, PngImagePlugin, TiffImagePlugin

from lean_parcel.core.formats import FORMATS
from lean_parcel.core.metadata.embed import embedded, stripped
from lean_parcel.core.metadata.policy import POLICY_NAMES, segments_for
from lean_parcel.core.metadata.reading import find_credit, read_metadata
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.original.photo import identify
from lean_parcel.core.picture.gamut import profile_of
from tests.builders import cutout, file, photo
from tests.files import full_jpeg
from tests.recorded import Recorded

P3 = profile_of("display-p3")
XMP = b"""<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF
 xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about=""
 xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:photoshop="http://ns.adobe.com/photoshop/1.0/"
 photoshop:Credit="Fen Press"><dc:creator><rdf:Seq><rdf:li>Ada Wren</rdf:li></rdf:Seq></dc:creator>
 </rdf:Description></rdf:RDF></x:xmpmeta>"""


def exif() -> bytes:
    made = Image.Exif()
    made[ExifTags.Base.Artist] = "Ada Wren"
    made[ExifTags.Base.Copyright] = "Ada Wren 2026"
    made[ExifTags.Base.Orientation] = 1
    return made.tobytes()


def png() -> bytes:
    texts = PngImagePlugin.PngInfo()
    texts.add_text("Author", "Ada Wren")
    texts.add_itxt("Comment", "for the shelf", zip=True)
    texts.add_itxt("XML:com.adobe.xmp", XMP.decode())
    image, out = Image.fromarray(photo()), io.BytesIO()
    image.save(out, "PNG", pnginfo=texts, exif=exif(), dpi=(300, 300), icc_profile=P3)
    return out.getvalue()


def tiff() -> bytes:
    tags = TiffImagePlugin.ImageFileDirectory_v2()
    tags[ExifTags.Base.Artist] = "Ada Wren"
    return file(photo(), "TIFF", tiffinfo=tags, dpi=(240, 240))


CORPUS = {
    "jpeg": full_jpeg(),
    "plain jpeg": file(photo(), "JPEG"),
    "png": png(),
    "webp": file(photo(), "WEBP", exif=exif(), xmp=XMP, icc_profile=P3),
    "lossless webp": file(cutout(), "WEBP", lossless=True, exif=exif()),
    "avif": file(photo(), "AVIF", exif=exif(), icc_profile=P3),
    "avif cutout": file(cutout(), "AVIF", xmp=XMP),
    "tiff": tiff(),
    "gif": file(photo(), "GIF", comment=b"for the shelf"),
}


@pytest.mark.parametrize("of", CORPUS)
def test_what_is_read_and_goes_out(of: str, recorded: Recorded) -> None:
    data = CORPUS[of]
    name = identify(data, of)
    read = read_metadata(data, name)
    segments = {policy: segments_for(policy, read, Credit()) for policy in POLICY_NAMES}
    told: dict[str, object] = {
        "format": name,
        "read": {
            "exif": len(read.exif),
            "xmp": len(read.xmp),
            "icc": len(read.icc),
            "iptc": read.iptc,
            "iptc_size_bytes": read.iptc_size_bytes,
            "texts": read.texts,
            "dpi": read.dpi,
            "frames": read.frames,
        },
        "credit": find_credit(read),
        "segments": {
            policy: [_told(each.exif), _told(each.xmp)] for policy, each in segments.items()
        },
    }
    if name in FORMATS:
        bare = stripped(data, name)
        told["bare"] = _told(bare)
        told["out"] = {
            policy: _told(embedded(bare, name, each)) for policy, each in segments.items()
        }
    recorded(told)


def _told(data: bytes) -> str:
    return f"{len(data)} B, {sha256(data).hexdigest()[:12]}"
