"""Routes of photos: add, look at, frame, aim, pick, tune."""

import re
from typing import Any

from flask import request

from lean_parcel.core.decisions import acts
from lean_parcel.core.errors import UsageError
from lean_parcel.core.metadata.scans import first_picture_bytes
from lean_parcel.core.page import page_acts
from lean_parcel.web.api import MAX_ID, JsonRoutes
from lean_parcel.web.requests import (
    AimChangeRequest,
    EncodeRequest,
    FileNameRequest,
    FramingChangeRequest,
    GlimpseRequest,
    MarksRequest,
    PhotoChangeRequest,
    PickRequest,
    ReasonRequest,
    VariantPickRequest,
    given,
)
from lean_parcel.web.responses.outcomes import AddedResponse
from lean_parcel.web.responses.page.pages import PageRowResponse
from lean_parcel.web.responses.photo.damage import BoughtResponse, DamageResponse
from lean_parcel.web.responses.photo.encodes import (
    ArrivalResponse,
    EncodeResponse,
    FileNameResponse,
    ForecastsResponse,
    GlimpseResponse,
    PinnedResponse,
    QualityStepsResponse,
)
from lean_parcel.web.responses.photo.findings import FindingsResponse, MarginsResponse
from lean_parcel.web.responses.photo.photos import PhotoResponse
from lean_parcel.web.served import workspace
from lean_parcel.work.photos.tuning import Wanted

#: Variants are at a density; 0 is the photo as it is taken.
_AT = "at/<int:density_percent>"
routes = JsonRoutes("photos", "/api/photos")
_UPLOAD: dict[str, Any] = {
    "type": "object",
    "required": ["photo"],
    "properties": {
        "photo": {"type": "string", "format": "binary"},
        "page_id": {"type": "integer"},
        "folder": {"type": "string"},
        "order": {"type": "integer"},
    },
}


@routes.route("post", "", multipart=_UPLOAD)
def add_photo() -> AddedResponse:
    """Adds an uploaded photo to a page, or to the first one; of photos that are dropped together
    each goes after those of lower order."""
    upload = request.files.get("photo")
    if upload is None:
        raise UsageError("Send one file as “photo”.", "photo_missing")
    name = "/".join((request.form.get("folder", ""), upload.filename or ""))
    added = workspace().adding.add_photo(
        name, upload.read(), page_id=_number("page_id"), order=_number("order") or 0
    )
    return AddedResponse(id=added)


def _number(name: str) -> int | None:
    """A number in a form, if it is there. Raises UsageError for what is none."""
    text = request.form.get(name)
    if not text:
        return None
    if not re.fullmatch(r"[0-9]{1,19}", text) or int(text) > MAX_ID:
        raise UsageError(f"“{name}” is not valid: it is a whole number.", "invalid_request")
    return int(text)


@routes.route("get", f"/<int:photo_id>/{_AT}")
def show_photo(photo_id: int, density_percent: int) -> PhotoResponse:
    """A photo at a density of its variants, in hundredths, or with 0 as it is taken: with framing,
    search, encodes and candidates."""
    view = workspace().viewing.photo(photo_id, density_percent / 100)
    workspace().looking.look(view)
    return PhotoResponse.of(view)


@routes.route("get", f"/<int:photo_id>/{_AT}/forecasts")
def list_forecasts(photo_id: int, density_percent: int) -> ForecastsResponse:
    """What other aims would come to, expected and not encoded."""
    return ForecastsResponse.of(workspace().viewing.forecasts(photo_id, density_percent / 100))


@routes.route("post", f"/<int:photo_id>/{_AT}/encodes")
def make_encode(photo_id: int, density_percent: int, asked: EncodeRequest) -> EncodeResponse:
    """Makes an encode by hand."""
    tuned = workspace().tuning.encode(_wanted(photo_id, density_percent, asked))
    return EncodeResponse.of(tuned.encode, tuned.aim)


@routes.route("post", f"/<int:photo_id>/{_AT}/quality-steps")
def list_quality_steps(
    photo_id: int, density_percent: int, asked: EncodeRequest
) -> QualityStepsResponse:
    """What settings come to at each step of quality: measured, or expected."""
    steps = workspace().tuning.along_quality(_wanted(photo_id, density_percent, asked))
    return QualityStepsResponse(steps=steps)


@routes.route("post", f"/<int:photo_id>/{_AT}/glimpses")
def glimpse_at_encode(
    photo_id: int, density_percent: int, asked: GlimpseRequest
) -> GlimpseResponse:
    """How a part of the photo will look in an encode by hand."""
    wanted = _wanted(photo_id, density_percent, asked)
    return GlimpseResponse.of(workspace().tuning.glimpse(wanted, asked.box))


def _wanted(photo_id: int, density_percent: int, asked: EncodeRequest) -> Wanted:
    return Wanted(
        photo_id=photo_id,
        settings=asked.settings,
        width_px=asked.width_px,
        density=density_percent / 100,
    )


@routes.route("put", f"/<int:photo_id>/{_AT}/pick")
def pick_variant(photo_id: int, density_percent: int, pick: VariantPickRequest) -> None:
    """Hands another encode over at a density in a format, or the best that is found."""
    act = acts.pick_variant(density_percent / 100, pick.format, pick.encode_id)
    workspace().deciding.do(photo_id, act)


