"""The settings of a page, and which of them a photo follows.

A photo follows its page in each setting that was not decided for it alone, also when the page's
changes later.
"""

from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import Any, get_args

from lean_parcel.core.decisions.aim import FIRST_AIM, check_aim, check_formats
from lean_parcel.core.decisions.state import Setting, State
from lean_parcel.core.decisions.treatment import Treatment
from lean_parcel.core.formats import Format
from lean_parcel.core.framing.framing import FIRST_FRAMING
from lean_parcel.core.framing.place import Place
from lean_parcel.core.metadata.policy import MetadataPolicy
from lean_parcel.core.original.picture_kind import formats_for
from lean_parcel.core.original.source import Source

#: All settings, in the order in which they are shown.
SETTINGS: tuple[Setting, ...] = get_args(Setting)


@dataclass(frozen=True, slots=True, kw_only=True)
class PageSettings:
    """What the photos of a page have that have nothing of their own: as in Place, Aim and Framing.
    Formats of None are those that suit each picture."""

    size: str = FIRST_AIM.place.size
    density: float = FIRST_AIM.place.density
    limit_bytes: int | None = FIRST_AIM.limit_bytes
    likeness: float | None = FIRST_AIM.likeness
    formats: tuple[Format, ...] | None = None
    metadata: MetadataPolicy = FIRST_FRAMING.metadata

    def __post_init__(self) -> None:
        place = Place(size=self.size, density=self.density)
        object.__setattr__(self, "size", place.size)
        check_aim(self.limit_bytes, self.likeness)
        if self.formats is not None:
            check_formats(self.formats)

    def values_for(self, source: Source) -> dict[Setting, Any]:
        """What each setting comes to of an original."""
        values = {name: getattr(self, name) for name in SETTINGS}
        return {**values, "formats": self.formats or formats_for(source)}


def values_of(state: State) -> dict[Setting, Any]:
    """What a photo has of each setting, its own or its page's."""
    aim = state.aim
    return {
        "size": aim.place.size,
        "density": aim.place.density,
        "limit_bytes": aim.limit_bytes,
        "likeness": aim.likeness,
        "formats": aim.formats,
        "metadata": state.framing.metadata,
    }


def treatment_of_page(settings: PageSettings) -> Treatment:
    """A treatment to begin with, that does what a page does."""
    return Treatment(
        framing=replace(FIRST_FRAMING, metadata=settings.metadata),
        aim=replace(
            FIRST_AIM,
            place=Place(size=settings.size, density=settings.density),
            limit_bytes=settings.limit_bytes,
            likeness=settings.likeness,
            formats=settings.formats or FIRST_AIM.formats,
        ),
    )


def settings_as(state: State, source: Source) -> PageSettings:
    """The settings of a page whose photos are as this one."""
    values = values_of(state)
    if values["formats"] == formats_for(source):
        values["formats"] = None
    return PageSettings(**values)


def following(
    state: State, settings: PageSettings, source: Source, names: Collection[Setting] = SETTINGS
) -> State:
    """A photo that follows its page in some settings, or in all. Raises a UsageError where they do
    not go with what it has of its own."""
    wanted = settings.values_for(source)
    values = {**values_of(state), **{name: wanted[name] for name in names}}
    place = replace(state.aim.place, size=values["size"], density=values["density"])
    aim = replace(
        state.aim,
        place=place,
        limit_bytes=values["limit_bytes"],
        likeness=values["likeness"],
        formats=values["formats"],
    )
    framing = replace(state.framing, metadata=values["metadata"])
    follows = in_order({*state.follows, *names})
    return replace(state, framing=framing, aim=aim, follows=follows)


def still_following(before: State, after: State) -> State:
    """The state after an act, which follows its page in what the act left as it was."""
    had, has = values_of(before), values_of(after)
    kept = [name for name in before.follows if had[name] == has[name]]
    return replace(after, follows=in_order(kept))


def as_the_page(state: State, settings: PageSettings, source: Source) -> State:
    """A photo that follows its page in all that it has as the page has it."""
    wanted, has = settings.values_for(source), values_of(state)
    same = [name for name in SETTINGS if has[name] == wanted[name]]
    return replace(state, follows=in_order(same))


def in_order(names: Collection[Setting]) -> tuple[Setting, ...]:
    """Settings in the order in which they are shown, each once."""
    return tuple(name for name in SETTINGS if name in names)
