"""Routes of photos: add, look at, frame, aim, take, step back and forth."""

from typing import Any

from flask import Blueprint, Response, current_app, jsonify, request
from pydantic import BaseModel

from lean_parcel.core.errors import UsageError
from lean_parcel.web.answers import (
    AddedValue,
    ComparisonValue,
    EncodeValue,
    FindingsValue,
    JournalValue,
    MadeValue,
    MarginsValue,
    WeighingValue,
)
from lean_parcel.web.requests import (
    AimChangeValue,
    EncodeWishValue,
    FramingChangeValue,
    GoBackValue,
    PhotoChangeValue,
    PickValue,
)
from lean_parcel.work.acts import aiming, reframing, unframing
from lean_parcel.work.workspace import Workspace

routes = Blueprint("photos", __name__, url_prefix="/api/photos")


def workspace() -> Workspace:
    """The workspace that this application serves."""
    served = current_app.extensions["workspace"]
    assert isinstance(served, Workspace)
    return served


def answer(value: BaseModel) -> Response:
    """A wire value as JSON."""
    return jsonify(value.model_dump(mode="json"))


def given(change: BaseModel) -> dict[str, Any]:
    """The fields that a request gave, by name."""
    return {name: getattr(change, name) for name in change.model_fields_set}


@routes.post("")
def add_photo() -> tuple[Response, int]:
    """Stores an uploaded original on a page, or the first one, and starts its search."""
    upload = request.files.get("photo")
    if upload is None:
        raise UsageError("Send one file as “photo”.", "photo_missing")
    name = (upload.filename or "").replace("\\", "/").rsplit("/", 1)[-1].strip() or "photo"
    page_id = request.form.get("page_id", type=int)
    photo_id = workspace().add_photo(name, upload.read(), page_id=page_id)
    return answer(AddedValue(id=photo_id)), 201


@routes.get("/<int:photo_id>")
def weigh_photo(photo_id: int) -> Response:
    """A photo with its framing, search, encodes and candidates."""
    return answer(WeighingValue.of(workspace().weighing(photo_id)))


@routes.patch("/<int:photo_id>")
def change_photo(photo_id: int) -> tuple[str, int]:
    """Names a photo, or moves it."""
    change = PhotoChangeValue.model_validate_json(request.get_data())
    fields = change.model_fields_set
    if "name" in fields:
        workspace().pages.rename_photo(photo_id, change.name)
    if {"page_id", "position"} <= fields:
        workspace().pages.move_photo(photo_id, change.page_id, change.position)
    return "", 204


@routes.delete("/<int:photo_id>")
def remove_photo(photo_id: int) -> tuple[str, int]:
    """Takes a photo off its page."""
    workspace().pages.remove_photo(photo_id)
    return "", 204


@routes.patch("/<int:photo_id>/aim")
def change_aim(photo_id: int) -> tuple[str, int]:
    """Changes what is given of the aim, and starts a new search where the files change."""
    change = AimChangeValue.model_validate_json(request.get_data())
    workspace().change(photo_id, aiming(given(change)))
    return "", 204


@routes.patch("/<int:photo_id>/framing")
def change_framing(photo_id: int) -> tuple[str, int]:
    """Changes what is given of the framing, and starts a new search where the files change."""
    changes = given(FramingChangeValue.model_validate_json(request.get_data()))
    turn = changes.pop("turn", None)
    workspace().change(photo_id, reframing(changes, turn=turn, crops="crop" in changes))
    return "", 204


@routes.delete("/<int:photo_id>/framing")
def reset_framing(photo_id: int) -> tuple[str, int]:
    """Takes back turns, crop, straightening and focus."""
    workspace().change(photo_id, unframing)
    return "", 204


@routes.get("/<int:photo_id>/findings")
def list_findings(photo_id: int) -> Response:
    """What came in."""
    return answer(FindingsValue.of(*workspace().findings(photo_id)))


@routes.get("/<int:photo_id>/margins")
def find_margins(photo_id: int) -> Response:
    """What lies inside the empty margins."""
    return answer(MarginsValue(box=workspace().margins(photo_id)))


@routes.put("/<int:photo_id>/pick")
def set_pick(photo_id: int) -> tuple[str, int]:
    """Takes an encode, or takes the pick back."""
    pick = PickValue.model_validate_json(request.get_data())
    workspace().set_pick(photo_id, pick.encode_id)
    return "", 204


@routes.post("/<int:photo_id>/encodes")
def make_encode(photo_id: int) -> Response:
    """An encode with settings by hand, kept or made, or a draft of it."""
    wish = EncodeWishValue.model_validate_json(request.get_data())
    encode, is_draft = workspace().tuner.encode(
        photo_id, wish.settings, wish.width_px, may_draft=wish.may_draft
    )
    return answer(MadeValue(encode=EncodeValue.of(encode), is_draft=is_draft))


@routes.delete("/<int:photo_id>/search")
def stop_search(photo_id: int) -> tuple[str, int]:
    """Ends the search where it stands."""
    workspace().stop_search(photo_id)
    return "", 204


@routes.get("/<int:photo_id>/journal")
def show_journal(photo_id: int) -> Response:
    """Every step on the photo."""
    return answer(JournalValue.of(*workspace().journal(photo_id)))


@routes.post("/<int:photo_id>/journal/undo")
def undo(photo_id: int) -> tuple[str, int]:
    """Takes the last step back."""
    workspace().undo(photo_id)
    return "", 204


@routes.post("/<int:photo_id>/journal/redo")
def redo(photo_id: int) -> tuple[str, int]:
    """Takes a step again."""
    workspace().redo(photo_id)
    return "", 204


@routes.put("/<int:photo_id>/journal/current")
def go_back(photo_id: int) -> tuple[str, int]:
    """Makes any entry the current one."""
    entry = GoBackValue.model_validate_json(request.get_data())
    workspace().go_back_to(photo_id, entry.entry_id)
    return "", 204


@routes.get("/<int:photo_id>/journal/<int:first_id>/<int:second_id>")
def compare(photo_id: int, first_id: int, second_id: int) -> Response:
    """What differs between two entries."""
    return answer(ComparisonValue.of(workspace().compare(photo_id, first_id, second_id)))