@routes.route("delete", f"/<int:photo_id>/{_AT}/search")
def stop_search(photo_id: int, density_percent: int) -> None:
    """Ends the search where it is."""
    workspace().deciding.stop_search(photo_id, density_percent / 100)


@routes.route("put", "/<int:photo_id>/file-name")
def name_file(photo_id: int, wanted: FileNameRequest) -> None:
    """Gives a file a name of its own, or the one by the page's pattern."""
    act = page_acts.name_file(photo_id, wanted.density, wanted.format, wanted.name)
    workspace().page_editing.do(act)


@routes.route("get", "/<int:photo_id>/row")
def show_row(photo_id: int) -> PageRowResponse:
    """A photo as its page shows it, with what the page comes to."""
    return PageRowResponse.of(workspace().page_viewing.row(photo_id))


@routes.route("patch", "/<int:photo_id>")
def change_photo(photo_id: int, change: PhotoChangeRequest) -> None:
    """Names a photo, or moves it."""
    if "name" in change.model_fields_set:
        workspace().page_editing.do(page_acts.rename_photo(photo_id, change.name))
    if {"page_id", "position"} <= change.model_fields_set:
        workspace().page_editing.do(page_acts.move_photo(photo_id, change.page_id, change.position))


@routes.route("delete", "/<int:photo_id>")
def remove_photo(photo_id: int) -> None:
    """Takes a photo off its page."""
    workspace().page_editing.do(page_acts.remove_photos((photo_id,)))


@routes.route("patch", "/<int:photo_id>/aim")
def change_aim(photo_id: int, change: AimChangeRequest) -> None:
    """Changes what is given of the aim."""
    workspace().deciding.do(photo_id, acts.change_aim(given(change)))


@routes.route("patch", "/<int:photo_id>/framing")
def change_framing(photo_id: int, change: FramingChangeRequest) -> None:
    """Changes what is given of the framing, after a turn."""
    changes = given(change)
    turn = changes.pop("turn", None)
    workspace().deciding.do(photo_id, acts.change_framing(changes, turn))


@routes.route("delete", "/<int:photo_id>/framing")
def reset_framing(photo_id: int) -> None:
    """Takes back turns, crop, straightening and focus."""
    workspace().deciding.do(photo_id, acts.reset_framing())


@routes.route("get", "/<int:photo_id>/findings")
def list_findings(photo_id: int) -> FindingsResponse:
    """What was found in the original."""
    return FindingsResponse.of(*workspace().viewing.findings(photo_id))


@routes.route("get", "/<int:photo_id>/margins")
def find_margins(photo_id: int) -> MarginsResponse:
    """What lies inside the empty margins."""
    return MarginsResponse(box=workspace().viewing.margins(photo_id))


@routes.route("put", "/<int:photo_id>/page-settings")
def page_as_photo(photo_id: int) -> None:
    """Gives the photo's page the settings that the photo has."""
    workspace().selections.page_as_photo(photo_id)


@routes.route("put", "/<int:photo_id>/pick")
def set_pick(photo_id: int, pick: PickRequest) -> None:
    """Takes an encode as the pick, or puts the pick back."""
    workspace().deciding.do(photo_id, acts.pick(pick.encode_id, pick.reason))


@routes.route("put", "/<int:photo_id>/reason")
def give_reason(photo_id: int, wanted: ReasonRequest) -> None:
    """Says why a pick stands over its limit."""
    workspace().deciding.do(photo_id, acts.give_reason(wanted.reason))


@routes.route("put", "/<int:photo_id>/marks")
def set_marks(photo_id: int, wanted: MarksRequest) -> None:
    """Marks areas that matter, and areas that do not, in place of those marked before."""
    workspace().deciding.do(photo_id, acts.change_marks(wanted.marks))


@routes.route("get", "/<int:photo_id>/encodes/<int:encode_id>")
def show_pinned(photo_id: int, encode_id: int) -> PinnedResponse:
    """An encode of a photo, also of another size or framing."""
    return PinnedResponse.of(workspace().comparing.pinned(photo_id, encode_id))


@routes.route("get", "/<int:photo_id>/encodes/<int:encode_id>/damage")
def show_damage(photo_id: int, encode_id: int) -> DamageResponse:
    """What is wrong with an encode, and where."""
    return DamageResponse.of(workspace().examining.encode(photo_id, encode_id))


@routes.route("get", "/<int:photo_id>/encodes/<int:encode_id>/arrival")
def show_arrival(photo_id: int, encode_id: int) -> ArrivalResponse:
    """How an encode arrives."""
    _, data = workspace().files.delivered(photo_id, encode_id)
    return ArrivalResponse(size_bytes=len(data), first_picture_bytes=first_picture_bytes(data))


@routes.route("get", "/<int:photo_id>/encodes/<int:encode_id>/name")
def show_file_name(photo_id: int, encode_id: int) -> FileNameResponse:
    """The name under which an encode is saved."""
    return FileNameResponse(name=workspace().planning.name_of(photo_id, encode_id))


@routes.route("get", "/<int:photo_id>/encodes/<int:encode_id>/against/<int:other_id>")
def show_bought(photo_id: int, encode_id: int, other_id: int) -> BoughtResponse:
    """What the heavier of two encodes has over the lighter."""
    return BoughtResponse.of(workspace().examining.bought(photo_id, encode_id, other_id))
