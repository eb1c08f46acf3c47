from dataclasses import replace
from typing import Any

import pytest

from lean_parcel.core.decisions.aim import FIRST_AIM, Aim, TypedAim, typed_aim
from lean_parcel.core.errors import UsageError
from lean_parcel.core.framing.place import Place


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        ({"limit_bytes": 0}, "invalid_size"),
        ({"formats": ()}, "invalid_formats"),
        ({"formats": ("bmp",)}, "invalid_formats"),
    ],
)
def test_an_aim_that_makes_no_sense_is_refused(changes: dict[str, Any], code: str) -> None:
    with pytest.raises(UsageError) as caught:
        Aim(**{"place": Place(size="100"), "limit_bytes": 1000, **changes})
    assert caught.value.code == code


def test_a_limit_may_be_a_byte_or_a_terabyte() -> None:
    for limit_bytes in (1, 10**12):
        assert replace(FIRST_AIM, limit_bytes=limit_bytes).limit_bytes == limit_bytes
    with pytest.raises(UsageError) as caught:
        replace(FIRST_AIM, limit_bytes=10**12 + 1)
    assert caught.value.code == "invalid_size"


LIMIT, LOOKS = FIRST_AIM.limit_bytes, FIRST_AIM.likeness


@pytest.mark.parametrize(
    ("text", "limit_bytes", "likeness", "typed"),
    [
        ("200 kB", 200_000, LOOKS, "limit"),
        ("80", 80_000, LOOKS, "limit"),
        ("1.5 MB", 1_500_000, LOOKS, "limit"),
        ("900 B", 900, LOOKS, "limit"),
        ("likeness 80", LIMIT, 80.0, "likeness"),
        ("Likeness 72.5", LIMIT, 72.5, "likeness"),
        ("hard to spot", LIMIT, 80.0, "likeness"),
        ("best", LIMIT, None, "likeness"),
        ("80 kB, likeness 70", 80_000, 70.0, "both"),
        ("likeness 70,  80 kB", 80_000, 70.0, "both"),
        ("80 kB, best", 80_000, None, "both"),
        ("any, no visible change", None, 90.0, "both"),
        ("any", None, LOOKS, "limit"),
    ],
)
def test_an_aim_is_typed_as_bytes_a_likeness_or_both(
    text: str, limit_bytes: int | None, likeness: float | None, typed: str
) -> None:
    assert typed_aim(text) == TypedAim(
        limit_bytes=limit_bytes,
        likeness=likeness,
        has_limit=typed in ("limit", "both"),
        has_likeness=typed in ("likeness", "both"),
    )


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("lots", "invalid_size"),
        ("0 kB", "invalid_size"),
        ("80 kB, 90 kB", "invalid_size"),
        ("likeness 101", "invalid_likeness"),
        ("any, best", "nothing_aimed_for"),
    ],
)
def test_what_is_no_aim_is_refused(text: str, code: str) -> None:
    with pytest.raises(UsageError) as told:
        typed_aim(text)
    assert told.value.code == code
