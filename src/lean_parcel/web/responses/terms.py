"""Words and choices that are the same for every photo."""

from pydantic import BaseModel

from lean_parcel.core.encoding.knobs import FormatKnobs
from lean_parcel.core.formats import Format
from lean_parcel.core.likeness.levels import Level


class FormatResponse(BaseModel):
    """A format that files are made in; a universal one opens in every browser and mail program."""

    format: Format
    name: str
    is_universal: bool


class TermsResponse(BaseModel):
    """All formats, the levels of likeness, best first, and whether the workspace can only be
    read."""

    formats: list[FormatResponse]
    likeness_levels: list[Level]
    is_read_only: bool


class KnobsResponse(BaseModel):
    """What can be changed in each format."""

    formats: tuple[FormatKnobs, ...]
