"""What the screens of one photo show."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from sqlite3 import Connection

from lean_parcel.core.candidates.close_call import close_call, offered, second_opinion
from lean_parcel.core.candidates.enough import Enough, next_level, rescue
from lean_parcel.core.candidates.frontier import LinePoint, envelope, frontier, knee
from lean_parcel.core.candidates.ranking import judged, ranked
from lean_parcel.core.candidates.summary import summarise
from lean_parcel.core.candidates.trial import Candidate
from lean_parcel.core.candidates.unused import why_unused
from lean_parcel.core.candidates.winner import with_winner
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.journal import EntryStatus, entry_statuses
from lean_parcel.core.decisions.state import State, plan_of
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.eye.outcome import Outcome
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.framing import background_behind
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.likeness.levels import LEVELS
from lean_parcel.core.original.findings import Finding, find_pixel_surplus
from lean_parcel.core.original.margins import photo_margins
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.orientation import shown_size_px
from lean_parcel.core.search.forecast import ForecastPoint, forecast
from lean_parcel.store import blobs, encodes, framed, inspections, journal, photos, searches
from lean_parcel.store.encodes import Encode
from lean_parcel.store.file import database
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.inspections import Inspection
from lean_parcel.store.journal import Entry, of_photo
from lean_parcel.store.photos import Photo
from lean_parcel.store.searches import OWN, Search
from lean_parcel.work.context import Context
from lean_parcel.work.photos.missing import Inspections
from lean_parcel.work.photos.planned_files import Decided, files_of
from lean_parcel.work.queue.work_queue import Priority
from lean_parcel.work.searches.format_searches import FORMATS_BY_TIME
from lean_parcel.work.searches.starting import variant_states_of


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseCallView:
    """The encodes that are too close to call, best buy first."""

    encode_ids: tuple[int, ...]
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SecondOpinionView:
    """The encode that a second metric finds nearest to the original, where the first has another
    winner."""

    encode_id: int
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EncodesView:
    """Encodes and how they compare, by their ids.

    `candidates` are the search's, best first. `best_so_far` has for each format the best encode
    that meets the aim. The stage begins with the `default`, which is None before the first encode.
    A `rescue` is known once a format has ended.
    `edges` has the frontier of each format that has encodes; the `frontier` is the line that they
    make together. `improved` has what is offered in the place of another candidate, and of which.
    """

    made: tuple[Encode, ...]
    candidate_ids: tuple[int, ...]
    best_so_far_ids: dict[Format, int]
    default_id: int | None
    frontier: tuple[LinePoint, ...]
    edge_ids: dict[Format, tuple[int, ...]]
    knee_id: int | None
    summary: str
    next_level: Enough | None
    rescue: Enough | None
    close_call: CloseCallView | None
    second_opinion: SecondOpinionView | None
    improved: dict[int, int]

    @property
    def candidates(self) -> tuple[Encode, ...]:
        """What the search found, best first."""
        by_id = {encode.id: encode for encode in self.made}
        return tuple(by_id[encode_id] for encode_id in self.candidate_ids)


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoView:
    """A photo with all that its screens show, as it is taken or as it is at the `density` of its
    variants. `framed` is None until its pixels are made. `picked_ids` are the encodes that are
    handed over, `chosen_ids` those of them that a person chose. Variants are at the `densities`.
    The own threshold of noticing may have been found on another photo."""

    photo: Photo
    name: str
    page_id: int
    state: State
    plan: Plan
    can_undo: bool
    can_redo: bool
    search: Search
    framed: FramedRow | None
    encodes: EncodesView
    picked_ids: tuple[int, ...]
    chosen_ids: tuple[int, ...]
    density: float
    densities: tuple[float, ...]
    own_threshold: Outcome | None

    @property
    def turned_size_px(self) -> tuple[int, int]:
        """Width and height of the upright original after turns."""
        source = self.photo.source
        return shown_size_px(source.width_px, source.height_px, self.plan.orientation)


class Viewing:
    """Reads what is shown of a photo."""

    def __init__(self, context: Context, inspections: Inspections) -> None:
        self._context = context
        self._inspections = inspections

    def photo(self, photo_id: int, density: float = OWN) -> PhotoView:
        """What a photo's screens show, of itself or of its variants at a density; its searches go
        before those of photos that nobody looks at.

        Raises NotFoundError.
        """
        self._context.queue.prefer(photo_id)
        self._inspections.of_photo(photo_id)
        with self._context.connection() as connection, database.snapshot(connection):
            photo = photos.get(connection, photo_id)
            layout = journal.layout_of(connection)
            entry = journal.current(connection, of_photo(photo_id))
            state = journal.read_state(entry)
            variants = variant_states_of(connection, photo, state)
            shown = state if density == OWN else variants.get(density)
            search = searches.at_density(connection, photo_id, density)
            if shown is None or search is None:
                raise NotFoundError(f"This photo has no variants at {density:g}×.")
            row = framed.get(connection, search.framed_id) if search.framed_id else None
            made: list[Encode] = []
            if row:
                policy = state.framing.metadata
                sizes = inspections.segment_sizes(connection, photo_id, policy)
                made = encodes.of_framed(connection, row.id, sizes)
            handed_over = _handed_over(connection, photo_id, state, density)
            return PhotoView(
                photo=photo,
                name=layout.spot(photo_id).name,
                page_id=layout.page_of(photo_id).id,
                state=shown,
                plan=plan_of(shown, photo.source),
                can_undo=entry.parent_id is not None,
                can_redo=journal.following(connection, entry) is not None,
                search=search,
                framed=row,
                own_threshold=journal.own_threshold(connection),
                encodes=_encodes_view(photo, shown, search, row, made),
                picked_ids=tuple(handed_over),
                chosen_ids=tuple(i for i, is_chosen in handed_over.items() if is_chosen),
                density=density,
                densities=tuple(variants),
            )

    def findings(self, photo_id: int) -> tuple[tuple[Finding, ...], Inspection]:
        """What was found in the original, its pixels against those of its place second. Raises
        NotFoundError."""
        inspection = self._inspections.of_photo(photo_id)
        view = self.photo(photo_id)
        photo, state = view.photo, view.state
        found = inspection.findings
        if view.search.state == "done":
            ranked_best = [
                judged(encode.trial, encode.measured, state.aim)
                for encode in view.encodes.candidates
            ]
            found = with_winner(found, ranked_best, state.aim)
        plan = view.plan
        surplus = find_pixel_surplus(
            photo.source, plan.box.width_px * plan.box.height_px, plan.width_px * plan.height_px
        )
        return (found[0], surplus, *found[1:]), inspection

    def forecasts(
        self, photo_id: int, density: float = OWN
    ) -> dict[Format, tuple[ForecastPoint, ...]]:
        """What other aims would come to in each format, given what was encoded; nothing until the
        ladder is measured. Raises NotFoundError."""
        view = self.photo(photo_id, density)
        row, state = view.framed, view.state
        if row is None or not row.search_input.is_measured:
            return {}
        of = row.search_input
        behind = background_behind(state.framing, is_transparent=of.is_transparent)
        made = {encode.trial: encode.measured for encode in view.encodes.made}
        aim = state.aim
        return {name: forecast(name, of, made, behind, aim.held) for name in aim.formats}

    def margins(self, photo_id: int) -> Box | None:
        """What lies inside the photo's empty margins, in the turned picture; None without any."""
        with self._context.connection() as connection:
            photo = photos.get(connection, photo_id)
            state = journal.state_of(connection, photo_id)
            data = blobs.get(connection, photo.original_sha256)
        args = (data, photo.name, state.framing.orientation, self._context.limits)
        return self._context.queue.run(Priority.ANSWER, photo_margins, *args)

    def journal(self, photo_id: int) -> list[tuple[Entry, EntryStatus]]:
        """A photo's journal, oldest first, with the status of each entry. Raises NotFoundError."""
        with self._context.connection() as connection, database.snapshot(connection):
            current = journal.current(connection, of_photo(photo_id))
            entries = journal.entries(connection, of_photo(photo_id))
        statuses = entry_statuses({entry.id: entry.parent_id for entry in entries}, current.id)
        return [(entry, statuses[entry.id]) for entry in entries]


