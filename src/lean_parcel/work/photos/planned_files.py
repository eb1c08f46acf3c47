"""The files of a photo: its pick, and the variants of it, and how far they are."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product
from sqlite3 import Connection
from typing import Literal

from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.variants import plan_at
from lean_parcel.core.formats import FORMAT_NAMES, NEWNESS, Format
from lean_parcel.core.framing.place import Place
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.metadata.embed import SegmentSizes
from lean_parcel.core.packing.handed import HandedFile, HandedPhoto, stands_for_px
from lean_parcel.core.packing.variant_states import Picked, variant_keys, variant_states
from lean_parcel.core.page.totals import Fetched
from lean_parcel.store import encodes, framed, inspections, journal, photos, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import Search

#: How far a file is: there to be handed over, being made, not to be made, or left out since one
#: that more programs open is as light.
FileState = Literal["ready", "running", "failed", "left out"]


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
class Decided:
    """What was decided about photos, by their ids: what came in, states, the sizes of the metadata
    that goes out with their files, the searches for their variants by photo and density, and all
    encodes that these and the picks name; read in as many queries for one photo as for hundreds."""

    rows: dict[int, Photo]
    states: dict[int, State]
    sizes: dict[int, SegmentSizes]
    of_variants: dict[tuple[int, float], Search]
    encodes: dict[int, Encode]
    transparent_ids: set[int]

    @classmethod
    def of(cls, connection: Connection, photo_ids: Collection[int]) -> "Decided":
        """What was decided about photos. Raises NotFoundError."""
        states = journal.states_of(connection, photo_ids)
        policies = {i: state.framing.metadata for i, state in states.items()}
        sizes = inspections.sizes_of_all(connection, policies)
        of_variants = searches.of_variants(connection, photo_ids)
        wanted = {
            encode_id: sizes[i] for i, state in states.items() for encode_id in _chosen_ids(state)
        } | {
            each.encode_id: sizes[i]
            for (i, _), search in of_variants.items()
            for each in search.found
        }
        made = encodes.get_all(connection, wanted)
        framed_ids = {encode.framed_id for encode in made.values()}
        return cls(
            rows=photos.get_all(connection, photo_ids),
            states=states,
            sizes=sizes,
            of_variants=of_variants,
            encodes=made,
            transparent_ids=framed.transparent_of(connection, framed_ids),
        )

    def pick(self, photo_id: int) -> Encode | None:
        """The encode that was taken of a photo."""
        return self.encodes.get(self.states[photo_id].picked_encode_id or 0)


def files_of(decided: Decided, photo_id: int) -> tuple[PlannedFile, ...]:
    """The files of a photo, without names: the densest first; none where nothing is taken."""
    photo, state, pick = decided.rows[photo_id], decided.states[photo_id], decided.pick(photo_id)
    if pick is None:
        return ()
    picked = Picked(
        format=pick.trial.settings.format,
        likeness=pick.measured.likeness,
        is_transparent=pick.framed_id in decided.transparent_ids,
    )
    at_densities = variant_states(state, photo.source, picked)
    own = state.aim.place.density, picked.format
    return without_heavy(
        [
            _picked_file(photo, state, pick)
            if key == own
            else _variant_file(decided, photo_id, at_densities[key[0]], *key)
            for key in variant_keys(state, at_densities, picked)
        ]
    )


def handed_of(files: Sequence[PlannedFile], place: Place, density: float) -> HandedPhoto | None:
    """What page code needs to know of a photo's files that are ready, on a page of a usual
    density; None where none is."""
    ready = [(file, file.encode) for file in files if file.encode]
    if not ready:
        return None
    standing = place.standing(files[0].plan.box)
    return HandedPhoto(
        files=tuple(
            HandedFile(
                path=file.path,
                format=file.format,
                density=file.density,
                stands_for_px=stands_for_px(
                    file.plan.width_px, standing.css_width_px, file.density
                ),
                width_px=encode.trial.width_px,
                height_px=encode.trial.height_px,
                size_bytes=encode.measured.size_bytes,
            )
            for file, encode in ready
        ),
        css_width_px=standing.css_width_px,
        css_height_px=standing.css_height_px,
        density=density,
    )


def fetched_of(decided: Decided, photo_id: int, density: float) -> Fetched | None:
    """What is fetched of a photo on a page of a usual density; None where nothing is taken."""
    handed = handed_of(files_of(decided, photo_id), decided.states[photo_id].aim.place, density)
    if handed is None:
        return None
    return Fetched.of(handed, decided.rows[photo_id].source.size_bytes)


def without_heavy(files: Sequence[PlannedFile]) -> tuple[PlannedFile, ...]:
    """Files of a photo without the formats of which one is no lighter than a file of the same
    density that more programs open; what a person chose stays. A browser chooses the format first:
    were it there at some densities only, others would be sent fewer pixels."""
    stay: list[PlannedFile] = []
    better: dict[Format, Format] = {}
    for name in sorted({file.format for file in files}, key=NEWNESS.__getitem__):
        of_format = [file for file in files if file.format == name]
        beside = [old.format for file, old in product(of_format, stay) if _is_heavier(file, old)]
        if beside and not any(file.is_chosen for file in of_format):
            better[name] = beside[0]
        else:
            stay += of_format
    return tuple(
        replace(
            file,
            state="left out",
            encode=None,
            error=f"Left out: no lighter than the {FORMAT_NAMES[better[file.format]]}.",
        )
        if file.format in better
        else file
        for file in files
    )


def _is_heavier(file: PlannedFile, other: PlannedFile) -> bool:
    """Whether a file is no lighter than one of the same density that more programs open."""
    if file.encode is None or other.encode is None or file.density != other.density:
        return False
    is_newer = NEWNESS[file.format] > NEWNESS[other.format]
    return is_newer and file.encode.measured.size_bytes >= other.encode.measured.size_bytes


def _chosen_ids(state: State) -> Iterator[int]:
    if state.picked_encode_id is not None:
        yield state.picked_encode_id
    yield from (pick.encode_id for pick in state.variant_picks)


def _picked_file(photo: Photo, state: State, pick: Encode) -> PlannedFile:
    density = state.aim.place.density
    return PlannedFile(
        path="",
        format=pick.trial.settings.format,
        density=density,
        plan=plan_at(state.framing, state.aim.place, photo.source, density),
        aim=state.aim,
        state="ready",
        error=None,
        encode=pick,
        is_pick=True,
        is_chosen=True,
    )


def _variant_file(
    decided: Decided, photo_id: int, at: State, density: float, name: Format
) -> PlannedFile:
    """A variant: the one that a person chose, or the best that was found."""
    state = decided.states[photo_id]
    chosen = [
        pick.encode_id
        for pick in state.variant_picks
        if (pick.density, pick.format) == (density, name)
    ]
    search = decided.of_variants.get((photo_id, density))
    ids = chosen or [each.encode_id for each in search.found] if search else chosen
    made = [decided.encodes[i] for i in ids if i in decided.encodes]
    of_format = [each for each in made if each.trial.settings.format == name]
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
        plan=plan_at(state.framing, state.aim.place, decided.rows[photo_id].source, density),
        aim=at.aim,
        state=file_state,
        error=_error(search, name) if file_state == "failed" else None,
        encode=encode if file_state == "ready" else None,
        is_pick=False,
        is_chosen=bool(chosen),
    )


def _error(search: Search | None, name: Format) -> str:
    if search is None or search.state == "stopped":
        return "This was stopped."
    failed = next((each.error_message for each in search.formats if each.format == name), None)
    return failed or search.error_message or "This could not be made."
