import string
from pathlib import PurePosixPath

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import EXTENSIONS, FORMATS, Format
from lean_parcel.core.packing.names import (
    DEFAULT_PATTERN,
    FileFacts,
    all_different,
    checked_pattern,
    ending_in,
    file_name,
    own_name,
    safe_folder,
)

PATTERNS = (DEFAULT_PATTERN, "{name}", "{name}@{density}-{hash}", "{format}/{width}", "..{name}.")
SAFE = set(string.ascii_letters + string.digits + "-_@")
DEVICES = {
    "con",
    "prn",
    "aux",
    "nul",
    *(f"{name}{i}" for name in ("com", "lpt") for i in range(10)),
}
#: Any text, and what file systems trip over.
HARD = st.sampled_from(
    [
        "con",
        "AUX.jpg",
        "..",
        ".git",
        "a/b\\c",
        "x" * 300,
        "日本語 写真",
        "🎨",
        "-rf",
        "%2e%2e",
        "NUL ",
    ]
)
NAMES = st.text(max_size=200) | HARD


def facts(name: str, as_format: Format = "avif", width_px: int = 1000) -> FileFacts:
    return FileFacts(
        photo_name=name, format=as_format, width_px=width_px, density=1.5, sha256="0123456789abcdef"
    )


@pytest.mark.parametrize(
    ("photo_name", "as_format", "name"),
    [
        ("Röte Tasse.JPG", "avif", "rote-tasse-1000.avif"),
        ("../../etc/passwd", "jpeg", "etc-passwd-1000.jpg"),
        ("Cup v1.2, side", "jpeg", "cup-v1-2-side-1000.jpg"),
        ("....", "avif", "photo-1000.avif"),
        ("x" * 300 + ".png", "png", "x" * 80 + "-1000.png"),
    ],
)
def test_names_say_what_a_file_is(photo_name: str, as_format: Format, name: str) -> None:
    assert file_name(facts(photo_name, as_format)) == name


def test_patterns_have_density_format_and_a_short_hash() -> None:
    name = file_name(facts("Cup.jpg"), "{name}-{density}-{format}-{hash}")
    assert name == "cup-1-5x-avif-01234567.avif"


@pytest.mark.parametrize(
    ("suffix", "ending"), [("", "1000"), ("Hero 2", "1000-Hero-2"), ("{x} {", "1000-x")]
)
def test_a_suffix_ends_the_names_of_a_pattern(suffix: str, ending: str) -> None:
    assert file_name(facts("Cup.jpg"), ending_in(DEFAULT_PATTERN, suffix)) == f"cup-{ending}.avif"
    with pytest.raises(UsageError):
        ending_in("{x}", suffix)


@given(NAMES, st.sampled_from(PATTERNS), st.sampled_from(FORMATS))
def test_names_are_safe_for_every_file_system_and_url(
    photo_name: str, pattern: str, as_format: Format
) -> None:
    name = file_name(facts(photo_name, as_format), pattern)
    stem, extension = name.rsplit(".", 1)
    assert f".{extension}" == EXTENSIONS[as_format][0]
    assert set(stem) <= SAFE
    assert stem[0] not in "-_@"
    assert stem.lower() not in DEVICES
    assert len(name) <= 115


@given(st.text(max_size=80) | HARD)
def test_own_names_are_made_safe_or_refused(text: str) -> None:
    try:
        name = own_name(text, "webp")
    except UsageError:
        return
    assert set(name.removesuffix(".webp")) <= SAFE
    assert name.removesuffix(".webp").lower() not in DEVICES


@given(st.text(max_size=300) | HARD)
def test_folders_stay_below_the_delivery(folder: str) -> None:
    safe = safe_folder(folder)
    assert not safe.startswith("/")
    assert all(part and set(part) <= SAFE for part in safe.split("/") if safe)
    assert not DEVICES & set(safe.split("/"))


@given(st.lists(st.sampled_from(["a.jpg", "A.jpg", "a-2.jpg", "b/a.jpg", "c.png"]), max_size=12))
def test_no_two_files_have_the_same_name_nor_that_of_an_original(paths: list[str]) -> None:
    taken = {"A.JPG", "b/a.jpg"}
    different = all_different(paths, taken)
    folded = [path.casefold() for path in different]
    assert len(set(folded)) == len(paths)
    assert not set(folded) & {path.casefold() for path in taken}
    suffixes = [(PurePosixPath(path).parent, PurePosixPath(path).suffix) for path in different]
    assert suffixes == [(PurePosixPath(p).parent, PurePosixPath(p).suffix) for p in paths]


@pytest.mark.parametrize(
    "pattern", ["", "{", "{0}", "{x}", "{name!r}", "{name:>9}", "{name.x}", "{name[0]}", "a" * 200]
)
def test_patterns_with_anything_else_are_refused(pattern: str) -> None:
    with pytest.raises(UsageError) as caught:
        checked_pattern(pattern)
    assert caught.value.code == "invalid_pattern"


def test_folders_are_eight_deep_at_most() -> None:
    assert safe_folder("/".join("abcdefghij")) == "a/b/c/d/e/f/g/h"


def test_capitals_stay_where_a_person_wrote_them() -> None:
    assert own_name("Hero Banner.JPG", "webp") == "Hero-Banner.webp"
    assert own_name("CON", "webp") == "CON-photo.webp"
    assert all_different(["Hero.webp", "hero.webp"], ()) == ["Hero.webp", "hero-2.webp"]
