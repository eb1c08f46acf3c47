"""Byte sizes as people write them: `80kB` is 80,000 bytes, `80KiB` is 81,920."""

import re
from decimal import ROUND_FLOOR, Decimal

from lean_parcel.core.errors import UsageError

#: The most that a limit or a budget can be.
MAX_BYTES = 10**12
_UNITS = {"b": 1, "kb": 1000, "mb": 1000**2, "kib": 1024, "mib": 1024**2}
#: A comma before three digits may stand between thousands, so it is not read at all.
_SIZE = re.compile(
    r"\s*(\d+(?:\.\d+|,(?!\d{3}(?!\d))\d+)?|\.\d+)\s*([a-z]*)\s*", re.IGNORECASE | re.ASCII
)


def parse_size(text: str, bare_unit: str | None = None) -> int:
    """Whole bytes of a size like `80kB`, `1.5 MB`, `1,5 MB` or `80KiB`; part of a byte is dropped.
    A number alone has the `bare_unit`, and without one is refused: 80 what?

    Raises UsageError `invalid_size` for anything else, and for less than one byte.

    >>> parse_size("80kB"), parse_size("1,5 MB"), parse_size("80 KiB")
    (80000, 1500000, 81920)
    """
    match = _SIZE.fullmatch(text)
    if match and not match[2] and bare_unit is None:
        raise UsageError(
            f"{text.strip()} what? 80 kB is 80000 bytes: write 80kB, or 80000B.", "invalid_size"
        )
    unit = _UNITS.get((match[2] or bare_unit or "").lower()) if match else None
    if match is None or unit is None:
        raise UsageError(
            f"“{text}” is not a size. Write it like 80 kB, 80 KiB or 80000 B.", "invalid_size"
        )
    number = Decimal(match[1].replace(",", "."))
    size_bytes = int((number * unit).to_integral_value(ROUND_FLOOR))
    if size_bytes < 1:
        raise UsageError("A limit is at least one byte.", "invalid_size")
    return size_bytes


def format_size(size_bytes: int) -> str:
    """A size for people, rounded once.

    >>> format_size(812), format_size(198_412), format_size(4_861_000)
    ('812 B', '198.4 kB', '4.86 MB')
    """
    if size_bytes < 1000:
        return f"{size_bytes} B"
    if size_bytes < 999_950:
        return f"{size_bytes / 1000:.1f} kB"
    return f"{size_bytes / 1_000_000:.2f} MB"
