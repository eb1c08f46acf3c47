"""Routes of bytes: originals, thumbnails, framed pixels and encoded files.

An address with the `key` of its content may be kept by browsers for ever. Ids alone do not tell
content: another workspace at the same address has the same ids.
"""

import hashlib
import io

from flask import Blueprint, Response, request, send_file

from lean_parcel import demo
from lean_parcel.core.damage.kinds import KINDS, Kind
from lean_parcel.core.errors import NotFoundError
from lean_parcel.core.eye.blind import SIDES, Side
from lean_parcel.core.formats import MEDIA_TYPES
from lean_parcel.core.picture.box import Box
from lean_parcel.core.picture.sharpen import Sharpen
from lean_parcel.web.responses.keys import content_key
from lean_parcel.web.served import workspace
from lean_parcel.web.streams import FASTEST_KBIT_S, LONGEST_TRIP_MS, PACE_HEADER, Pace

routes = Blueprint("files", __name__)
_FOREVER_S = 365 * 24 * 3600
#: How wide and high a part may be that is sharpened: more than a screen shows.
_MAX_PART_PX = 2_500


def _file(
    data: bytes, media_type: str, name: str | None = None, *, key: str | None = None
) -> Response:
    """A file whose key is that of its bytes, or the one given."""
    asked = request.args.get("key")
    is_lasting = bool(asked) and asked == (key or content_key(hashlib.sha256(data).hexdigest()))
    return send_file(
        io.BytesIO(data),
        mimetype=media_type,
        as_attachment=name is not None,
        download_name=name,
        max_age=_FOREVER_S if is_lasting else 0,
    )


@routes.get("/api/photos/<int:photo_id>/thumbnail")
def thumbnail(photo_id: int) -> Response:
    """A small picture for the list."""
    return _file(workspace().files.thumbnail(photo_id), "image/webp")


@routes.get("/api/photos/<int:photo_id>/preview")
def preview(photo_id: int) -> Response:
    """The whole original, reduced, for framing it."""
    return _file(workspace().files.preview(photo_id), "image/webp")


@routes.get("/api/framed/<int:framed_id>/pixels")
def framed_pixels(framed_id: int) -> Response:
    """The original in its place, losslessly."""
    return _file(workspace().files.framed_pixels(framed_id), "image/png")


@routes.get("/api/photos/<int:photo_id>/journal/<int:entry_id>/pixels")
def pixels_of_entry(photo_id: int, entry_id: int) -> Response:
    """The original as it was framed at a step of its journal, losslessly."""
    return _file(workspace().files.pixels_of_entry(photo_id, entry_id), "image/png")


@routes.get("/api/framed/<int:framed_id>/sharpened")
def sharpened(framed_id: int) -> Response:
    """A part of the framed pixels as they are before sharpening, or sharpened by other values than
    those in effect; by default the part is as large as it may be."""
    values = request.args
    sharpen = Sharpen(
        amount_percent=values.get("amount_percent", 0.0, type=float),
        radius_px=values.get("radius_px", Sharpen().radius_px, type=float),
        threshold_codes=values.get("threshold_codes", Sharpen().threshold_codes, type=float),
    )
    box = Box(
        left_px=max(0, values.get("left_px", 0, type=int)),
        top_px=max(0, values.get("top_px", 0, type=int)),
        width_px=_within_part(values.get("width_px", _MAX_PART_PX, type=int)),
        height_px=_within_part(values.get("height_px", _MAX_PART_PX, type=int)),
    )
    part = workspace().files.sharpened(framed_id, sharpen, box)
    key = content_key(workspace().files.framed(framed_id).pixels_sha256)
    return _file(part, "image/png", key=key)


def _within_part(side_px: int) -> int:
    return min(max(1, side_px), _MAX_PART_PX)


@routes.get("/api/encodes/<int:encode_id>/file")
def encoded_file(encode_id: int) -> Response:
    """The real file of an encode, for the stage; it has no metadata."""
    encode, data = workspace().files.encoded(encode_id)
    return _file(data, MEDIA_TYPES[encode.trial.settings.format])


@routes.get("/api/photos/<int:photo_id>/encodes/<int:encode_id>/download")
def download(photo_id: int, encode_id: int) -> Response:
    """The file as it is handed out, with its metadata, to be saved under a safe name."""
    encode, data = workspace().files.delivered(photo_id, encode_id)
    name = workspace().planning.name_of(photo_id, encode_id)
    return _file(data, MEDIA_TYPES[encode.trial.settings.format], name)


@routes.get("/api/photos/<int:photo_id>/encodes/<int:encode_id>/arriving")
def arriving_file(photo_id: int, encode_id: int) -> Response:
    """The file as it is handed out, sent as over a slow line."""
    encode, data = workspace().files.delivered(photo_id, encode_id)
    pace = Pace(
        kbit_s=min(max(1, request.args.get("kbit_s", 400, type=int)), FASTEST_KBIT_S),
        round_trip_ms=min(max(0, request.args.get("round_trip_ms", 0, type=int)), LONGEST_TRIP_MS),
    )
    response = Response(data, mimetype=MEDIA_TYPES[encode.trial.settings.format])
    response.headers["Cache-Control"] = "no-store"
    response.headers[PACE_HEADER] = pace.write()
    return response


@routes.get("/api/photos/<int:photo_id>/encodes/<int:encode_id>/damage/<kind>")
def damage_map(photo_id: int, encode_id: int, kind: str) -> Response:
    """Where an encode has a kind of damage, as a picture to lay over it."""
    known: Kind | None = next((name for name in KINDS if name == kind), None)
    if known is None:
        raise NotFoundError(f"There is no kind of damage “{kind}”.")
    return _file(workspace().examining.map(photo_id, encode_id, known), "image/png")


@routes.get("/api/eye/<int:series_id>/<int:number>/<side>")
def round_picture(series_id: int, number: int, side: str) -> Response:
    """A picture of a blind round, without a name."""
    known: Side | None = next((one for one in SIDES if one == side), None)
    if known is None:
        raise NotFoundError("A round has the sides a and b.")
    data, media_type = workspace().eye.picture(series_id, number, known)
    response = Response(data, mimetype=media_type)
    response.headers["Cache-Control"] = "no-store"
    return response


@routes.get("/api/photos/<int:photo_id>/original")
def original(photo_id: int) -> Response:
    """The original as it came in, under the name it had."""
    photo, data = workspace().files.original(photo_id)
    return _file(data, MEDIA_TYPES[photo.source.format], photo.name)


@routes.get("/api/library/<name>/thumbnail")
def library_thumbnail(name: str) -> Response:
    """A small picture of a photo that the library offers."""
    return _file(demo.library_thumbnail(name), "image/webp")
