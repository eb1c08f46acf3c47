"""Packing lists: what was handed over and how each file came about, as JSON in an open format with
a published schema (docs/packing-list.schema.json), and as HTML for people.

`python -m lean_parcel.work.delivery.packing_list` prints the schema; a test fails where it has
drifted.
"""

import hashlib
import json
from dataclasses import asdict, fields
from importlib import resources
from pathlib import Path
from typing import Annotated, Any, Literal

from jinja2 import Environment
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

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
from lean_parcel.core.packing.names import CONTROL, as_text, is_safe_path
from lean_parcel.core.packing.page_code import checked_prefix
from lean_parcel.core.packing.references.finding import OldPhoto
from lean_parcel.core.page.totals import Fetched, Totals, total
from lean_parcel.core.size import format_size

LIST_NAME, HTML_NAME = "packing-list.json", "packing-list.html"
_TEMPLATE = "packing_list.html"
_HANDED_FIELDS = [field.name for field in fields(HandedFile)]
#: Lists of earlier versions have no mark.
_MARKS = (b'<meta name="generator" content="Lean Parcel">', b"<title>Packing list: ")


def _without_control(text: str) -> str:
    if CONTROL.search(text):
        raise ValueError("a text has no control characters")
    return text


def _inside(path: str) -> str:
    if not is_safe_path(path):
        raise ValueError("a path has safe names only, inside the folder")
    return path


def _prefix(prefix: str) -> str:
    try:
        return checked_prefix(prefix)
    except UsageError as error:
        raise ValueError(error.message) from error


#: A list may come from anywhere: what is written into pages and terminals is held to the rules of
#: our own names.
SafePath = Annotated[str, AfterValidator(_inside)]
Prefix = Annotated[str, AfterValidator(_prefix)]
Text = Annotated[str, AfterValidator(_without_control)]


class ListedDamage(BaseModel):
    """The worst damage that was found, and its strength from 0 to 100; of no kind where none is
    seen."""

    kind: Kind | None
    strength: float


class ListedFile(BaseModel):
    """A file that was handed over, at a path below the folder of the list. It stands for so many
    pixels across at a density of its place. It was made for at most `limit_bytes`, and no
    more than it takes for `least_likeness`, where those are set; `is_pick` marks the one that was
    taken by a person."""

    path: SafePath
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
        limit_bytes=aim.limit_bytes,
        least_likeness=aim.likeness,
        meets_aim=aim.is_met_by(len(data), likeness),
        likeness=round(likeness, 3),
        worst=ListedDamage(**asdict(worst)) if worst else None,
        settings=settings_values(trial.settings),
    )


class OldFile(BaseModel):
    """The original, as the site has it: references name it."""

    name: Text
    folder: Text
    size_bytes: int
    sha256: str


class ListedPhoto(BaseModel):
    """A photo: its old file, how it was framed, its size as it was typed, how it stands in page
    code, the usual density of screens (that of the pick in lists of earlier versions), and its
    files, the densest first. A `reason` says why the pick stands over its limit.
    `earlier_files` are there from earlier runs, and stand in no page code."""

    name: Text
    old: OldFile
    framing: Framing
    size: Text = ""
    css_width_px: int
    css_height_px: int
    density: float | None = None
    alt_text: str | None = None
    credit: str = ""
    loading: Loading = "lazy"
    fetch_priority: FetchPriority = "auto"
    sizes: str = ""
    reason: Text = ""
    files: list[ListedFile]
    earlier_files: list[ListedFile] = []

    @property
    def fetched(self) -> Fetched:
        """What is fetched of the photo in a page."""
        return Fetched.of(self.handed, self.old.size_bytes)

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
            density=self.density or next(file.density for file in self.files if file.is_pick),
            alt_text=self.alt_text,
            credit=self.credit,
            loading=self.loading,
            fetch_priority=self.fetch_priority,
            sizes=self.sizes,
        )


class PackingList(BaseModel):
    """A packing list of Lean Parcel. The budget is for what a browser of today fetches of all
    photos together; `left_out` names photos of which nothing was taken, and files that could not be
    made or were no lighter than one that more programs open. Only a delivery with the same
    `delivery_id` takes the place of one that was written before."""

    model_config = ConfigDict(title="Lean Parcel packing list")

    kind: Literal["lean-parcel-packing-list"] = "lean-parcel-packing-list"
    version: Literal[1] = 1
    delivery_id: str | None = None
    page: Text
    path_prefix: Prefix = ""
    budget_bytes: int | None = None
    photos: list[ListedPhoto] = Field(max_length=100_000)
    left_out: list[Text] = []

    @property
    def files(self) -> list[ListedFile]:
        """The files of all photos, those of earlier runs last."""
        now = [file for photo in self.photos for file in photo.files]
        return [*now, *(file for photo in self.photos for file in photo.earlier_files)]

    @property
    def totals(self) -> Totals:
        """What the photos come to."""
        return total((photo.fetched for photo in self.photos if photo.files), self.budget_bytes)

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
        where = as_text(".".join(str(part) for part in first["loc"])) or "the file"
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


def is_list_html(path: Path) -> bool:
    """Whether a file is a list for people that was written here. Raises OSError."""
    with path.open("rb") as file:
        head = file.read(1_000)
    return any(mark in head for mark in _MARKS)


def schema() -> str:
    """The JSON schema of packing lists."""
    return json.dumps(PackingList.model_json_schema(), indent=2)


if __name__ == "__main__":
    print(schema())
