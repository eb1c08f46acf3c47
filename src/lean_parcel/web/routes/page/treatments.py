"""Routes of treatments."""

from lean_parcel.core.decisions.page_settings import treatment_of_page
from lean_parcel.core.page import choices
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import KeepTreatmentRequest
from lean_parcel.web.responses.outcomes import AddedResponse
from lean_parcel.web.responses.page.treatments import TreatmentResponse, TreatmentsResponse
from lean_parcel.web.served import workspace
from lean_parcel.work.treatment_file import TreatmentFile

routes = JsonRoutes("treatments", "/api/treatments")


@routes.route("get", "")
def list_treatments() -> TreatmentsResponse:
    """Treatments to choose from, the one that was used last first."""
    layout = workspace().page_viewing.layout()
    return TreatmentsResponse(treatments=[TreatmentResponse.of(each) for each in layout.treatments])


@routes.route("get", "/of-page/<int:page_id>")
def begin_treatment(page_id: int) -> TreatmentFile:
    """A treatment to begin with, that does what a page does; it has no name yet."""
    page = workspace().page_viewing.layout().page(page_id)
    return TreatmentFile.of("", treatment_of_page(page.settings))


@routes.route("post", "")
def add_treatment(file: TreatmentFile) -> AddedResponse:
    """Adds a treatment from a file."""
    return AddedResponse(id=workspace().selections.add_treatment(file.name, file.treatment))


@routes.route("post", "/kept")
def keep_treatment(wanted: KeepTreatmentRequest) -> AddedResponse:
    """Keeps what was decided about a photo as a treatment."""
    added = workspace().selections.keep_treatment(
        wanted.photo_id,
        wanted.name,
        encode_id=wanted.encode_id,
        with_quality=wanted.with_quality,
        with_single=wanted.with_single,
    )
    return AddedResponse(id=added)


@routes.route("put", "/<int:treatment_id>")
def change_treatment(treatment_id: int, file: TreatmentFile) -> None:
    """Gives a treatment another name and other values."""
    workspace().selections.change_treatment(treatment_id, file.name, file.treatment)


@routes.route("delete", "/<int:treatment_id>")
def remove_treatment(treatment_id: int) -> None:
    """Removes a treatment."""
    workspace().page_editing.do(choices.remove_treatment(treatment_id))
