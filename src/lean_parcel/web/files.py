"""Routes of bytes: originals, thumbnails, framed pixels and encoded files, which never change."""

import io

from flask import Blueprint, Response, send_file

from lean_parcel.core.encode import MEDIA_TYPES
from lean_parcel.web.photos import workspace

routes = Blueprint("files", __name__)
_FOREVER_S = 365 * 24 * 3600


def _file(data: bytes, media_type: str, name: str | None = None) -> Response:
    return send_file(
        io.BytesIO(data),
        mimetype=media_type,
        as_attachment=name is not None,
        download_name=name,
        max_age=_FOREVER_S,
    )


@routes.get("/api/photos/<int:photo_id>/thumbnail")
def thumbnail(photo_id: int) -> Response:
    """A small picture for the list."""
    return _file(workspace().thumbnail(photo_id), "image/webp")


@routes.get("/api/framings/<int:framing_id>/pixels")
def framed_pixels(framing_id: int) -> Response:
    """The original in its place, losslessly."""
    return _file(workspace().framed_pixels(framing_id), "image/png")


@routes.get("/api/encodes/<int:encode_id>/file")
def encoded_file(encode_id: int) -> Response:
    """The real file of an encode, for the stage."""
    encode, data = workspace().encoded_file(encode_id)
    return _file(data, MEDIA_TYPES[encode.trial.settings.format])


@routes.get("/api/photos/<int:photo_id>/encodes/<int:encode_id>/download")
def download(photo_id: int, encode_id: int) -> Response:
    """The same file, to be saved under a safe name."""
    encode, data = workspace().encoded_file(encode_id)
    name = workspace().file_name(photo_id, encode)
    return _file(data, MEDIA_TYPES[encode.trial.settings.format], name)


@routes.get("/api/photos/<int:photo_id>/original")
def original(photo_id: int) -> Response:
    """The original as it came in, under the name it had."""
    photo, data = workspace().original(photo_id)
    return _file(data, f"image/{photo.source.format}", photo.name)
