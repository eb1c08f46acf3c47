"""What tests hand over."""

from lean_parcel.core.formats import Format
from lean_parcel.core.packing.handed import HandedFile, HandedPhoto
from lean_parcel.core.packing.references.finding import OldPhoto


def handed_file(
    path: str, as_format: Format, density: float, stands_for_px: int, size_bytes: int = 9_000
) -> HandedFile:
    return HandedFile(
        path=path,
        format=as_format,
        density=density,
        stands_for_px=stands_for_px,
        width_px=stands_for_px,
        height_px=stands_for_px // 2,
        size_bytes=size_bytes,
    )


def handed(name: str = "new", **rest: object) -> HandedPhoto:
    """A photo in two densities, as AVIF and JPEG."""
    files = (
        handed_file(f"{name}-1440.avif", "avif", 2, 1440, 6_000),
        handed_file(f"{name}-1440.jpg", "jpeg", 2, 1440),
        handed_file(f"{name}-720.avif", "avif", 1, 720, 3_000),
        handed_file(f"{name}-720.jpg", "jpeg", 1, 720),
    )
    values = {"css_width_px": 720, "css_height_px": 360, "alt_text": "A cup", **rest}
    return HandedPhoto(files=files, **values)  # type: ignore[arg-type]


def old(name: str, folder: str = "", new: str = "new") -> OldPhoto:
    return OldPhoto(name=name, folder=folder, size_bytes=1_000, handed=handed(new))
