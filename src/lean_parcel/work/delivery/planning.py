"""What is handed over of a page: each photo's files, how far they are, and their names."""

import hashlib
from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from sqlite3 import Connection
from typing import Literal

from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.variants import plan_at
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.metadata.policy import MetadataPolicy
from lean_parcel.core.metadata.values import Credit
from lean_parcel.core.packing.handed import HandedFile, HandedPhoto
from lean_parcel.core.packing.names import (
    FileFacts,
    all_different,
    file_name,
    safe_folder,
)
from lean_parcel.core.packing.references.finding import OldPhoto
from lean_parcel.core.packing.variants import variant_keys, variant_states
from lean_parcel.core.page.layout import Page, Spot
from lean_parcel.store import database, encodes, inspections, journal, photos, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import identity
from lean_parcel.store.photos import Photo
from lean_parcel.work.context import Context
from lean_parcel.work.searches.starting import picked_of, variant_states_of

#: How far a file is: there to be handed over, being made, or not to be made.
FileState = Literal["ready", "running", "failed"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedFile:
    """A file to hand over, at a path below the folder of the delivery; its name may change while it
    is not ready. `aim` is what it was searched for, `is_chosen` says that a person chose it."""

    path: str
    format: Format
    density: float
    plan: Plan
    aim: Aim
    state: FileState
    error: str | None
    encode: Encode | None
    is_pick: bool
    is_chosen: bool

    @property
    def meets_aim(self) -> bool:
        """Whether the file does what it was searched for."""
        made = self.encode
        return made is not None and self.aim.is_met_by(
            made.measured.size_bytes, made.measured.likeness
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedPhoto:
    """A photo with its files, the densest first; none where nothing is taken."""

    photo: Photo
    spot: Spot
    state: State
    credit: str
    files: tuple[PlannedFile, ...]

    @property
    def pick(self) -> PlannedFile | None:
        """The file that was taken."""
        return next((file for file in self.files if file.is_pick), None)

    @property
    def handed(self) -> HandedPhoto | None:
        """What page code needs to know, of the files that are ready; None where none is."""
        files = tuple(_handed(each, each.encode) for each in self.files if each.encode)
        if not files:
            return None
        plan, spot = self.files[0].plan, self.spot
        width_px = self.state.aim.place.css_width_px
        return HandedPhoto(
            files=files,
            css_width_px=width_px,
            css_height_px=max(1, round(width_px * plan.height_px / plan.width_px)),
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
        return sum(file.state == "running" for file in self.files)


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
            rows = photos.get_all(connection, ids)
            states = journal.states_of(connection, ids)
            credits = inspections.credits_of(connection, ids)
            planned = [
                _planned(connection, rows[spot.photo_id], spot, states[spot.photo_id], credits)
                for spot in page.spots
            ]
        return PlannedDelivery(
            id=f"{own.workspace_id if own else ''}/{page.id}",
            page=page,
            photos=tuple(_named(page, planned)),
        )

    def name_of(self, photo_id: int, encode: Encode) -> str:
        """The name under which an encode of a photo is saved: that of its file in the delivery, or
        one by the same pattern. Raises NotFoundError."""
        with self._context.connection() as connection:
            page = journal.layout_of(connection).page_of(photo_id)
            state = journal.state_of(connection, photo_id)
        for photo in self.page(page.id).photos:
            for file in photo.files:
                is_it = photo.photo.id == photo_id and file.encode is not None
                if is_it and file.encode and file.encode.id == encode.id:
                    return PurePosixPath(file.path).name
        spot = next(spot for spot in page.spots if spot.photo_id == photo_id)
        density, policy = state.aim.place.density, state.framing.metadata
        return file_name(_facts_of(spot.name, encode, density, policy), page.name_pattern)

    def complete(self, page_id: int) -> PlannedDelivery:
        """The delivery of a page, of which every file is ready. Raises UsageError `not_ready` or
        `nothing_taken`."""
        delivery = self.page(page_id)
        if delivery.running:
            raise UsageError(f"{delivery.running} files are still being made.", "not_ready")
        if not any(file.encode for file in delivery.files):
            raise UsageError("Nothing is taken on this page yet.", "nothing_taken")
        return delivery


def variants_at(
    connection: Connection, photo: Photo, state: State, density: float
) -> list[PlannedFile]:
    """The variants of a photo at a density, without names."""
    at = variant_states_of(connection, photo, state).get(density)
    if at is None:
        return []
    return [_variant(connection, photo, state, at, density, name) for name in at.aim.formats]


def _planned(
    connection: Connection, photo: Photo, spot: Spot, state: State, credits: dict[int, Credit]
) -> PlannedPhoto:
    files: tuple[PlannedFile, ...] = ()
    if picked := picked_of(connection, state):
        at_densities = variant_states(state, photo.source, picked)
        own = state.aim.place.density, picked.format
        files = tuple(
            _pick(connection, photo, state)
            if key == own
            else _variant(connection, photo, state, at_densities[key[0]], *key)
            for key in variant_keys(state, at_densities, picked)
        )
    credit = credits[photo.id].line if photo.id in credits else ""
    return PlannedPhoto(photo=photo, spot=spot, state=state, credit=credit, files=files)


def _pick(connection: Connection, photo: Photo, state: State) -> PlannedFile:
    assert state.picked_encode_id
    sizes = inspections.segment_sizes(connection, photo.id, state.framing.metadata)
    encode = encodes.get(connection, state.picked_encode_id, sizes)
    density = state.aim.place.density
    return PlannedFile(
        path="",
        format=encode.trial.settings.format,
        density=density,
        plan=plan_at(state.framing, state.aim.place, photo.source, density),
        aim=state.aim,
        state="ready",
        error=None,
        encode=encode,
        is_pick=True,
        is_chosen=True,
    )


def _variant(
    connection: Connection, photo: Photo, state: State, at: State, density: float, name: Format
) -> PlannedFile:
    """A variant: the one that a person chose, or the best that was found."""
    sizes = inspections.segment_sizes(connection, photo.id, state.framing.metadata)
    chosen = [
        pick.encode_id
        for pick in state.variant_picks
        if (pick.density, pick.format) == (density, name)
    ]
    search = searches.at_density(connection, photo.id, density)
    ids = chosen or [each.encode_id for each in search.found] if search else chosen
    made = encodes.get_all(connection, dict.fromkeys(ids, sizes))
    of_format = [each for each in made.values() if each.trial.settings.format == name]
    best = ranked([judged(each.trial, each.measured, at.aim) for each in of_format], at.aim)
    encode = next((each for each in of_format if best and each.trial == best[0].trial), None)
    has_ended = search is not None and search.state != "running"
    file_state: FileState = "running"
    if encode and (chosen or has_ended):
        file_state = "ready"
    elif has_ended or search is None:
        file_state = "failed"
    return PlannedFile(
        path="",
        format=name,
        density=density,
        plan=plan_at(state.framing, state.aim.place, photo.source, density),
        aim=at.aim,
        state=file_state,
        error=_error(search, name) if file_state == "failed" else None,
        encode=encode if file_state == "ready" else None,
        is_pick=False,
        is_chosen=bool(chosen),
    )


def _error(search: searches.Search | None, name: Format) -> str:
    if search is None or search.state == "stopped":
        return "This was stopped."
    failed = next((each.error_message for each in search.formats if each.format == name), None)
    return failed or search.error_message or "This could not be made."


def _handed(file: PlannedFile, encode: Encode) -> HandedFile:
    return HandedFile(
        path=file.path,
        format=file.format,
        density=file.density,
        stands_for_px=file.plan.width_px,
        width_px=encode.trial.width_px,
        height_px=encode.trial.height_px,
        size_bytes=encode.measured.size_bytes,
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
    own = [
        each.name
        for each in photo.spot.own_names
        if (each.density, each.format) == (file.density, file.format)
    ]
    name = own[0] if own else file_name(_facts(photo, file), page.name_pattern)
    return str(PurePosixPath(safe_folder(photo.photo.folder)) / name)


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