def _handed_over(
    connection: Connection, photo_id: int, state: State, density: float
) -> dict[int, bool]:
    """The encodes that are handed over, the pick or the variants at a density, by their ids, and
    whether a person chose them."""
    if density == OWN:
        return {state.picked_encode_id: True} if state.picked_encode_id else {}
    files = files_of(Decided.of(connection, [photo_id]), photo_id)
    return {
        file.encode.id: file.is_chosen
        for file in files
        if file.encode and file.density == density and not file.is_pick
    }


def _encodes_view(
    photo: Photo, state: State, search: Search, row: FramedRow | None, made: list[Encode]
) -> EncodesView:
    aim = state.aim
    is_transparent = row is not None and row.search_input.is_transparent
    by_id = {encode.id: encode for encode in made}
    ids = {encode.trial: encode.id for encode in made}
    there = [each for each in search.found if each.encode_id in by_id]
    improved = {each.encode_id: each.improves_id for each in there if each.improves_id}
    found = [
        Candidate(
            trial=by_id[each.encode_id].trial,
            measured=by_id[each.encode_id].measured,
            meets_aim=each.meets_aim,
        )
        for each in there
        if each.encode_id not in improved.values()
    ]
    in_order = ranked(found, aim, is_transparent=is_transparent)
    call = close_call(in_order, aim, is_transparent=is_transparent)
    candidates = offered(in_order, call)
    other = second_opinion(in_order, [by_id[ids[each.trial]].flip for each in in_order], aim)
    own = [encode for encode in made if not encode.trial.is_pass_through]
    best_so_far = _best_so_far(own, state)
    first = [best_so_far[name] for name in FORMATS_BY_TIME if name in best_so_far][:1]
    points = [encode.measured for encode in own]
    bend = knee(points)
    is_limited = bool(in_order) and _is_limited(in_order[0], aim)
    edges = {name: edge for name in FORMATS if (edge := _edge(own, name))}
    return EncodesView(
        made=tuple(made),
        candidate_ids=tuple(ids[candidate.trial] for candidate in candidates),
        best_so_far_ids=best_so_far,
        default_id=_worth_a_look(
            [*(ids[each.trial] for each in candidates), *first], by_id, search
        ),
        frontier=tuple(envelope([[e.measured for e in edge] for edge in edges.values()])),
        edge_ids={name: tuple(encode.id for encode in edge) for name, edge in edges.items()},
        knee_id=own[bend.index].id if bend else None,
        summary=_outcome(in_order, aim, photo, row, own) if row else "",
        next_level=_beyond(next_level(points, in_order[0].measured), aim)
        if is_limited and in_order[0].meets_aim
        else None,
        rescue=rescue(points, aim.limit_bytes) if is_limited and aim.limit_bytes else None,
        close_call=CloseCallView(
            encode_ids=tuple(ids[each.trial] for each in call.candidates),
            sentence=call.sentence,
        )
        if call
        else None,
        second_opinion=SecondOpinionView(
            encode_id=ids[other.candidate.trial], sentence=other.sentence
        )
        if other
        else None,
        improved=improved,
    )


