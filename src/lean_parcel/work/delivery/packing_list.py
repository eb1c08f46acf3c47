"""Packing lists: what was handed over and how each file came about, as JSON in an open format with
a published schema (docs/packing-list.schema.json), and as HTML for people.

`python -m lean_parcel.work.delivery.packing_list` prints the schema; a test fails where it has
drifted.
"""

import hashlib
import json
from dataclasses import asdict, fields
from importlib import resources
from pathlib import PurePosixPath
from typing import Any, Literal

from jinja2 import Environment
from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from lean_parcel.core.candidates.trial import Trial
from lean_parcel.core.damage.found import Worst
from lean_parcel.core.damage.kinds import KIND_NAMES, Kind
from lean_parcel.core.decisions.aim import Aim
from lean_parcel.core.encoding.settings import setting_words, settings_from, settings_values
from lean_parcel.core.errors import UsageError
from lean_parcel.core.formats import FORMAT_NAMES, Format
from lean_parcel.core.framing.framing import Framing
from lean_parcel.core.framing.plan import Plan
from lean_parcel.core.likeness.levels import likeness_words
from lean_parcel.core.packing.handed import FetchPriority, HandedFile, HandedPhoto, Loading
from lean_parcel.core.packing.references.finding import OldPhoto
from lean_parcel.core.size import format_size

LIST_NAME, HTML_NAME = "packing-list.json", "packing-list.html"
_TEMPLATE = "packing_list.html"
_HANDED_FIELDS = [field.name for field in fields(HandedFile)]


class ListedDamage(BaseModel):
    """The worst damage that was found, and its strength from 0 to 100; of no kind where none is
    seen."""

    kind: Kind | None
    strength: float


class ListedFile(BaseModel):
    """A file that was handed over, at a path below the folder of the list. It stands for so many
    pixels across at a density of its place. `limit_bytes` or `least_likeness` is what it was made
    for, and `is_pick` marks the one that was taken by a person."""

    path: str
    format: Format
    density: float
    stands_for_px: int
    width_px: int
    height_px: int
    size_bytes: int
    sha256: str
    is_pick: bool
    limit_bytes: int | None
    least_likeness: float | None
    meets_aim: bool
    likeness: float
    worst: ListedDamage | None
    settings: dict[str, Any]

    @field_validator("path")
    @classmethod
    def _is_inside(cls, path: str) -> str:
        parts = PurePosixPath(path).parts
        is_inside = bool(parts) and not path.startswith("/") and ".." not in parts
        if not is_inside or any(character in path for character in '\\\0:"'):
            raise ValueError("a path stays inside the folder")
        return path


def listed_file(
    path: str,
    data: bytes,
    *,
    trial: Trial,
    likeness: float,
    aim: Aim,
    plan: Plan,
    worst: Worst | None,
    is_pick: bool,
) -> ListedFile:
    """A file as it is listed: its bytes as they go out, how they were made, and for which aim."""
    return ListedFile(
        path=path,
        format=trial.settings.format,
        density=aim.place.density,
        stands_for_px=plan.width_px,
        width_px=trial.width_px,
        height_px=trial.height_px,
        size_bytes=len(data),
        sha256=hashlib.sha256(data).hexdigest(),
        is_pick=is_pick,
        limit_bytes=aim.limit_bytes if aim.likeness is None else None,
        least_likeness=aim.likeness,
        meets_aim=aim.is_met_by(len(data), likeness),
        likeness=round(likeness, 3),
        worst=ListedDamage(**asdict(worst)) if worst else None,
        settings=settings_values(trial.settings),
    )


class OldFile(BaseModel):
    """The original, as the site has it: references name it."""

    name: str
    folder: str
    size_bytes: int
    sha256: str


class ListedPhoto(BaseModel):
    """A photo: its old file, how it was framed, how it stands in page code, and its files, the pick
    first. A `reason` says why the pick stands over its limit."""

    name: str
    old: OldFile
    framing: Framing
    css_width_px: int
    css_height_px: int
    alt_text: str | None = None
    credit: str = ""
    loading: Loading = "lazy"
    fetch_priority: FetchPriority = "auto"
    sizes: str = ""
    reason: str = ""
    files: list[ListedFile]

    @property
    def handed(self) -> HandedPhoto:
        """What page code needs to know."""
        return HandedPhoto(
            files=tuple(
                HandedFile(**{name: getattr(file, name) for name in _HANDED_FIELDS})
                for file in self.files
            ),
            css_width_px=self.css_width_px,
            css_height_px=self.css_height_px,
            alt_text=self.alt_text,
            credit=self.credit,
            loading=self.loading,
            fetch_priority=self.fetch_priority,
            sizes=self.sizes,
        )


class PackingList(BaseModel):
    """A packing list of Lean Parcel. The budget is for the picks of all photos together;
    `left_out` names photos of which nothing was taken, and files that could not be made."""

    model_config = ConfigDict(title="Lean Parcel packing list")

    kind: Literal["lean-parcel-packing-list"] = "lean-parcel-packing-list"
    version: Literal[1] = 1
    page: str
    path_prefix: str = ""
    budget_bytes: int | None = None
    photos: list[ListedPhoto] = Field(max_length=100_000)
    left_out: list[str] = []

    @property
    def files(self) -> list[ListedFile]:
        """The files of all photos."""
        return [file for photo in self.photos for file in photo.files]

    @property
    def picked_bytes(self) -> int:
        """What the picks come to."""
        return sum(file.size_bytes for file in self.files if file.is_pick)

    @property
    def old_bytes(self) -> int:
        """What the originals come to."""
        return sum(photo.old.size_bytes for photo in self.photos)

    def old_photos(self) -> list[OldPhoto]:
        """The photos as old references name them."""
        return [
            OldPhoto(
                name=photo.old.name,
                folder=photo.old.folder,
                size_bytes=photo.old.size_bytes,
                handed=photo.handed,
            )
            for photo in self.photos
            if photo.files
        ]


def read_packing_list(text: str | bytes) -> PackingList:
    """A packing list from its JSON. Raises UsageError `invalid_packing_list`, with the field that
    is wrong."""
    try:
        return PackingList.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "the file"
        message = f"This is no packing list: {where}: {first['msg']}."
        raise UsageError(message, "invalid_packing_list") from error


def packing_list_json(listed: PackingList) -> str:
    """The list for machines."""
    return listed.model_dump_json(indent=1) + "\n"


def packing_list_html(listed: PackingList) -> str:
    """The list for people, which shows the files beside it."""
    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    environment.filters["size"] = format_size
    source = resources.files("lean_parcel.work.delivery") / _TEMPLATE
    template = environment.from_string(source.read_text(encoding="utf-8"))
    return template.render(
        listed=listed,
        format_names=FORMAT_NAMES,
        kind_names=KIND_NAMES,
        likeness_words=likeness_words,
        setting_words=lambda values: setting_words(settings_from(values)),
    )


def schema() -> str:
    """The JSON schema of packing lists."""
    return json.dumps(PackingList.model_json_schema(), indent=2)


if __name__ == "__main__":
    print(schema())
