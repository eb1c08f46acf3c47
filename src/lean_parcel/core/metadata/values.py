"""Metadata as values: the credit, what a file carries, and the segments to embed in one."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Credit:
    """Who is to be named: the maker, the credit line asked for, the rights, and where the licence
    is. Empty texts where nothing is known."""

    author: str = ""
    credit: str = ""
    rights: str = ""
    licence: str = ""

    @property
    def line(self) -> str:
        """One line to set under the photo; empty where nobody is named."""
        names = [name for name in dict.fromkeys((self.author, self.credit)) if name]
        return " / ".join(names) or self.rights


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceMetadata:
    """What a file carries beside its picture: EXIF (from its TIFF header on), XMP and ICC as their
    standards have them, IPTC texts by the XMP property that replaced them, the text chunks of a
    PNG, dots per inch, the number of frames, and whether all of it could be read."""

    exif: bytes = b""
    xmp: bytes = b""
    icc: bytes = b""
    iptc: tuple[tuple[str, str], ...] = ()
    iptc_size_bytes: int = 0
    texts: tuple[tuple[str, str], ...] = ()
    dpi: float | None = None
    frames: int = 1
    is_whole: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Segments:
    """Metadata to embed in a file, as EXIF and XMP have it; an empty one is left out."""

    exif: bytes = b""
    xmp: bytes = b""


NO_SEGMENTS = Segments()
