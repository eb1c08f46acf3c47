"""The task that opens and frames a photo."""

from dataclasses import dataclass

from lean_parcel.core.framing.frame import frame_photo
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.original.source import Limits, Source
from lean_parcel.core.picture.gamut import profile_of
from lean_parcel.core.picture.serialisation import lossless_png, small_webp
from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.core.search.sizing import first_input

_THUMBNAIL_WIDTH_PX = 168


@dataclass(frozen=True, slots=True, kw_only=True)
class FramedFiles:
    """A framed photo: lossless pixels before (`plain`) and after sharpening, a thumbnail, and what
    a first encode needs to know."""

    source: Source
    plan: Plan
    search_input: SearchInput
    plain_png: bytes
    pixels_png: bytes
    thumbnail_webp: bytes

    @property
    def size_bytes(self) -> int:
        """The bytes of all files."""
        return len(self.plain_png) + len(self.pixels_png) + len(self.thumbnail_webp)


def frame_task(
    data: bytes, name: str, framing: Framing, place: Place, limits: Limits
) -> FramedFiles:
    """Opens and frames a photo. Raises a PhotoError, or a UsageError as `plan_framing` does."""
    framed = frame_photo(data, name, framing, place, limits)
    profile = profile_of(framing.gamut)
    png = lossless_png(framed.pixels, profile)
    is_sharpened = framed.plain is not framed.pixels
    return FramedFiles(
        source=framed.source,
        plan=framed.plan,
        search_input=first_input(framed.pixels, len(png)),
        plain_png=lossless_png(framed.plain, profile) if is_sharpened else png,
        pixels_png=png,
        thumbnail_webp=small_webp(framed.pixels, _THUMBNAIL_WIDTH_PX, profile),
    )
