"""The application factory, the page itself, and what every answer carries."""

from collections.abc import Iterable
from pathlib import Path

from flask import Flask, Response, send_from_directory

from lean_parcel.core.original.source import Limits
from lean_parcel.web import errors, strangers
from lean_parcel.web.api import IdConverter
from lean_parcel.web.routes import JSON_ROUTES, changes, files, standing
from lean_parcel.web.routes.page import delivery
from lean_parcel.work.workspace import Workspace

#: Addresses of screens; the page's own router tells them apart.
_SCREENS = (
    "/",
    "/pages/<int:page_id>",
    "/pages/<int:page_id>/balance",
    "/pages/<int:page_id>/batch",
    "/pages/<int:page_id>/pack",
    "/photos/<int:photo_id>",
    "/photos/<int:photo_id>/frame",
)
STATIC = Path(__file__).parent / "static"
#: What multipart adds to the largest photo.
_ENVELOPE_BYTES = 1_000_000
_HEADERS = {
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self';"
    " img-src 'self' blob: data:; font-src 'self'; connect-src 'self'; frame-src 'self';"
    " base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def create_app(
    workspace: Workspace, limits: Limits, *, host_names: Iterable[str] = ("localhost",)
) -> Flask:
    """An application that serves one workspace, under these names and addresses."""
    app = Flask(__name__, static_folder=None)
    app.url_map.converters["int"] = IdConverter
    app.config["MAX_CONTENT_LENGTH"] = limits.max_size_bytes + _ENVELOPE_BYTES
    app.config["HOST_NAMES"] = frozenset(host_names)
    app.extensions["workspace"] = workspace
    blueprints = (files.routes, delivery.downloads, standing.routes, changes.routes)
    for blueprint in (*(each.blueprint for each in JSON_ROUTES), *blueprints):
        app.register_blueprint(blueprint)
    errors.register(app)
    app.before_request(strangers.refuse)
    app.after_request(_add_headers)
    for rule in _SCREENS:
        app.add_url_rule(rule, view_func=_page, endpoint=f"screen {rule}")
    app.add_url_rule("/assets/<path:name>", view_func=_asset, endpoint="asset")
    return app


def _add_headers(response: Response) -> Response:
    for name, value in {**_HEADERS, "Cache-Control": "no-cache"}.items():
        response.headers.setdefault(name, value)
    return response


def _page(**_: int) -> Response:
    return send_from_directory(STATIC, "index.html", max_age=0)


def _asset(name: str) -> Response:
    return send_from_directory(STATIC / "assets", name, max_age=365 * 24 * 3600)
