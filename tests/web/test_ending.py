"""A server that is asked to end, in a process of its own."""

import socket
import time
from pathlib import Path
from urllib.parse import urlsplit

from tools.served import Served

#: What an answer under way may take, the end of workers, and a machine that is busy: it was 10 s
#: and more, however long the body.
LONGEST_S = 8.0


def test_bodies_that_come_slowly_do_not_keep_a_server_from_ending(tmp_path: Path) -> None:
    served = Served(tmp_path / "slow.sqlite3")
    where = urlsplit(served.url)
    head = (
        f"POST /api/pages/1/photos HTTP/1.1\r\nHost: {where.netloc}\r\nOrigin: {served.url}\r\n"
        "Content-Type: multipart/form-data; boundary=x\r\nContent-Length: 1000000\r\n\r\n--x\r\n"
    )
    threads = served.process.num_threads()
    slow = [socket.create_connection((where.hostname, where.port)) for _ in range(4)]
    for each in slow:
        each.sendall(head.encode())
    while served.process.num_threads() < threads + len(slow):  # each is read by a thread
        time.sleep(0.01)
    start = time.monotonic()
    served.end()
    took_s = time.monotonic() - start
    for each in slow:
        each.close()
    assert took_s < LONGEST_S
