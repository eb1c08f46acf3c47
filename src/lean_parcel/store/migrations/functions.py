"""What migrations call that SQL cannot do, as functions of their connection."""

import hashlib
import json
import sqlite3
from functools import lru_cache
from typing import Any

from lean_parcel.core.decisions.earlier import with_one_size
from lean_parcel.core.decisions.page_settings import SETTINGS, PageSettings
from lean_parcel.core.encoding.settings import background_of, settings_from
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.metadata import embed
from lean_parcel.core.picture.gamut import Gamut
from lean_parcel.core.picture.serialisation import decode


def add_functions(connection: sqlite3.Connection) -> None:
    """Makes the functions known to a connection."""
    functions = (
        ("bare", 2, _bare),
        ("container_bytes", 2, _container_bytes),
        ("sha256", 1, _hash),
        ("judged_density", 4, _judged_density),
        ("likeness_of", 5, _likeness),
        ("without_remembered_limits", 1, _without_remembered_limits),
        ("with_one_size", 1, _with_one_size),
        ("with_page_settings", 1, _with_page_settings),
        ("with_follows", 4, _with_follows),
    )
    for name, count, function in functions:
        connection.create_function(name, count, function, deterministic=True)


def _bare(data: bytes, name: Format) -> bytes | None:
    """A file without metadata; NULL where it cannot be taken out."""
    try:
        return embed.stripped(data, name)
    except ValueError:
        return None


def _container_bytes(data: bytes, name: Format) -> int:
    try:
        return embed.container_bytes(data, name)
    except ValueError:
        return 0


def _hash(data: bytes | None) -> str | None:
    return None if data is None else hashlib.sha256(data).hexdigest()


def _judged_density(state: str, density: float, width_px: int, height_px: int) -> float:
    """How many pixels of a picture are judged as a CSS pixel, of a photo's state; at a density
    beside its own where that is not 0."""
    place = json.loads(state)["aim"]["place"]
    if place.get("pixel_by_pixel"):
        return 1.0
    judged: float = width_px / place["css_width_px"]
    if place.get("css_height_px"):
        tighter = max if place.get("fit") == "contain" else min
        judged = tighter(judged, height_px / place["css_height_px"])
    most: float = density or place.get("density", 1.0)
    return round(max(1.0, min(judged, most)), 2)


def _with_one_size(state: str) -> str:
    return json.dumps(with_one_size(json.loads(state)), ensure_ascii=False)


def _with_page_settings(layout: str) -> str:
    """A layout whose pages have settings, with the aim for all where they had one."""
    values = json.loads(layout)
    for page in values.get("pages", ()):
        page["settings"] = page.pop("default", None) or {}
    return json.dumps(values, ensure_ascii=False)


def _with_follows(state: str, photo_id: int, is_photograph: int | None, layout: str) -> str:
    """A photo's state that follows its page, in the layout as it is now, in all that is the same;
    its aim where it followed that before, if the page had one."""
    values = json.loads(state)
    followed = values.pop("follows_page", False)
    settings, has_aim = _settings_of(layout).get(photo_id, (PageSettings(), False))
    aim, framing = values.get("aim", {}), values.get("framing", {})
    place = aim.get("place", {})
    by_picture = [name for name in FORMATS if name != "png" or not is_photograph]
    same = {
        "size": place.get("size") == settings.size,
        "density": place.get("density", 1.0) == settings.density,
        "limit_bytes": followed if has_aim else aim.get("limit_bytes") == settings.limit_bytes,
        "likeness": followed if has_aim else aim.get("likeness") == settings.likeness,
        "formats": aim.get("formats", [*FORMATS]) == by_picture,
        "metadata": framing.get("metadata", Framing().metadata) == settings.metadata,
    }
    values["follows"] = [name for name in SETTINGS if same[name]]
    return json.dumps(values, ensure_ascii=False)


@lru_cache(maxsize=1)
def _settings_of(layout: str) -> dict[int, tuple[PageSettings, bool]]:
    """The settings of each photo's page, and whether it had an aim for all."""
    return {
        spot["photo_id"]: (PageSettings(**page["settings"]), bool(page["settings"]))
        for page in json.loads(layout).get("pages", ())
        for spot in page["spots"]
    }


def _likeness(pixels: bytes, file: bytes, settings: str, gamut: Gamut, density: float) -> float:
    """The likeness of a file to the framed pixels that it was made of."""
    background = background_of(settings_from(json.loads(settings)))
    return Reference(decode(pixels), gamut, density).likeness(decode(file), background)


def _without_remembered_limits(state: str) -> str:
    """A state whose aims have no limit beside a likeness."""

    def looked_at(value: Any) -> Any:
        if isinstance(value, list):
            return [looked_at(each) for each in value]
        if not isinstance(value, dict):
            return value
        within = {name: looked_at(each) for name, each in value.items()}
        if within.get("likeness") is not None and "limit_bytes" in within:
            within["limit_bytes"] = None
        return within

    return json.dumps(looked_at(json.loads(state)), ensure_ascii=False)
