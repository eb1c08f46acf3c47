"""Routes of the picture library, the stand-in for a service that offers photos."""

from flask import Blueprint, Response, request

from lean_parcel import demo
from lean_parcel.web.answers import AddedValue, LibraryValue
from lean_parcel.web.photos import answer, workspace
from lean_parcel.web.requests import LibraryChoiceValue

routes = Blueprint("library", __name__, url_prefix="/api/library")


@routes.get("")
def list_library() -> Response:
    """What the library offers."""
    return answer(LibraryValue(name=demo.LIBRARY_NAME, photos=list(demo.library())))


@routes.post("")
def add_from_library() -> tuple[Response, int]:
    """Adds a photo of the library in one of its sizes, with its credit."""
    choice = LibraryChoiceValue.model_validate_json(request.get_data())
    photo = demo.library_photo(choice.file)
    photo_id = workspace().add_photo(
        photo.file_name(choice.width_px),
        demo.fetch(choice.file, choice.width_px),
        name=photo.title,
        credit=photo.credit,
        page_id=choice.page_id,
    )
    return answer(AddedValue(id=photo_id)), 201
