"""What is handed over of a page: each photo's files, how far they are, and their names."""

import hashlib
from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from pathlib import PurePosixPath

from lean_parcel.core.decisions.state import State
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.metadata.policy import MetadataPolicy
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.packing.handed import HandedPhoto
from lean_parcel.core.packing.names import (
    FileFacts,
    all_different,
    file_name,
    safe_folder,
)
from lean_parcel.core.packing.references.finding import OldPhoto
from lean_parcel.core.page.layout import Page, Spot
from lean_parcel.store import inspections, journal
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database, identity
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.photos.planned_files import Decided, PlannedFile, files_of, handed_of
from lean_parcel.work.results.encodes import encode_of


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedPhoto:
    """A photo on a page of a usual density, with its files, the densest first; none where nothing
    is taken."""

    photo: Photo
    spot: Spot
    state: State
    density: float
    credit: str
    files: tuple[PlannedFile, ...]

    @property
    def pick(self) -> PlannedFile | None:
        """The file that was taken."""
        return next((file for file in self.files if file.is_pick), None)

    @property
    def running(self) -> int:
        """How many of its files are being made."""
        return sum(file.state == "running" for file in self.files)

    @property
    def handed(self) -> HandedPhoto | None:
        """What page code needs to know, of the files that are ready; None where none is."""
        handed, spot = handed_of(self.files, self.state.aim.place, self.density), self.spot
        if handed is None:
            return None
        return replace(
            handed,
            alt_text=spot.alt_text,
            credit=self.credit,
            loading=spot.loading,
            fetch_priority=spot.fetch_priority,
            sizes=spot.sizes,
        )

    @property
    def old(self) -> OldPhoto | None:
        """The photo as old references name it; None where nothing is ready."""
        handed = self.handed
        if handed is None:
            return None
        return OldPhoto(
            name=self.photo.name,
            folder=self.photo.folder,
            size_bytes=self.photo.source.size_bytes,
            handed=handed,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedDelivery:
    """All that is handed over of a page; `id` says of which page and workspace."""

    id: str
    page: Page
    photos: tuple[PlannedPhoto, ...]

    @property
    def files(self) -> list[PlannedFile]:
        """The files of all photos."""
        return [file for photo in self.photos for file in photo.files]

    @property
    def running(self) -> int:
        """How many files are being made."""
        return sum(photo.running for photo in self.photos)


class Planning:
    """Reads what is handed over."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def page(self, page_id: int) -> PlannedDelivery:
        """The delivery of a page. Raises NotFoundError."""
        with self._context.connection() as connection, database.snapshot(connection):
            page = journal.layout_of(connection).page(page_id)
            own = identity.get(connection)
            ids = [spot.photo_id for spot in page.spots]
            decided = Decided.of(connection, ids)
            credits = inspections.credits_of(connection, ids)
        planned = [_planned(decided, page, spot, credits) for spot in page.spots]
        return PlannedDelivery(
            id=f"{own.workspace_id if own else ''}/{page.id}",
            page=page,
            photos=tuple(_named(page, planned)),
        )

    def photo(self, photo_id: int) -> PlannedPhoto:
        """One photo of a delivery, with the names that its files have unless others have them.
        Raises NotFoundError."""
        with self._context.connection() as connection, database.snapshot(connection):
            layout = journal.layout_of(connection)
            page, spot = layout.page_of(photo_id), layout.spot(photo_id)
            credits = inspections.credits_of(connection, [photo_id])
            decided = Decided.of(connection, [photo_id])
        planned = _planned(decided, page, spot, credits)
        named = (replace(file, path=_path(page, planned, file)) for file in planned.files)
        return replace(planned, files=tuple(named))

    def name_of(self, photo_id: int, encode_id: int) -> str:
        """The name under which an encode of a photo is saved: that of its file in the delivery, or
        the one that it would have there. Raises NotFoundError."""
        with self._context.connection() as connection:
            page = journal.layout_of(connection).page_of(photo_id)
            state = journal.state_of(connection, photo_id)
            encode = encode_of(connection, photo_id, encode_id).encode
        for photo in self.page(page.id).photos:
            for file in photo.files:
                is_it = photo.photo.id == photo_id and file.encode is not None
                if is_it and file.encode and file.encode.id == encode_id:
                    return PurePosixPath(file.path).name
        spot = next(spot for spot in page.spots if spot.photo_id == photo_id)
        density, policy = state.aim.place.density, state.framing.metadata
        own = _own_name(spot, density, encode.trial.settings.format)
        return own or file_name(_facts_of(spot.name, encode, density, policy), page.name_pattern)

    def complete(self, page_id: int) -> PlannedDelivery:
        """The delivery of a page, of which every file is ready. Raises UsageError `not_ready` or
        `nothing_taken`."""
        delivery = self.page(page_id)
        if delivery.running:
            raise UsageError(f"{delivery.running} files are still being made.", "not_ready")
        if not any(file.encode for file in delivery.files):
            raise UsageError("Nothing is taken on this page yet.", "nothing_taken")
        return delivery


def _planned(decided: Decided, page: Page, spot: Spot, credits: dict[int, Credit]) -> PlannedPhoto:
    i = spot.photo_id
    brought = credits[i].line if i in credits else ""
    return PlannedPhoto(
        photo=decided.rows[i],
        spot=spot,
        state=decided.states[i],
        density=page.settings.density,
        credit=brought if spot.credit is None else spot.credit,
        files=files_of(decided, i),
    )


def _named(page: Page, planned: Collection[PlannedPhoto]) -> Iterator[PlannedPhoto]:
    """The same with the paths of all files, none of which is that of another or of an original."""
    wanted = [_path(page, photo, file) for photo in planned for file in photo.files]
    originals = {
        str(PurePosixPath(safe_folder(photo.photo.folder)) / photo.photo.name) for photo in planned
    }
    paths = iter(all_different(wanted, originals))
    for photo in planned:
        files = tuple(replace(file, path=next(paths)) for file in photo.files)
        yield replace(photo, files=files)


def _path(page: Page, photo: PlannedPhoto, file: PlannedFile) -> str:
    own = _own_name(photo.spot, file.density, file.format)
    name = own or file_name(_facts(photo, file), page.name_pattern)
    return str(PurePosixPath(safe_folder(photo.photo.folder)) / name)


def _own_name(spot: Spot, density: float, name: Format) -> str | None:
    own = (o.name for o in spot.own_names if (o.density, o.format) == (density, name))
    return next(own, None)


def _facts(photo: PlannedPhoto, file: PlannedFile) -> FileFacts:
    """What a file's name is made of; while it is not there, as if it had all its pixels."""
    name = photo.spot.name
    if file.encode:
        return _facts_of(name, file.encode, file.density, photo.state.framing.metadata)
    return FileFacts(
        photo_name=name,
        format=file.format,
        width_px=file.plan.width_px,
        density=file.density,
        sha256="0" * 64,
    )


def _facts_of(name: str, encode: Encode, density: float, policy: MetadataPolicy) -> FileFacts:
    """The same of an encode. The bytes that are handed over follow from those of the encode and the
    metadata policy, and so does the hash."""
    made_of = f"{encode.file_sha256} {policy}"
    return FileFacts(
        photo_name=name,
        format=encode.trial.settings.format,
        width_px=encode.trial.width_px,
        density=density,
        sha256=hashlib.sha256(made_of.encode()).hexdigest(),
    )
