"""Tasks that go wrong, to be run in worker processes."""

import os
import time


def die() -> None:
    os._exit(11)


def hang() -> None:
    time.sleep(60)


def eat_memory() -> int:
    return len(bytearray(40_000_000_000))


def fail() -> None:
    raise ValueError("a library's words")


def double(number: int) -> int:
    return number * 2
