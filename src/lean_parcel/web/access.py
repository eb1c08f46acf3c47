"""Who may in, where others than this machine can reach the server: whoever has its access token.

A page exchanges the token for a cookie, which scripts cannot read and other sites cannot send; a
program sends the token itself (RFC 6750). The page and its parts hold nothing and are for everyone,
and so is the simulated site, whose addresses are secret themselves.
"""

import hmac
import secrets
import stat
from pathlib import Path

from flask import Response, abort, current_app, g, request
from itsdangerous import BadData, URLSafeTimedSerializer
from limits import parse
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter

from lean_parcel.core.errors import UsageError

_COOKIE = "lean-parcel-access"
_COOKIE_S = 30 * 24 * 3600
#: 256 random bits take so many characters of base64.
_SHORTEST_TOKEN = 43
#: Wrong tokens that one address may try, and all together.
_OF_ONE, _OF_ALL = parse("10/minute"), parse("100/minute")
#: What needs no token below /api: the exchange of one.
_EXCHANGE = "/api/session"


class Access:
    """The access token of a server; None where nobody else reaches it."""

    def __init__(self, token: str | None = None) -> None:
        self._token = token
        self._cookies = URLSafeTimedSerializer(token or "", salt="access")
        self._wrong = MovingWindowRateLimiter(MemoryStorage())

    def cookie_for(self, given: str, address: str) -> str:
        """The cookie for a token that comes from an address. Aborts with 403 where that is wrong,
        and with 429 after too many wrong ones."""
        if not self._is_right(given, address):
            abort(403, "This is not the access token of this server.")
        return str(self._cookies.dumps(""))

    def is_given(self) -> bool:
        """Whether the current request may in."""
        return self._token is None or self.is_borne() or self._has_cookie()

    def is_borne(self) -> bool:
        """Whether the current request carries the token itself, as no page of another site can.
        Aborts with 429 after too many wrong ones."""
        if "is_borne" not in g:
            kind, _, given = request.headers.get("Authorization", "").partition(" ")
            is_asked_for = self._token is not None and kind.lower() == "bearer"
            address = request.remote_addr or ""
            g.is_borne = is_asked_for and self._is_right(given.strip(), address)
        return bool(g.is_borne)

    def _is_right(self, given: str, address: str) -> bool:
        """Whether this is the token. One that is wrong is counted, whichever way it came, and after
        too many of them no more are looked at."""
        tries = ((_OF_ONE, address), (_OF_ALL, "all"))
        if not all(self._wrong.test(limit, who) for limit, who in tries):
            message = "There were too many wrong tokens. Wait a minute, and try again."
            abort(429, message, retry_after=60)
        is_right = self._token is not None and hmac.compare_digest(
            given.encode(), self._token.encode()
        )
        if not is_right:
            for limit, who in tries:
                self._wrong.hit(limit, who)
        return is_right

    def _has_cookie(self) -> bool:
        try:
            self._cookies.loads(request.cookies.get(_COOKIE, ""), max_age=_COOKIE_S)
        except BadData:
            return False
        return True


def new_token() -> str:
    """A token of 256 random bits."""
    return secrets.token_urlsafe(32)


def read_token(path: Path) -> str:
    """The token in a file, which nobody else may read. Raises UsageError, or OSError."""
    if path.stat().st_mode & (stat.S_IRWXG | stat.S_IRWXO):
        raise UsageError(f"Others can read {path}: `chmod 600` it first.", "open_token_file")
    token = path.read_text(encoding="utf-8").strip()
    if len(token) < _SHORTEST_TOKEN:
        message = (
            f"The access token in {path} has fewer than {_SHORTEST_TOKEN} characters, as many as"
            " 256 random bits take. `openssl rand -base64 32` makes one."
        )
        raise UsageError(message, "short_token")
    return token


def access() -> Access:
    """The access to the server of the current request."""
    given = current_app.extensions["access"]
    assert isinstance(given, Access)
    return given


def refuse() -> None:
    """Refuses, before it is answered, a request for the workspace from who has no access."""
    is_guarded = request.path.startswith(("/api/", "/metrics")) and request.path != _EXCHANGE
    if is_guarded and not access().is_given():
        abort(401, "This server asks for its access token.")


def let_in(response: Response, cookie: str) -> Response:
    """An answer that brings the cookie."""
    response.set_cookie(
        _COOKIE,
        cookie,
        max_age=_COOKIE_S,
        path=request.script_root or "/",
        secure=request.is_secure,
        httponly=True,
        samesite="Strict",
    )
    return response
