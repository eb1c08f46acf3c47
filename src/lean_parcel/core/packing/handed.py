"""What is handed over of a photo: its files, and how it stands in a page; which of the files a
browser takes, and so what the photo weighs there."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import Literal

from lean_parcel.core.formats import FORMATS, NEWNESS, Format

Loading = Literal["lazy", "eager"]
FetchPriority = Literal["auto", "high", "low"]


@dataclass(frozen=True, slots=True, kw_only=True)
class HandedFile:
    """A file, at a path of safe names below the folder of the delivery. It stands for so many
    pixels across at a density of its place, and may have fewer, which the browser enlarges."""

    path: str
    format: Format
    density: float
    stands_for_px: int
    width_px: int
    height_px: int
    size_bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class HandedPhoto:
    """Files of a photo, its size in CSS pixels, the usual density of the screens that it is seen
    on, and what a person said of it. An alternative text of None is not written yet, an empty one
    says that there is nothing to tell; `sizes` are those of the `img` element, and empty for as
    wide as the place, or the window."""

    files: tuple[HandedFile, ...]
    css_width_px: int
    css_height_px: int
    density: float
    alt_text: str | None = None
    credit: str = ""
    loading: Loading = "lazy"
    fetch_priority: FetchPriority = "auto"
    sizes: str = ""

    @property
    def fallback(self) -> HandedFile:
        """The file for what knows nothing newer: of the format that most open, and of its lowest
        density."""
        return min(self.files, key=lambda file: (NEWNESS[file.format], file.density))

    def of_format(self, name: Format) -> tuple[HandedFile, ...]:
        """The files of a format by rising density."""
        return tuple(
            sorted((f for f in self.files if f.format == name), key=lambda file: file.density)
        )

    def beside(self) -> "HandedPhoto":
        """The same with all files beside each other, without the folders of the delivery."""
        files = (replace(file, path=PurePosixPath(file.path).name) for file in self.files)
        return replace(self, files=tuple(files))

    @property
    def formats(self) -> tuple[Format, ...]:
        """Formats in the order in which a browser should take them: newer ones by the bytes at the
        usual density, and that of the fallback last."""
        last = self.fallback.format
        names = {file.format for file in self.files if NEWNESS[file.format] > NEWNESS[last]}
        return (*sorted(names, key=lambda name: self._usual(name).size_bytes), last)

    @property
    def fetched(self) -> HandedFile:
        """The file that a browser of today fetches on a screen of the usual density, in a window
        with room for the place."""
        return self._usual(self.formats[0])

    @property
    def fetched_by_old(self) -> HandedFile:
        """The same for a browser that knows no newer formats."""
        return self._usual(self.fallback.format)

    @property
    def default_sizes(self) -> str:
        """As wide as the place, where the window is that wide."""
        return f"(min-width: {self.css_width_px}px) {self.css_width_px}px, 100vw"

    def _usual(self, name: Format) -> HandedFile:
        return chosen(self.of_format(name), self.css_width_px, self.density)


def stands_for_px(width_px: int, css_width_px: int, density: float) -> int:
    """The pixels across that a file of the full width of a place at a density stands for, in page
    code. Both widths are whole, and rounded each for itself: where no more than that is between
    them, the file has all that a screen of the density shows."""
    shown_px = round(css_width_px * density)
    return shown_px if abs(shown_px - width_px) <= (density + 1) / 2 else width_px


def chosen(files: Sequence[HandedFile], slot_css_px: float, density: float) -> HandedFile:
    """The file that a browser takes of one format, given by rising density, for a slot of so many
    CSS pixels on a screen of a density: the smallest that has as many pixels as are shown, or else
    the largest.

    The HTML standard (4.8.4.3) leaves the choice to the browser; this is what Chromium 156 does,
    measured for densities from 1 to 3.
    """
    for file in files:
        if file.stands_for_px >= slot_css_px * density:
            return file
    return files[-1]


def taken(
    photo: HandedPhoto,
    window_css_px: int,
    density: float,
    accepted: Collection[Format] = FORMATS,
) -> HandedFile:
    """The file that a browser takes in a window, where the photo is as wide as its place or the
    window: of the first format that it accepts."""
    name = next((name for name in photo.formats if name in accepted), photo.fallback.format)
    slot_css_px = min(photo.css_width_px, window_css_px)
    return chosen(photo.of_format(name), slot_css_px, density)
