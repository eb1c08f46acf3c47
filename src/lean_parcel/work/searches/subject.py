"""What a run searches, and the stages that it goes through."""

from abc import ABC, abstractmethod
from dataclasses import dataclass
from sqlite3 import Connection

from lean_parcel.core.decisions.state import State
from lean_parcel.core.framing.framing import background_behind
from lean_parcel.core.metadata.embed import SegmentSizes
from lean_parcel.store import blobs
from lean_parcel.store.framed import FramedRow
from lean_parcel.store.photos import Photo
from lean_parcel.work.queue.work_queue import Task
from lean_parcel.work.tasks.encoder_input import EncoderInput


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """A photo in a state, framed, and the sizes of the metadata that its files go out with."""

    photo: Photo
    state: State
    row: FramedRow
    sizes: SegmentSizes

    @property
    def background(self) -> str:
        """What fills transparency in JPEG."""
        return background_behind(
            self.state.framing, is_transparent=self.row.search_input.is_transparent
        )

    def encoder_input(self, connection: Connection) -> EncoderInput:
        """The framed pixels as the input of a task."""
        pixels_png = blobs.get(connection, self.row.pixels_sha256)
        return EncoderInput(
            pixels_png=pixels_png, gamut=self.state.framing.gamut, density=self.row.density
        )


class Stage(ABC):
    """A stage of a run: it gives tasks, stores what comes of them, and names the stage after it.

    Everything is called from the queue's thread, and may raise: the run has failed then.
    """

    @abstractmethod
    def next_task(self) -> Task | None:
        """The task to run next; None where the stage waits for tasks that run, or is done."""

    @abstractmethod
    def record(self) -> bool:
        """Stores what came of tasks since the last time; whether there was anything."""

    @property
    @abstractmethod
    def is_done(self) -> bool:
        """Whether everything is stored and nothing is left to do."""

    @abstractmethod
    def following(self) -> "Stage | None":
        """The stage after this one, which is done; None after the last."""
