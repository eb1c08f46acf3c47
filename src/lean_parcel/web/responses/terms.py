"""Words and choices that are the same for every photo."""

from pydantic import BaseModel

from lean_parcel.core.damage.kinds import Kind
from lean_parcel.core.encoding.knobs import FormatKnobs
from lean_parcel.core.formats import Format
from lean_parcel.core.likeness.levels import Level


class FormatResponse(BaseModel):
    """A format that files are made in; a universal one opens in every browser and mail program."""

    format: Format
    name: str
    is_universal: bool


class KindResponse(BaseModel):
    """A kind of damage, and what it looks like."""

    kind: Kind
    name: str
    sentence: str


class TermsResponse(BaseModel):
    """All formats, the levels of likeness, best first, the kinds of damage, and whether the
    workspace can only be read."""

    formats: list[FormatResponse]
    likeness_levels: list[Level]
    damage_kinds: list[KindResponse]
    is_read_only: bool


class TypedAimResponse(BaseModel):
    """A limit, a likeness, or both, that were typed, and which of them was; what was not is as it
    is of a first photo."""

    limit_bytes: int | None
    likeness: float | None
    has_limit: bool
    has_likeness: bool


class TypedSizeResponse(BaseModel):
    """A size that was typed, in bytes."""

    size_bytes: int


class KnobsResponse(BaseModel):
    """What can be changed in each format."""

    formats: tuple[FormatKnobs, ...]
