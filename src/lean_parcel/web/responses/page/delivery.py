"""What is handed over of a page."""

from pydantic import BaseModel

from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.decisions.variants import Variants
from lean_parcel.core.formats import Format
from lean_parcel.core.packing import page_code
from lean_parcel.core.packing.handed import FetchPriority, Loading
from lean_parcel.core.packing.names import css_class
from lean_parcel.core.packing.references.edits import Note, Repointed
from lean_parcel.web.responses.photo.encodes import EncodeResponse
from lean_parcel.web.responses.told import Told
from lean_parcel.work.delivery.planning import PlannedDelivery, PlannedPhoto
from lean_parcel.work.delivery.sending import Written
from lean_parcel.work.delivery.visits import Visit
from lean_parcel.work.photos.planned_files import FileState, PlannedFile


class FileResponse(Told):
    """A file to hand over, at a path below the folder of the delivery, made for an aim of its own;
    its name may change while it is not ready."""

    path: str
    format: Format
    density: float
    state: FileState
    error: str | None
    aim: Aim
    encode: EncodeResponse | None
    is_pick: bool
    is_chosen: bool

    @classmethod
    def of(cls, file: PlannedFile) -> "FileResponse":
        """From what is planned."""
        encode = EncodeResponse.of(file.encode, file.aim) if file.encode else None
        return cls.of_all(file, encode=encode)


class CodeResponse(BaseModel):
    """Page code for a photo."""

    html: str
    css: str
    markdown: str


class DeliveredPhotoResponse(Told):
    """A photo with its files, the densest first; none where nothing is taken. `code` is there once
    all of them are, so that none of `running` is left out; `sizes` are those in it."""

    id: int
    name: str
    old_name: str
    credit: str
    alt_text: str | None
    loading: Loading
    fetch_priority: FetchPriority
    sizes: str
    reason: str
    variants: Variants
    files: list[FileResponse]
    running: int
    code: CodeResponse | None

    @classmethod
    def of(cls, photo: PlannedPhoto, prefix: str) -> "DeliveredPhotoResponse":
        """From what is planned."""
        handed, spot, source = photo.handed, photo.spot, photo.photo
        return cls.of_all(
            photo,
            spot,
            source,
            photo.state,
            photo.state.aim,
            old_name=f"{source.folder}/{source.name}" if source.folder else source.name,
            sizes=spot.sizes or (handed.default_sizes if handed else ""),
            files=[FileResponse.of(file) for file in photo.files],
            code=CodeResponse(
                html=page_code.html(handed, prefix),
                css=page_code.css(handed, css_class(spot.name), prefix),
                markdown=page_code.markdown(handed, prefix),
            )
            if handed and not photo.running
            else None,
        )


class DeliveryResponse(Told):
    """What is handed over of a page: how files are called and found, each photo, how many files
    are being made, and the folder below which the server may write, if there is one."""

    page_id: int
    name_pattern: str
    path_prefix: str
    photos: list[DeliveredPhotoResponse]
    running: int
    out_folder: str | None

    @classmethod
    def of(cls, delivery: PlannedDelivery, out_folder: str | None) -> "DeliveryResponse":
        """From what is planned."""
        page = delivery.page
        return cls.of_all(
            page,
            delivery,
            page_id=page.id,
            photos=[DeliveredPhotoResponse.of(each, page.path_prefix) for each in delivery.photos],
            out_folder=out_folder,
        )


class WrittenResponse(Told):
    """What was written into the server's folder."""

    folder: str
    files: int
    size_bytes: int

    @classmethod
    def of(cls, written: Written) -> "WrittenResponse":
        """From what was written."""
        return cls.of_all(written, folder=str(written.folder))


class HunkResponse(Told):
    """Lines in which references are replaced: from `line` on, the text that stands `between` the
    hunk before and this one, the lines before and after, and the photos that they name. What
    `is_literal` may be no reference."""

    line: int
    between: str
    before: str
    after: str
    photo_ids: list[int]
    is_literal: bool


class AltTextResponse(BaseModel):
    """What a text says that a photo shows, where nothing was written for it yet."""

    photo_id: int
    text: str


class TextResponse(Told):
    """A text with what can be replaced in it, and what stands after the last hunk; photos that are
    named on such lines beside what is replaced; notes on what is; alternative texts for photos that
    have none; names that could be of several photos, and pictures that are not of this page."""

    name: str
    hunks: list[HunkResponse]
    rest: str
    mentioned_ids: list[int]
    notes: tuple[Note, ...]
    alt_texts: list[AltTextResponse]
    unclear: list[str]
    foreign: list[str]

    @classmethod
    def of(cls, name: str, text: str, found: Repointed, photo_ids: list[int]) -> "TextResponse":
        """From what was found."""
        hunks, at = [], 0
        for hunk in found.hunks:
            hunks.append(
                HunkResponse.of_all(
                    hunk,
                    between=text[at : hunk.start],
                    photo_ids=[photo_ids[index] for index in hunk.photos],
                )
            )
            at = hunk.end
        mentioned_ids = [photo_ids[index] for index in found.mentioned]
        return cls.of_all(
            found,
            name=name,
            hunks=hunks,
            rest=text[at:],
            mentioned_ids=mentioned_ids,
            alt_texts=[
                AltTextResponse(photo_id=photo_ids[each.photo], text=each.text)
                for each in found.alt_texts
            ],
        )


class OldPhotoResponse(BaseModel):
    """A photo as old references name it."""

    id: int
    old_name: str
    size_bytes: int


class ReferencesResponse(BaseModel):
    """Texts with what can be replaced in them, and all photos that they could name."""

    texts: list[TextResponse]
    photos: list[OldPhotoResponse]


class VisitedFileResponse(Told):
    """A file of a visit, and the photo that it is of."""

    photo_id: int
    name: str
    path: str
    width_px: int
    size_bytes: int


class VisitResponse(Told):
    """A visit to the simulated site: its address, what a browser that knows all formats is sent
    there, photo by photo, and what was sent so far."""

    id: int
    address: str
    plan: list[VisitedFileResponse]
    sent: list[VisitedFileResponse]

    @classmethod
    def of(cls, visit: Visit) -> "VisitResponse":
        """From what is known of a visit."""
        return cls.of_all(
            visit,
            address=f"standing/{visit.secret}/",
            plan=[VisitedFileResponse.of_all(file, photo) for photo, file in visit.plan()],
            sent=[VisitedFileResponse.of_all(sent, sent.file) for sent in visit.sent],
        )
