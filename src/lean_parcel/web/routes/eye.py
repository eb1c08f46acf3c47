"""Routes of blind rounds."""

from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import AnswerRequest, EyeRequest
from lean_parcel.web.responses.eye import EyeResponse
from lean_parcel.web.served import workspace

routes = JsonRoutes("eye", "/api")


@routes.route("post", "/photos/<int:photo_id>/eye")
def begin_rounds(photo_id: int, wanted: EyeRequest) -> EyeResponse:
    """Begins blind rounds with one encode, or with two to choose from."""
    eye = workspace().eye
    match wanted.kind:
        case "check":
            return EyeResponse.of(eye.check(photo_id, wanted.encode_id))
        case "choice":
            return EyeResponse.of(
                eye.choice(photo_id, wanted.encode_id, wanted.other_id or wanted.encode_id)
            )
        case "threshold":
            series = eye.threshold(photo_id, wanted.encode_id, from_ruin=wanted.from_ruin)
            return EyeResponse.of(series)


@routes.route("post", "/eye/<int:series_id>/answers")
def answer_round(series_id: int, given: AnswerRequest) -> EyeResponse:
    """Answers a round: the original, or the nearer one, is A or B."""
    return EyeResponse.of(workspace().eye.answer(series_id, given.round, given.side))
