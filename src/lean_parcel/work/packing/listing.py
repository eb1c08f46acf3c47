"""The photos of a run as a packing list has them."""

from collections.abc import Sequence

from lean_parcel.core.packing.names import as_text
from lean_parcel.work.delivery.packing_list import (
    ListedFile,
    ListedPhoto,
    OldFile,
    listed_file,
)
from lean_parcel.work.packing.photo import Original, Treating
from lean_parcel.work.packing.variants import MadeFile


def listed_photo(
    original: Original,
    treating: Treating,
    files: Sequence[MadeFile],
    paths: Sequence[str],
    credit: str,
) -> ListedPhoto:
    """A photo with its files, which are at these paths below the folder of the run."""
    source, width_px = original.source, treating.aim.place.css_width_px
    share = files[0].plan.height_px / files[0].plan.width_px if files else 1.0
    return ListedPhoto(
        name=as_text(source.path.stem),
        old=OldFile(
            name=as_text(source.path.name),
            folder=as_text("/".join(source.folder.parts)),
            size_bytes=len(original.data),
            sha256=original.sha256,
        ),
        framing=treating.framing,
        css_width_px=width_px,
        css_height_px=max(1, round(width_px * share)),
        credit=credit,
        files=[_listed_file(file, path) for file, path in zip(files, paths, strict=True)],
    )


def _listed_file(file: MadeFile, path: str) -> ListedFile:
    return listed_file(
        path,
        file.data,
        trial=file.option.trial,
        likeness=file.option.measured.likeness,
        aim=file.aim,
        plan=file.plan,
        worst=file.worst,
        is_pick=file.is_pick,
    )
