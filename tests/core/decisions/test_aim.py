from typing import Any

import pytest

from lean_parcel.core.decisions.aim import Aim
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
        Aim(**{"place": Place(css_width_px=100), "limit_bytes": 1000, **changes})
    assert caught.value.code == code
