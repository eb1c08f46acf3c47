"""The photos of a run as a packing list has them."""

import hashlib
from collections.abc import Sequence
from dataclasses import asdict

from lean_parcel.core.encoding.settings import settings_values
from lean_parcel.work.delivery.packing_list import ListedDamage, ListedFile, ListedPhoto, OldFile
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
        name=source.path.stem,
        old=OldFile(
            name=source.path.name,
            folder="/".join(source.folder.parts),
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
    trial, measured, aim = file.option.trial, file.option.measured, file.aim
    return ListedFile(
        path=path,
        format=trial.settings.format,
        density=aim.place.density,
        stands_for_px=file.plan.width_px,
        width_px=trial.width_px,
        height_px=trial.height_px,
        size_bytes=len(file.data),
        sha256=hashlib.sha256(file.data).hexdigest(),
        is_pick=file.is_pick,
        limit_bytes=aim.limit_bytes if aim.likeness is None else None,
        least_likeness=aim.likeness,
        meets_aim=file.meets_aim,
        likeness=round(measured.likeness, 3),
        worst=ListedDamage(**asdict(file.worst)),
        settings=settings_values(trial.settings),
    )
