"""Routes of photos: add, list, weigh, aim and take."""

from flask import Blueprint, Response, current_app, jsonify, request
from pydantic import BaseModel

from lean_parcel.core.aim import changed
from lean_parcel.core.errors import UsageError
from lean_parcel.web.schema import (
    AddedValue,
    AimChangeValue,
    PhotosValue,
    PhotoValue,
    PickValue,
    WeighingValue,
)
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


@routes.get("")
def list_photos() -> Response:
    """All photos."""
    rows = workspace().list_photos()
    return answer(PhotosValue(photos=[PhotoValue.of(photo, pick) for photo, pick in rows]))


@routes.post("")
def add_photo() -> tuple[Response, int]:
    """Stores an uploaded original and starts its search."""
    upload = request.files.get("photo")
    if upload is None:
        raise UsageError("Send one file as “photo”.", "photo_missing")
    name = (upload.filename or "").replace("\\", "/").rsplit("/", 1)[-1].strip() or "photo"
    photo_id = workspace().add_photo(name, upload.read())
    return answer(AddedValue(id=photo_id)), 201


@routes.get("/<int:photo_id>")
def weigh_photo(photo_id: int) -> Response:
    """A photo with its search, encodes and candidates."""
    return answer(WeighingValue.of(workspace().weighing(photo_id)))


@routes.patch("/<int:photo_id>/aim")
def change_aim(photo_id: int) -> tuple[str, int]:
    """Changes what is given of the aim, and starts a new search."""
    values = AimChangeValue.model_validate_json(request.get_data()).model_dump(exclude_none=True)
    workspace().change_aim(photo_id, lambda aim: changed(aim, **values))
    return "", 204


@routes.put("/<int:photo_id>/pick")
def set_pick(photo_id: int) -> tuple[str, int]:
    """Takes an encode, or takes the pick back."""
    pick = PickValue.model_validate_json(request.get_data())
    workspace().set_pick(photo_id, pick.encode_id)
    return "", 204


@routes.delete("/<int:photo_id>/search")
def stop_search(photo_id: int) -> tuple[str, int]:
    """Ends the search where it stands."""
    workspace().stop_search(photo_id)
    return "", 204
