"""The simulated site, in which the files of a page stand.

It is shown with no rights: a sandbox gives it an origin of its own, that of nobody, so that what
stands in it cannot reach the application, whatever a photo's name or text brings. It can load what
is below its own address and nothing else; its script is ours alone. The address has a secret, since
requests from there are those of a stranger.
"""

from importlib import resources

from flask import Blueprint, Response, request
from jinja2 import Environment

from lean_parcel.core.packing.page_code import html as page_code
from lean_parcel.web.served import workspace
from lean_parcel.web.streams import PACE_HEADER, Pace
from lean_parcel.work.delivery.visits import Visit, accepted_by

routes = Blueprint("standing", __name__, url_prefix="/standing/<secret>")
_SITE = resources.files("lean_parcel.web.site")
_TEXTS = (
    "Everything on these shelves was thrown, glazed and fired within sight of the water. The clay"
    " is dug two villages away, and the ash in the glaze is from our own kiln.",
    "We fire once a month. If a piece you like is gone, leave your name, and it may come out of the"
    " next kiln, or its sister will.",
    "Cups are made to be held, bowls to be filled. Both forgive the dishwasher.",
)
_POLICY = (
    "sandbox allow-scripts; default-src 'none'; img-src {here}; style-src {here};"
    " script-src {here}; base-uri 'none'; form-action 'none'; frame-ancestors 'self'"
)


@routes.get("/")
def site_page(secret: str) -> Response:
    """The page."""
    return _page(workspace().visits.by_secret(secret), waits=False)


@routes.get("/frame")
def site_frame(secret: str) -> Response:
    """The page in a frame, where pictures wait until that has the size of the visit's window."""
    return _page(workspace().visits.by_secret(secret), waits=True)


@routes.get("/<any('site.css', 'site.js'):name>")
def site_part(secret: str, name: str) -> Response:
    """How it looks, and what measures it."""
    visit = workspace().visits.by_secret(secret)
    media_type = "text/css" if name.endswith(".css") else "text/javascript"
    return _answer(_read(name).encode(), f"{media_type}; charset=utf-8", visit)


@routes.get("/files/<path:path>")
def site_file(secret: str, path: str) -> Response:
    """A delivered file, over the line of the visit."""
    visits = workspace().visits
    visit = visits.by_secret(secret)
    accepted = accepted_by(request.headers.get("Accept", ""))
    data, media_type = visits.send(visit, path, accepted)
    response = _answer(data, media_type, visit)
    response.headers["Vary"] = "Accept"
    if visit.line:
        pace = Pace(visit.line.kbit_s, visit.line.round_trip_ms, str(visit.id))
        response.headers[PACE_HEADER] = pace.write()
    return response


def _page(visit: Visit, *, waits: bool) -> Response:
    codes = [page_code(photo.shown, "files/") for photo in visit.photos]
    template = Environment(autoescape=True, trim_blocks=True).from_string(_read("page.html"))
    page = template.render(visit=visit, codes=codes, texts=_TEXTS, waits=waits)
    return _answer(page.encode(), "text/html; charset=utf-8", visit)


def _read(name: str) -> str:
    return (_SITE / name).read_text(encoding="utf-8")


def _answer(data: bytes, media_type: str, visit: Visit) -> Response:
    here = f"{request.url_root}standing/{visit.secret}/"
    response = Response(data, content_type=media_type)
    response.headers["Content-Security-Policy"] = _POLICY.format(here=here)
    response.headers["Cross-Origin-Resource-Policy"] = "cross-origin"
    response.headers["Timing-Allow-Origin"] = "*"
    response.headers["Cache-Control"] = "no-store"
    return response
