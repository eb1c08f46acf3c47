"""The application factory, the page itself, and what every answer carries."""

from collections.abc import Iterable
from pathlib import Path

from flask import Flask, Response, request, send_from_directory
from markupsafe import escape
from werkzeug.middleware.proxy_fix import ProxyFix

from lean_parcel.core.original.source import Limits
from lean_parcel.web import access, errors, monitoring, strangers
from lean_parcel.web.access import Access
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
_BASE = '<base href="/" />'
STATIC = Path(__file__).parent / "static"
#: What multipart adds to the largest photo.
_ENVELOPE_BYTES = 1_000_000
_HEADERS = {
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self';"
    " img-src 'self' blob: data:; font-src 'self'; connect-src 'self'; frame-src 'self';"
    " base-uri 'self'; form-action 'none'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def create_app(
    workspace: Workspace,
    limits: Limits,
    *,
    host_names: Iterable[str] = ("localhost",),
    token: str | None = None,
    proxies: int = 0,
) -> Flask:
    """An application that serves one workspace under these names and addresses, to who has the
    token, if there is one; behind so many proxies, which say who asks and by which address."""
    app = Flask(__name__, static_folder=None)
    app.url_map.converters["int"] = IdConverter
    app.config["MAX_CONTENT_LENGTH"] = limits.max_size_bytes + _ENVELOPE_BYTES
    app.config["HOST_NAMES"] = frozenset(name.lower() for name in host_names)
    app.extensions["workspace"] = workspace
    app.extensions["access"] = Access(token)
    blueprints = (files.routes, delivery.downloads, standing.routes, changes.routes)
    for blueprint in (*(each.blueprint for each in JSON_ROUTES), *blueprints):
        app.register_blueprint(blueprint)
    errors.register(app)
    monitoring.register(app)
    app.before_request(strangers.refuse)
    app.before_request(access.refuse)
    app.after_request(_add_headers)
    for rule in _SCREENS:
        app.add_url_rule(rule, view_func=_page, endpoint=f"screen {rule}")
    app.add_url_rule("/assets/<path:name>", view_func=_asset, endpoint="asset")
    if proxies:
        behind = ProxyFix(
            app.wsgi_app, x_for=proxies, x_proto=proxies, x_host=proxies, x_prefix=proxies
        )
        app.wsgi_app = behind  # type: ignore[method-assign]
    return app


def _add_headers(response: Response) -> Response:
    for name, value in {**_HEADERS, "Cache-Control": "no-cache"}.items():
        response.headers.setdefault(name, value)
    return response


def _page(**_: int) -> Response:
    """The page, whose addresses begin where a proxy has put it."""
    page = (STATIC / "index.html").read_text(encoding="utf-8")
    here = escape(f"{request.script_root}/")
    return Response(page.replace(_BASE, f'<base href="{here}" />'), mimetype="text/html")


def _asset(name: str) -> Response:
    return send_from_directory(STATIC / "assets", name, max_age=365 * 24 * 3600)
