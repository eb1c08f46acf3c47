"""Values of earlier versions as they are now: in workspaces, and in files of treatments."""

from typing import Any

from lean_parcel.core.framing.dimensions import CSS_DPI, typed_dimensions

_A_INCH = {"cm": 2.54, "in": 1.0}


def with_one_size(value: Any) -> Any:
    """JSON values of photos, treatments and places, in which a place had CSS pixels and a framing a
    size of its own, with the one size that they came to. Others stay as they are."""
    if isinstance(value, list):
        return [with_one_size(each) for each in value]
    if not isinstance(value, dict):
        return value
    if "framing" in value and _has_earlier_place(value.get("aim")):
        return _together({name: with_one_size(each) for name, each in value.items()}, value)
    if _has_earlier_place(value):
        return {**value, "place": _place(value["place"], _standing(value["place"]))}
    return {name: with_one_size(each) for name, each in value.items()}


def _has_earlier_place(value: Any) -> bool:
    place = value.get("place") if isinstance(value, dict) else None
    return isinstance(place, dict) and "css_width_px" in place


def _together(now: dict[str, Any], earlier: dict[str, Any]) -> dict[str, Any]:
    """A framing and an aim that belong together: the size of the one is now that of the other."""
    framing, place = dict(earlier["framing"]), earlier["aim"]["place"]
    size = _size(framing.pop("size", {}), place)
    aim = {**now["aim"], "place": _place(place, size)}
    if typed_dimensions(size).is_exact:  # files with fewer pixels were offered too
        aim["fewer_pixels"] = True
    return {**now, "framing": framing, "aim": aim}


def _place(earlier: dict[str, Any], size: str) -> dict[str, Any]:
    rest = {name: earlier[name] for name in earlier.keys() & {"density", "pixel_by_pixel"}}
    return {"size": size, **rest}


def _standing(place: dict[str, Any]) -> str:
    """The size of a place, as it would be typed."""
    width_px, height_px = place["css_width_px"], place.get("css_height_px")
    if height_px is None:
        return f"{width_px} px"
    return f"{width_px} × {height_px} px{_fit(place)}"


def _size(size: dict[str, Any], place: dict[str, Any]) -> str:
    """The same of a photo, which has as many pixels as before."""
    way = size.get("by", "place")
    if way == "place":
        return _standing(place)
    if way == "percent":
        return f"{size['percent']:.6g} %"
    unit, dpi = size.get("unit", "px"), size.get("dpi", CSS_DPI)
    a_px = 1 / place.get("density", 1.0) if unit == "px" else _A_INCH[unit] / dpi
    at = "" if unit == "px" else f" at {dpi:.6g} dpi"
    names = {"box": ("width_px", "height_px"), "longest": ("longest_px",)}
    sides = [size[name] * a_px for name in names.get(way, (f"{way}_px",))]
    words = " × ".join(f"{side:.6g}" for side in sides)
    which = {"width": " wide", "height": " high", "longest": " long"}.get(way, "")
    return f"{words} {unit}{which}{at}{_fit(size) if way == 'box' else ''}"


def _fit(value: dict[str, Any]) -> str:
    return " contained" if value.get("fit") == "contain" else ""
