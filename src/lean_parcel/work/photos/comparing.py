"""What a photo is compared with: another state of it, or an encode of another size."""

from dataclasses import dataclass

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.journal import Difference, differences
from lean_parcel.core.decisions.state import plan_of
from lean_parcel.core.formats import FORMAT_NAMES
from lean_parcel.core.likeness.levels import likeness_number, likeness_words
from lean_parcel.core.size import format_size
from lean_parcel.store import encodes, framed, inspections, journal
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database
from lean_parcel.store.journal import of_photo
from lean_parcel.work.context import Context
from lean_parcel.work.results.encodes import encode_of


@dataclass(frozen=True, slots=True, kw_only=True)
class PinnedView:
    """An encode that a photo is compared with, the aim of the photo, and whether it shows the same
    part of the original, at whatever size."""

    encode: Encode
    aim: Aim
    shows_the_same: bool


class Comparing:
    """Reads what is compared; changes nothing."""

    def __init__(self, context: Context) -> None:
        self._context = context

    def states(self, photo_id: int, first_id: int, second_id: int) -> tuple[Difference, ...]:
        """What differs between two entries of a photo's journal, picks with their bytes and their
        likeness. Raises NotFoundError."""
        with self._context.connection() as connection, database.snapshot(connection):
            before, after = (
                journal.read_state(journal.get(connection, of_photo(photo_id), entry_id))
                for entry_id in (first_id, second_id)
            )
            sizes = {
                state.picked_encode_id: inspections.segment_sizes(
                    connection, photo_id, state.framing.metadata
                )
                for state in (before, after)
                if state.picked_encode_id
            }
            picks = encodes.get_all(connection, sizes)
        return differences(before, after, {each.id: _file_words(each) for each in picks.values()})

    def pinned(self, photo_id: int, encode_id: int) -> PinnedView:
        """An encode of a photo, also of another size or framing. Raises NotFoundError."""
        with self._context.connection() as connection, database.snapshot(connection):
            found = encode_of(connection, photo_id, encode_id)
            state = journal.state_of(connection, photo_id)
            policy = state.framing.metadata
            sizes = inspections.segment_sizes(connection, photo_id, policy)
            encode = encodes.get(connection, encode_id, sizes)
            then = framed.plan_of(connection, encode.framed_id)
        now = plan_of(state, found.photo.source)
        return PinnedView(encode=encode, aim=state.aim, shows_the_same=now.shows_the_same_as(then))


def _file_words(encode: Encode) -> str:
    """`AVIF, 73.3 kB, likeness 90.3: no visible change`."""
    measured, settings = encode.measured, encode.trial.settings
    name = "the original" if encode.trial.is_pass_through else FORMAT_NAMES[settings.format]
    looks = f"likeness {likeness_number(measured.likeness)}: {likeness_words(measured.likeness)}"
    return f"{name}, {format_size(measured.size_bytes)}, {looks}"
