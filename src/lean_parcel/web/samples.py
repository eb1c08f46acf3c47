"""Routes of the demo photos."""

from flask import Blueprint, Response, request

from lean_parcel import demo
from lean_parcel.web.photos import answer, workspace
from lean_parcel.web.schema import AddedValue, SampleNameValue, SamplesValue

routes = Blueprint("samples", __name__, url_prefix="/api/samples")


@routes.get("")
def list_samples() -> Response:
    """All demo photos."""
    return answer(SamplesValue(samples=list(demo.samples())))


@routes.post("")
def open_sample() -> tuple[Response, int]:
    """Adds a demo photo with the aim it is meant for."""
    sample = demo.sample(SampleNameValue.model_validate_json(request.get_data()).file)
    photo_id = workspace().add_photo(sample.file, demo.original(sample.file), sample.aim)
    return answer(AddedValue(id=photo_id)), 201
