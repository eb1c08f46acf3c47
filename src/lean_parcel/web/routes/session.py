"""The route that lets in."""

from functools import partial

from flask import after_this_request, request

from lean_parcel.web.access import access, let_in
from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.requests import AccessRequest

routes = JsonRoutes("session", "/api/session")


@routes.route("post", "")
def enter(wanted: AccessRequest) -> None:
    """Exchanges the access token for a cookie."""
    cookie = access().cookie_for(wanted.token, request.remote_addr or "")
    after_this_request(partial(let_in, cookie=cookie))
