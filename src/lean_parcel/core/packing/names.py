"""Safe names for files that leave the workspace."""

from pathlib import PurePath

from slugify import slugify

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.formats import EXTENSIONS, FORMAT_OF_EXTENSION

_MAX_STEM = 80


def safe_name(photo_name: str, trial: Trial, suffix: str = "") -> str:
    """A file name of lower-case ASCII letters, digits and hyphens that says the width in pixels:
    `Röte Tasse.jpg` as AVIF becomes `rote-tasse-1000.avif`; with a suffix
    `rote-tasse-1000-hero.avif`."""
    path = PurePath(photo_name)
    is_file_name = path.suffix.lower() in FORMAT_OF_EXTENSION
    stem = slugify(path.stem if is_file_name else photo_name, max_length=_MAX_STEM) or "photo"
    ending = f"-{slugify(suffix, max_length=_MAX_STEM)}" if slugify(suffix) else ""
    return f"{stem}-{trial.width_px}{ending}{EXTENSIONS[trial.settings.format][0]}"
