"""Routes of the picture library, the stand-in for a service that offers photos."""

from lean_parcel import demo
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import LibraryChoiceRequest
from lean_parcel.web.responses.library import LibraryResponse
from lean_parcel.web.responses.outcomes import AddedResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("library", "/api/library")


@routes.route("get", "")
def list_library() -> LibraryResponse:
    """What the library offers."""
    return LibraryResponse(name=demo.LIBRARY_NAME, photos=list(demo.library()))


@routes.route("post", "")
def add_from_library(choice: LibraryChoiceRequest) -> AddedResponse:
    """Adds a photo of the library in one of its sizes, with its credit."""
    photo = demo.library_photo(choice.file)
    photo_id = workspace().adding.add_photo(
        photo.file_name(choice.width_px),
        demo.fetch(choice.file, choice.width_px),
        name=photo.title,
        credit=photo.credit,
        page_id=choice.page_id,
    )
    return AddedResponse(id=photo_id)