def _of_format(made: list[Encode], name: Format) -> list[Encode]:
    return [encode for encode in made if encode.trial.settings.format == name]


def _outcome(
    in_order: Sequence[Candidate],
    aim: Aim,
    photo: Photo,
    row: FramedRow,
    made: Sequence[Encode],
) -> str:
    """What came of a search in words, and why the best leaves a part of its limit."""
    full_px = row.search_input.rungs[0].width_px
    words = summarise(in_order, aim, full_px, photo.source.size_bytes)
    if not words or not aim.limit_bytes or not _is_limited(in_order[0], aim):
        return words
    known = {encode.trial: encode.measured for encode in made}
    return f"{words} {why_unused(in_order[0], known, aim.limit_bytes)}".strip()


def _beyond(enough: Enough | None, aim: Aim) -> Enough | None:
    """What would be enough, where that is more than may be spent."""
    return enough if enough and enough.limit_bytes > (aim.limit_bytes or 0) else None


def _is_limited(best: Candidate, aim: Aim) -> bool:
    """Whether more bytes than it may have would make a difference."""
    return aim.limit_bytes is not None and not aim.is_enough(best.measured.likeness)


def _worth_a_look(
    encode_ids: Sequence[int], by_id: Mapping[int, Encode], search: Search
) -> int | None:
    """The encode that the stage begins with, best first: nothing ruined while better ones may
    come."""
    is_ended = search.state != "running"
    worth = (i for i in encode_ids if is_ended or by_id[i].measured.likeness >= LEVELS[-1].least)
    return next(worth, None)


def _best_so_far(made: list[Encode], state: State) -> dict[Format, int]:
    """The best encode of each format that meets the aim, if there is one."""
    ids = {encode.trial: encode.id for encode in made}
    best = {}
    for name in FORMATS:
        of_format = [judged(e.trial, e.measured, state.aim) for e in _of_format(made, name)]
        for candidate in ranked(of_format, state.aim)[:1]:
            if candidate.meets_aim:
                best[name] = ids[candidate.trial]
    return best


def _edge(made: list[Encode], name: Format) -> list[Encode]:
    """The encodes of a format that no other of it beats, by rising bytes."""
    of_format = _of_format(made, name)
    return [of_format[index] for index in frontier([encode.measured for encode in of_format])]
