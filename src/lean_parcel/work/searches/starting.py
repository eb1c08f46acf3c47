"""Starting searches in the store, and those of variants as they follow from what is decided; `runs`
carries them out."""

from dataclasses import dataclass
from sqlite3 import Connection

from lean_parcel.core.decisions.state import State, files_key, plan_of
from lean_parcel.core.packing.variant_states import Picked, variant_states
from lean_parcel.store import encodes, framed, journal, photos, searches
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import OWN, SearchRef


@dataclass(frozen=True, slots=True)
class NewSearch:
    """A search that was stored, and whether it is of the same framed pixels as the one before."""

    ref: SearchRef
    is_of_same_pixels: bool = False


@dataclass(frozen=True, slots=True)
class SearchChanges:
    """Searches of a photo that were stored, and those that are wanted no more."""

    started: tuple[NewSearch, ...] = ()
    dropped: tuple[SearchRef, ...] = ()

    def __add__(self, other: "SearchChanges") -> "SearchChanges":
        return SearchChanges(self.started + other.started, self.dropped + other.dropped)


def start_search(
    connection: Connection, photo: Photo, state: State, density: float = OWN
) -> SearchRef:
    """Puts a new search in the place of a photo's older one at a density, within a transaction.
    Where the framed pixels are there they are linked at once, so that they are shown while the
    search waits for its turn."""
    aim = state.aim
    ref = searches.start(connection, photo.id, aim.limit_bytes, aim.formats, density)
    plan = plan_of(state, photo.source)
    row = framed.find(connection, photo.original_sha256, plan)
    if row:
        searches.set_framed(connection, ref.id, row.id)
        if row.thumbnail_sha256 and density == OWN:
            photos.set_thumbnail(connection, photo.id, row.thumbnail_sha256)
    return ref


def picked_of(connection: Connection, state: State) -> Picked | None:
    """What variants depend on of a photo's pick; None where nothing is picked."""
    if state.picked_encode_id is None:
        return None
    pick = encodes.get(connection, state.picked_encode_id)
    return Picked(
        format=pick.trial.settings.format,
        likeness=pick.measured.likeness,
        is_transparent=framed.get(connection, pick.framed_id).search_input.is_transparent,
    )


def variant_states_of(connection: Connection, photo: Photo, state: State) -> dict[float, State]:
    """The states of a photo in which its variants are searched, by density; none without a
    pick."""
    picked = picked_of(connection, state)
    return variant_states(state, photo.source, picked) if picked else {}


def state_of_search(connection: Connection, photo: Photo, density: float) -> State | None:
    """The state in which a photo is searched at a density; None where it is searched there no
    more. Raises NotFoundError."""
    state = journal.state_of(connection, photo.id)
    if density == OWN:
        return state
    return variant_states_of(connection, photo, state).get(density)


def follow_with_variants(
    connection: Connection, photo: Photo, before: State, after: State
) -> SearchChanges:
    """Starts the searches of variants that an act asks for, within its transaction, and drops those
    that it does not. Where nothing changed, those that were cut off begin again."""
    wanted = variant_states_of(connection, photo, after)
    known = variant_states_of(connection, photo, before) if before != after else wanted
    there = {ref.density: ref for ref in searches.all_of(connection, photo.id)}
    dropped = [ref for density, ref in there.items() if density not in (OWN, *wanted)]
    for ref in dropped:
        searches.drop(connection, photo.id, ref.density)
    started = []
    for density, state in wanted.items():
        is_same = density in known and _key(known[density], photo) == _key(state, photo)
        is_cut_off = before == after and density in there and there[density].state in _CUT_OFF
        if density not in there or not is_same or is_cut_off:
            started.append(NewSearch(start_search(connection, photo, state, density)))
    return SearchChanges(tuple(started), tuple(dropped))


def start_missing_variants(connection: Connection, photo: Photo, state: State) -> None:
    """Starts the searches of variants that there should be, and are not."""
    there = {ref.density for ref in searches.all_of(connection, photo.id)}
    for density, at in variant_states_of(connection, photo, state).items():
        if density not in there:
            start_search(connection, photo, at, density)


_CUT_OFF = ("stopped", "failed")


def _key(state: State, photo: Photo) -> object:
    return files_key(state, photo.source)
