"""Where the server listens."""

import socket

import pytest

from lean_parcel.web.serving import listener_at


@pytest.mark.parametrize("host", ["127.0.0.1", "127.0.0.2"])
def test_it_listens_at_this_address_and_no_other(host: str) -> None:
    with listener_at(host, 0) as listener:
        address, port, *_ = listener.getsockname()
        assert address == host
        socket.create_connection((host, port), timeout=5).close()
        with pytest.raises(OSError, match="in use"):
            listener_at(host, port)


def test_a_port_is_free_again_at_once() -> None:
    with listener_at("127.0.0.1", 0) as first:
        port = first.getsockname()[1]
        client = socket.create_connection(("127.0.0.1", port), timeout=5)
        served, _ = first.accept()
        served.close()  # the side that closes first waits for what may still be on its way
        client.close()
    listener_at("127.0.0.1", port).close()
