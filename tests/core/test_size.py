import pytest

from lean_parcel.core.errors import UsageError
from lean_parcel.core.size import format_size, parse_size


@pytest.mark.parametrize(
    ("text", "size_bytes"),
    [
        ("80kB", 80_000),
        ("80KB", 80_000),
        ("80 kb", 80_000),
        ("80KiB", 81_920),
        ("80000 b", 80_000),
        ("1.5MB", 1_500_000),
        (".5 MiB", 524_288),
        ("12B", 12),
        ("0.0019kB", 1),
        ("1,5 MB", 1_500_000),
        ("64,25kB", 64_250),
        ("1,5000 MB", 1_500_000),
    ],
)
def test_reads_sizes(text: str, size_bytes: int) -> None:
    assert parse_size(text) == size_bytes


@pytest.mark.parametrize(
    "text",
    ["", "kB", "-5kB", "80 potatoes", "1e3", "0", "0 B", "80000", "0.4B", "1.2.3kB", "1,500 B"],
)
def test_refuses_what_is_no_size(text: str) -> None:
    with pytest.raises(UsageError) as caught:
        parse_size(text)
    assert caught.value.code == "invalid_size"


def test_every_size_with_one_decimal_is_read_to_the_byte() -> None:
    for tenths in range(1, 20_000):
        assert parse_size(f"{tenths / 10:.1f} kB") == 100 * tenths


def test_a_number_alone_has_the_unit_that_is_usual_there() -> None:
    assert parse_size("80", bare_unit="kB") == 80_000
    assert parse_size("80 B", bare_unit="kB") == 80


@pytest.mark.parametrize(
    ("size_bytes", "text"),
    [(812, "812 B"), (198_412, "198.4 kB"), (999_949, "999.9 kB"), (999_950, "1.00 MB")],
)
def test_writes_sizes(size_bytes: int, text: str) -> None:
    assert format_size(size_bytes) == text
