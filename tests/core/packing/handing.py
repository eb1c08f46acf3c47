"""What tests hand over."""

from lean_parcel.core.formats import Format
from lean_parcel.core.packing.handed import HandedFile, HandedPhoto
from lean_parcel.core.packing.references.finding import OldPhoto


def handed_file(
    path: str, as_format: Format, density: float, stands_for_px: int, size_bytes: int = 9_000
) -> HandedFile:
    """A file of four fifths of the pixels that it stands for."""
    return HandedFile(
        path=path,
        format=as_format,
        density=density,
        stands_for_px=stands_for_px,
        width_px=stands_for_px * 4 // 5,
        height_px=stands_for_px * 2 // 5,
        size_bytes=size_bytes,
    )


def handed(name: str = "new", **rest: object) -> HandedPhoto:
    """A photo that is shown 480 pixels wide, in two densities, as AVIF and JPEG. What it is called
    by, what it stands for, what is sent and what is shown are all different widths."""
    files = (
        handed_file(f"{name}-1440.avif", "avif", 3, 1440, 6_000),
        handed_file(f"{name}-1440.jpg", "jpeg", 3, 1440),
        handed_file(f"{name}-720.avif", "avif", 1.5, 720, 3_000),
        handed_file(f"{name}-720.jpg", "jpeg", 1.5, 720),
    )
    values = {
        "files": files,
        "css_width_px": 480,
        "css_height_px": 240,
        "density": 1.5,
        "alt_text": "A cup",
        **rest,
    }
    return HandedPhoto(**values)  # type: ignore[arg-type]


def old(name: str, folder: str = "", new: str = "new") -> OldPhoto:
    return OldPhoto(name=name, folder=folder, size_bytes=1_000, handed=handed(new))
