"""The versions on which the bytes of a result depend: the same on all machines, or they differ."""

import platform
from functools import lru_cache
from importlib.metadata import version

from lean_parcel.core.errors import UsageError

#: What encodes, decodes, resamples and compares.
_PACKAGES = (
    "lean-parcel",
    "imagequant",
    "mozjpeg-lossless-optimization",
    "numba",
    "numpy",
    "opencv-python-headless",
    "pillow",
    "pillow-heif",
    "pyjpegli",
    "pyoxipng",
    "pyvips",
    "pyvips-binary",
)

Versions = tuple[tuple[str, str], ...]


@lru_cache
def versions() -> Versions:
    """Those of this process, by name."""
    found = [(name, version(name)) for name in _PACKAGES]
    python = ".".join(platform.python_version_tuple()[:2])
    return (("Python", python), *found)


def check_versions(expected: Versions, where: str) -> None:
    """Raises UsageError `versions_differ` where this process, which is at an address, has others
    than are expected."""
    own = dict(versions())
    differing = [
        f"{name} {own.get(name, 'is missing')} instead of {wanted}"
        for name, wanted in expected
        if own.get(name) != wanted
    ]
    if differing:
        message = f"The worker at {where} would make other files: it has {', '.join(differing)}."
        raise UsageError(message, "versions_differ")
