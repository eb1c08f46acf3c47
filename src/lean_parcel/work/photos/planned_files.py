"""The files of a photo: its pick, and the variants of it, and how far they are."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from sqlite3 import Connection
from typing import Literal

from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.state import State
from lean_parcel.core.decisions.variants import plan_at
from lean_parcel.core.formats import FORMAT_NAMES, UNIVERSAL_FORMATS, Format
from lean_parcel.core.framing.plan import Plan
from lean_parcel.store import encodes, inspections, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.photos import Photo
from lean_parcel.work.searches.starting import variant_states_of

#: How far a file is: there to be handed over, being made, not to be made, or left out since one
#: that opens everywhere is as light.
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


def variants_at(
    connection: Connection, photo: Photo, state: State, density: float
) -> list[PlannedFile]:
    """The variants of a photo at a density, without names."""
    at = variant_states_of(connection, photo, state).get(density)
    if at is None:
        return []
    return [variant_file(connection, photo, state, at, density, name) for name in at.aim.formats]


def picked_file(connection: Connection, photo: Photo, state: State) -> PlannedFile:
    """The pick of a photo that has one."""
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


def variant_file(
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


def without_heavy(files: Sequence[PlannedFile]) -> tuple[PlannedFile, ...]:
    """Files of a photo, of which those are left out that are no lighter than one at the same
    density that opens everywhere; what a person chose stays."""
    lightest: dict[float, tuple[int, Format]] = {}
    for file in files:
        if file.encode and file.format in UNIVERSAL_FORMATS:
            size = file.encode.measured.size_bytes, file.format
            lightest[file.density] = min(size, lightest.get(file.density, size))

    def is_heavy(file: PlannedFile) -> bool:
        beside = lightest.get(file.density)
        if beside is None or file.encode is None or file.is_chosen:
            return False
        return file.format not in UNIVERSAL_FORMATS and file.encode.measured.size_bytes >= beside[0]

    return tuple(
        replace(
            file,
            state="left out",
            encode=None,
            error=f"Left out: no lighter than the {FORMAT_NAMES[lightest[file.density][1]]}.",
        )
        if is_heavy(file)
        else file
        for file in files
    )


def _error(search: searches.Search | None, name: Format) -> str:
    if search is None or search.state == "stopped":
        return "This was stopped."
    failed = next((each.error_message for each in search.formats if each.format == name), None)
    return failed or search.error_message or "This could not be made."
