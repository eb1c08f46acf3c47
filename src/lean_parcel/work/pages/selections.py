"""What is done to a selection of photos: each act is one step, and undone as one."""

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from lean_parcel.core.decisions import acts
from lean_parcel.core.decisions.page_settings import SETTINGS, settings_as
from lean_parcel.core.decisions.state import Setting
from lean_parcel.core.decisions.treatment import Treatment, treatment_of
from lean_parcel.core.encoding.settings import Settings
from lean_parcel.core.page import choices, page_acts
from lean_parcel.core.page.choices import treatment_in
from lean_parcel.core.page.page_acts import counted
from lean_parcel.store import encodes, journal
from lean_parcel.work.context import Context
from lean_parcel.work.pages.batches import Batches
from lean_parcel.work.pages.editing import PageEditing
from lean_parcel.work.pages.viewing import PageViewing


class Selections:
    """Acts on photos by their ids. All raise NotFoundError for a photo that is on no page."""

    def __init__(
        self, context: Context, editing: PageEditing, viewing: PageViewing, batches: Batches
    ) -> None:
        self._context = context
        self._editing = editing
        self._viewing = viewing
        self._batches = batches

    def treat(
        self, photo_ids: Sequence[int], treatment_id: int, *, spares_exceptions: bool = False
    ) -> None:
        """Does a treatment, and weighs what it was done to as a batch of each page; photos that had
        it and were changed since are left alone where they are to be spared. Raises UsageError
        where a crop that it brings does not fit a photo."""
        treatment = treatment_in(self._viewing.layout(), treatment_id)
        if spares_exceptions:
            rows = self._viewing.rows(photo_ids)
            photo_ids = [
                i
                for i, row in rows.items()
                if not (row.is_exception and row.state.treatment_id == treatment_id)
            ]
        layout = self._viewing.layout()
        on_photos = {
            i: acts.treat(treatment.treatment, treatment_id, layout.page_of(i).settings)
            for i in photo_ids
        }
        self._editing.do(choices.use_treatment(treatment, photo_ids), on_photos)
        self._begin_batches(treatment.name, photo_ids)

    def change_aims(self, photo_ids: Sequence[int], changes: Mapping[str, Any]) -> None:
        """Gives photos aims of their own."""
        on_photos = dict.fromkeys(photo_ids, acts.change_aim(changes))
        what = "Variants" if set(changes) == {"variants"} else "Aim"
        self._editing.do(page_acts.together(f"{what} of {counted(photo_ids)}"), on_photos)

    def follow_page(self, photo_ids: Sequence[int], names: Collection[Setting] = SETTINGS) -> None:
        """Lets photos take settings from their pages, and follow them."""
        layout = self._viewing.layout()
        on_photos = {i: acts.follow_page(layout.page_of(i).settings, names) for i in photo_ids}
        self._editing.do(page_acts.together(f"{counted(photo_ids)} as the page"), on_photos)

    def page_as_photo(self, photo_id: int) -> None:
        """Gives a page the settings of one of its photos, which follows it from then on."""
        row = self._viewing.rows([photo_id])[photo_id]
        page_id = self._viewing.layout().page_of(photo_id).id
        settings = settings_as(row.state, row.photo.source)
        act = page_acts.change_settings(page_id, {n: getattr(settings, n) for n in SETTINGS})
        self._editing.do(act, {photo_id: acts.follow_page(settings)})

    def change_shares(self, photo_ids: Sequence[int], changes: Mapping[str, Any]) -> None:
        """Changes what photos get of the bytes of their pages."""
        self._editing.do(page_acts.set_shares(tuple(photo_ids), changes))

    def move(self, photo_ids: Sequence[int], page_id: int) -> None:
        """Moves photos to the end of a page."""
        self._editing.do(page_acts.move_photos(tuple(photo_ids), page_id))

    def remove(self, photo_ids: Sequence[int]) -> None:
        """Takes photos off their pages."""
        self._editing.do(page_acts.remove_photos(tuple(photo_ids)))

    def take(self, photo_ids: Sequence[int]) -> int:
        """Takes the best of each photo that has no pick and something that is ready, and
        returns how many those are; the others stay for a person."""
        shown = self._viewing.rows(photo_ids)
        picks = {
            i: acts.pick(row.best.id)
            for i, row in shown.items()
            if row.best and row.is_ready and not row.pick
        }
        if picks:
            self._editing.do(page_acts.together(f"Took {counted(list(picks))}"), picks)
        return len(picks)

    def weigh(self, photo_ids: Sequence[int]) -> None:
        """Weighs photos as a batch; what was found before is not made again."""
        self._begin_batches("Weighing", photo_ids)

    def keep_treatment(
        self,
        photo_id: int,
        name: str,
        *,
        encode_id: int | None = None,
        with_quality: bool = False,
        with_single: bool = False,
    ) -> int:
        """Keeps what was decided about a photo as a treatment, with the knobs of an encode held and
        with what depends on the single picture where that is asked for; returns its id."""
        with self._context.connection() as connection:
            state = journal.state_of(connection, photo_id)
            settings: Settings | None = None
            if encode_id is not None:
                settings = encodes.get(connection, encode_id).trial.settings
        treatment = treatment_of(
            state, held_from=settings, with_quality=with_quality, with_single=with_single
        )
        return self.add_treatment(name, treatment)

    def add_treatment(self, name: str, treatment: Treatment) -> int:
        """Adds a treatment, and returns its id."""
        return self._editing.do(choices.keep_treatment(name, treatment)).treatments[0].id

    def change_treatment(self, treatment_id: int, name: str, treatment: Treatment) -> None:
        """Gives a treatment another name and other values."""
        self._editing.do(choices.change_treatment(treatment_id, name, treatment))

    def _begin_batches(self, words: str, photo_ids: Sequence[int]) -> None:
        wanted = set(photo_ids)
        for page in self._viewing.layout().pages:
            ids = [spot.photo_id for spot in page.spots if spot.photo_id in wanted]
            if ids:
                self._batches.begin(page.id, words, ids)
