"""Which photos are looked at: work is done ahead for the few that were looked at last."""

import threading

from lean_parcel.store import blobs, inspections
from lean_parcel.store.searches import OWN
from lean_parcel.work.ahead.job import AheadJob
from lean_parcel.work.context import Context
from lean_parcel.work.photos.viewing import PhotoView
from lean_parcel.work.searches.subject import Subject

#: More than one, since there may be more than one person.
_MOST_PHOTOS = 3


class Looking:
    """Begins work ahead where it `is_allowed`, and gives it up."""

    def __init__(self, context: Context, *, is_allowed: bool) -> None:
        self._context = context
        self._is_allowed = is_allowed and not context.is_read_only
        self._lock = threading.Lock()
        #: The newest job of each photo, the one looked at last at the end.
        self._jobs: dict[int, AheadJob] = {}

    def look(self, view: PhotoView) -> None:
        """Somebody looks at a photo: begins what can be done ahead once its search is done; gives
        up what another search has made useless, and that of photos which nobody looks at."""
        if not self._is_allowed or view.density != OWN:
            return
        with self._lock:
            job = self._jobs.pop(view.photo.id, None)
            if job and job.search_id != view.search.id:
                self._context.queue.cancel(job)
                job = None
            if job is None and view.search.state == "done":
                job = self._begun(view)
            if job:
                self._jobs[view.photo.id] = job
            while len(self._jobs) > _MOST_PHOTOS:
                oldest = next(iter(self._jobs))
                self._context.queue.cancel(self._jobs.pop(oldest), hurries=False)

    def _begun(self, view: PhotoView) -> AheadJob | None:
        assert view.framed
        with self._context.connection() as connection:
            if not blobs.has(connection, view.framed.pixels_sha256):
                return None
            policy = view.state.framing.metadata
            sizes = inspections.segment_sizes(connection, view.photo.id, policy)
        subject = Subject(photo=view.photo, state=view.state, row=view.framed, sizes=sizes)
        job = AheadJob(self._context, view.search.id, subject)
        self._context.queue.add(job)
        return job
