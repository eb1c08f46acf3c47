"""Visits to the simulated site: a made-up page of the pottery studio in which the files of a
delivery stand, what a browser should take of them, and what it was really sent.

The site is a stand-in for the person's own. Its address has a secret, so that it can be shown with
no rights at all: see `web/routes/standing.py`.
"""

import secrets
import threading
from collections.abc import Collection
from dataclasses import dataclass, field, replace
from typing import Literal

from lean_parcel.core.errors import NotFoundError, UsageError
from lean_parcel.core.formats import FORMATS, MEDIA_TYPES, Format
from lean_parcel.core.packing.handed import HandedFile, HandedPhoto, taken
from lean_parcel.work.delivery.planning import PlannedPhoto, Planning
from lean_parcel.work.photos.files import Files

#: Who chooses the format: the browser, by `picture`, or a server, by the Accept header.
Chooses = Literal["picture", "accept"]
#: Visits that are remembered.
_MOST = 64
#: Formats that are only sent to who says that they are accepted.
_ASKED_FOR: tuple[Format, ...] = ("avif", "webp")


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """The simulated line: its speed, and the time of one way there and back. Raises UsageError
    `invalid_line` for what no line is."""

    kbit_s: int
    round_trip_ms: int

    def __post_init__(self) -> None:
        if not (1 <= self.kbit_s <= 1_000_000 and 0 <= self.round_trip_ms <= 10_000):
            raise UsageError("A line has 1 to 1,000,000 kbit/s and up to 10 s.", "invalid_line")


@dataclass(frozen=True, slots=True, kw_only=True)
class Visited:
    """A photo in the site: as it is handed over, as the page code of the site has it, and the
    encodes of its files by path."""

    photo_id: int
    name: str
    handed: HandedPhoto
    shown: HandedPhoto
    encode_ids: dict[str, int]

    def file_at(self, path: str, accepted: Collection[Format]) -> HandedFile | None:
        """The file that is sent for a path in the page code, if it is one of this photo: itself, or
        the first that is accepted of those for its density."""
        asked = next((file for file in self.shown.files if file.path == path), None)
        if asked is None or path in self.encode_ids:
            return asked
        of_density = [file for file in self.handed.files if file.density == asked.density]
        order = {name: index for index, name in enumerate(self.handed.formats)}
        fitting = [file for file in of_density if file.format in accepted]
        return min(fitting or of_density, key=lambda file: order[file.format])


@dataclass(frozen=True, slots=True, kw_only=True)
class SentFile:
    """A file of a photo that was sent, with its bytes."""

    photo_id: int
    name: str
    file: HandedFile
    size_bytes: int


@dataclass(slots=True, kw_only=True)
class Visit:
    """A visit: in a window so many CSS pixels wide, on a screen of a density."""

    id: int
    secret: str
    page: str
    window_css_px: int
    density: float
    chooses: Chooses
    line: Line | None
    photos: tuple[Visited, ...]
    sent: list[SentFile] = field(default_factory=list)

    def plan(self) -> list[tuple[Visited, HandedFile]]:
        """What a browser that knows all formats is sent, photo by photo."""
        files = []
        for photo in self.photos:
            asked = taken(photo.shown, self.window_css_px, self.density)
            file = photo.file_at(asked.path, FORMATS)
            assert file
            files.append((photo, file))
        return files


class Visits:
    """Begins visits, sends their files, and remembers what was sent."""

    def __init__(self, planning: Planning, files: Files) -> None:
        self._planning = planning
        self._files = files
        self._lock = threading.Lock()
        self._count = 0
        self._by_secret: dict[str, Visit] = {}

    def begin(
        self,
        page_id: int,
        *,
        window_css_px: int,
        density: float,
        chooses: Chooses = "picture",
        line: Line | None = None,
    ) -> Visit:
        """Begins a visit of what is ready of a page. Raises NotFoundError, and UsageError
        `nothing_taken`."""
        delivery = self._planning.page(page_id)
        photos = tuple(
            _visited(photo, handed, chooses)
            for photo in delivery.photos
            if (handed := photo.handed)
        )
        if not photos:
            raise UsageError("Nothing is taken on this page yet.", "nothing_taken")
        with self._lock:
            self._count += 1
            visit = Visit(
                id=self._count,
                secret=secrets.token_urlsafe(24),
                page=delivery.page.name,
                window_css_px=window_css_px,
                density=density,
                chooses=chooses,
                line=line,
                photos=photos,
            )
            self._by_secret[visit.secret] = visit
            while len(self._by_secret) > _MOST:
                del self._by_secret[next(iter(self._by_secret))]
        return visit

    def by_id(self, visit_id: int) -> Visit:
        """A visit, for the application. Raises NotFoundError."""
        with self._lock:
            for visit in self._by_secret.values():
                if visit.id == visit_id:
                    return visit
        raise NotFoundError("This visit is long over.")

    def by_secret(self, secret: str) -> Visit:
        """A visit, for who has its address. Raises NotFoundError."""
        with self._lock:
            found = self._by_secret.get(secret)
        if found is None:
            raise NotFoundError("This visit is long over.")
        return found

    def send(self, visit: Visit, path: str, accepted: Collection[Format]) -> tuple[bytes, str]:
        """The file at a path of a visit, or what a server chooses for it, and its media type; it
        is noted as sent. Raises NotFoundError."""
        named = ((photo, photo.file_at(path, accepted)) for photo in visit.photos)
        photo, file = next((each for each in named if each[1]), (None, None))
        if photo is None or file is None:
            raise NotFoundError("There is no such file on this page.")
        _, data = self._files.delivered(photo.photo_id, photo.encode_ids[file.path])
        with self._lock:
            visit.sent.append(
                SentFile(photo_id=photo.photo_id, name=photo.name, file=file, size_bytes=len(data))
            )
        return data, MEDIA_TYPES[file.format]


def accepted_by(header: str) -> tuple[Format, ...]:
    """The formats that an Accept header names; older ones are always accepted."""
    named = {part.split(";")[0].strip().lower() for part in header.split(",")}
    return tuple(name for name in FORMATS if name not in _ASKED_FOR or MEDIA_TYPES[name] in named)


def _visited(photo: PlannedPhoto, handed: HandedPhoto, chooses: Chooses) -> Visited:
    # All pictures are measured, so none waits until it is scrolled to.
    shown = replace(handed, loading="eager", sizes="")
    if chooses == "accept":
        by_density = {
            file.density: replace(
                file, path=f"any/{photo.photo.id}/{file.density:g}", format=handed.fallback.format
            )
            for file in handed.files
        }
        shown = replace(shown, files=tuple(by_density.values()))
    return Visited(
        photo_id=photo.photo.id,
        name=photo.spot.name,
        handed=handed,
        shown=shown,
        encode_ids={file.path: file.encode.id for file in photo.files if file.encode},
    )
