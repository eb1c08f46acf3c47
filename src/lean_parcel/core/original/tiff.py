"""TIFFs: which decoder opens which kind.

libvips reads what is common, in strips as they are needed. Kinds that it reads wrongly or not at
all (Lab of 8 bits, YCbCr without JPEG, rarer compressions) go through Pillow, whole; what neither
opens is said to be of such a kind, and not damaged.
"""

import io

import numpy as np
import pyvips
from PIL import Image, ImageCms, TiffImagePlugin, UnidentifiedImageError

from lean_parcel.core.errors import UnsupportedPhoto

#: Offsets and lengths of strips and of tiles (TIFF 6.0).
_DATA_TAGS = ((273, 279), (324, 325))
_WIDTH, _HEIGHT, _BITS, _COMPRESSION, _PHOTOMETRIC, _SAMPLE_FORMAT = 256, 257, 258, 259, 262, 339
_PROFILE_TAG = 34675
#: Grey, RGB, palette and CMYK.
_VIPS_PHOTOMETRIC = {0, 1, 2, 3, 5}
_YCBCR, _LAB, _JPEG = 6, 8, 7
#: None, CCITT, LZW, JPEG, Deflate and PackBits.
_VIPS_COMPRESSION = {1, 2, 3, 4, 5, _JPEG, 8, 32773, 32946}
_FLOAT = 3


class Tiff:
    """The first picture of a TIFF, by its tags. Raises what Pillow raises for a broken directory,
    and EOFError for a file that ends before its picture."""

    def __init__(self, data: bytes, name: str) -> None:
        self._data, self._name = data, name
        self._tags = _tags(data)
        self.width_px = int(self._tags[_WIDTH])
        self.height_px = int(self._tags[_HEIGHT])
        self._check_reach()

    def load(self) -> pyvips.Image:
        """The picture, lazily where libvips reads it. Raises UnsupportedPhoto."""
        if self._is_for_vips():
            return pyvips.Image.new_from_buffer(
                self._data, "", access="sequential", fail_on="truncated"
            )
        return self._through_pillow()

    def _is_for_vips(self) -> bool:
        photometric = self._tags.get(_PHOTOMETRIC)
        compression = self._tags.get(_COMPRESSION, 1)
        bits = max(_numbers(self._tags.get(_BITS, 1)))
        is_float = _FLOAT in _numbers(self._tags.get(_SAMPLE_FORMAT, 1))
        is_known = (
            photometric in _VIPS_PHOTOMETRIC
            or (photometric, compression) == (_YCBCR, _JPEG)
            or (photometric == _LAB and bits > 8)
        )
        return is_known and compression in _VIPS_COMPRESSION and (bits <= 16 or is_float)

    def _through_pillow(self) -> pyvips.Image:
        try:
            with Image.open(io.BytesIO(self._data)) as image:
                if image.mode in ("I", "F"):
                    raise UnidentifiedImageError("samples of 32 bits")
                pixels = np.asarray(_as_rgb(image))
        except (UnidentifiedImageError, KeyError, NotImplementedError, SyntaxError) as error:
            raise self._unsupported(str(error)) from error
        except OSError as error:
            if "decoder" in str(error) and "not available" in str(error):
                raise self._unsupported(str(error)) from error
            raise
        return pyvips.Image.new_from_array(pixels).copy(interpretation="srgb")

    def _unsupported(self, detail: str) -> UnsupportedPhoto:
        return UnsupportedPhoto(
            f"“{self._name}” is a kind of TIFF that cannot be opened here. Save it as a TIFF in RGB"
            " without compression, or as a PNG.",
            detail,
        )

    def _check_reach(self) -> None:
        """libtiff makes up lengths that point past the end, so a cut file would open in part."""
        for offsets, lengths in _DATA_TAGS:
            starts = _numbers(self._tags.get(offsets, ()))
            reaches = zip(starts, _numbers(self._tags.get(lengths, ())), strict=False)
            if max((start + length for start, length in reaches), default=0) > len(self._data):
                raise EOFError("unexpected end of file")


def _tags(data: bytes) -> TiffImagePlugin.ImageFileDirectory_v2:
    file = io.BytesIO(data)
    header = file.read(8)
    if header[2:3] == b"+" or header[3:4] == b"+":
        header += file.read(8)
    tags = TiffImagePlugin.ImageFileDirectory_v2(header)
    file.seek(tags.next)
    tags.load(file)
    if _WIDTH not in tags or _HEIGHT not in tags:
        raise ValueError("a directory without a picture")
    return tags


def _numbers(value: int | tuple[int, ...]) -> tuple[int, ...]:
    return value if isinstance(value, tuple) else (value,)


def _as_rgb(image: Image.Image) -> Image.Image:
    if image.mode != "LAB":
        return image.convert("RGBA" if "A" in image.mode else "RGB")
    srgb, lab = ImageCms.createProfile("sRGB"), ImageCms.createProfile("LAB")
    converted = ImageCms.profileToProfile(image, lab, srgb, outputMode="RGB")
    assert converted is not None
    return converted
