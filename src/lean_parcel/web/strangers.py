"""Who is answered: this server's own page, not pages of other sites that act through the browser of
their visitor.

A page that rebinds its name to this machine's address sends its own name as the host, so only the
names that the server was started for are answered. (Werkzeug's list of trusted hosts knows no IPv6
addresses.) What a browser says of the site that a request comes from is in Sec-Fetch-Site and
Origin (Fetch Metadata Request Headers; the Fetch standard), which pages cannot change.
"""

import ipaddress
import re
import socket
from urllib.parse import urlsplit

from flask import abort, current_app, request

from lean_parcel.web.access import access

_READING = ("GET", "HEAD")
#: What hosts are written with: a name or an address, and a port.
_HOST = re.compile(r"[A-Za-z0-9._:\[\]-]+")
_LOOPBACK = frozenset({"localhost", "127.0.0.1", "::1"})


def names_of(host: str) -> frozenset[str]:
    """The names and addresses under which a server is reached that listens at this one."""
    address = _address(host)
    if address is None:
        return _LOOPBACK if host == "localhost" else frozenset({host.lower()})
    if address.is_unspecified:
        own = socket.gethostname()
        return _LOOPBACK | {own.lower(), *_addresses_of(own)}
    return _LOOPBACK | {str(address)} if address.is_loopback else frozenset({str(address)})


def _addresses_of(name: str) -> set[str]:
    """The addresses that a name stands for; none where nobody knows it, as in some containers."""
    try:
        known = socket.getaddrinfo(name, None)
    except socket.gaierror:
        return set()
    found = {_address(str(info[4][0])) for info in known}
    return {str(each) for each in found if each}


def is_loopback(host: str) -> bool:
    """Whether only this machine reaches a server that listens at this address."""
    address = _address(host)
    return address.is_loopback if address else host == "localhost"


def is_unspecified(host: str) -> bool:
    """Whether a server that listens at this address does so at all addresses of its machine."""
    address = _address(host)
    return address is not None and address.is_unspecified


def address_of(host: str, port: int) -> str:
    """An address that a browser on this machine opens, of a server that listens at this host."""
    address = _address(host)
    if address and address.is_unspecified:
        host = "127.0.0.1" if address.version == 4 else "::1"
    return f"http://[{host}]:{port}" if ":" in host else f"http://{host}:{port}"


def refuse() -> None:
    """Refuses, before a request is answered, what is asked under another name, and what another
    site asks for: to change something, or to read anything but the page itself. A program that
    bears the access token is no site."""
    if _host_name() not in current_app.config["HOST_NAMES"]:
        abort(400, "This server does not have that name.")
    if access().is_borne():
        return
    site = request.headers.get("Sec-Fetch-Site")
    if request.method not in _READING:
        if not _is_own(site):
            abort(403, "Only the page of this server may change the workspace.")
    elif request.path.startswith("/api/") and site in ("cross-site", "same-site"):
        abort(403, "Only the page of this server may read the workspace.")


def _host_name() -> str | None:
    """The name in the Host header, without its port and in lower case; None for what is none."""
    if not _HOST.fullmatch(request.host):
        return None
    try:
        return urlsplit(f"//{request.host}").hostname
    except ValueError:
        return None


def _is_own(site: str | None) -> bool:
    origin = request.headers.get("Origin")
    if not origin:
        return site == "same-origin"
    try:
        return urlsplit(origin).netloc == request.host
    except ValueError:
        return False


def _address(text: str) -> ipaddress.IPv4Address | ipaddress.IPv6Address | None:
    try:
        return ipaddress.ip_address(text.partition("%")[0])
    except ValueError:
        return None
