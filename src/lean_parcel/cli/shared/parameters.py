"""What the commands share: parameter types and exit statuses."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import click

from lean_parcel.core.decisions.aim import typed_likeness
from lean_parcel.core.errors import LeanParcelError, UsageError
from lean_parcel.core.formats import FORMATS, Format
from lean_parcel.core.framing.dimensions import typed_dimensions
from lean_parcel.core.size import parse_size

#: What spends a limit to its end.
BEST = "best"
#: Exit statuses: 0 is success, and 2 wrong usage, which click gives.
UNREADABLE_STATUS = 3
LIMIT_NOT_MET_STATUS = 4

workspace_option = click.option(
    "--workspace",
    "path",
    type=click.Path(path_type=Path, dir_okay=False),
    help="The SQLite file that keeps everything; one in the user's own folder by default.",
)


def own_workspace(name: str = "workspace") -> Path:
    """A workspace in the user's own folder."""
    return Path(click.get_app_dir("lean-parcel")) / f"{name}.sqlite3"


@contextmanager
def told() -> Iterator[None]:
    """Tells what is refused, in its own words."""
    try:
        yield
    except (LeanParcelError, OSError) as error:
        raise click.ClickException(str(error)) from error


class SizeType(click.ParamType[int]):
    """A byte size like `80kB`."""

    name = "size"

    def convert(
        self, value: str | int, param: click.Parameter | None, ctx: click.Context | None
    ) -> int:
        """Whole bytes."""
        try:
            return parse_size(str(value))
        except UsageError as error:
            self.fail(error.message, param, ctx)


class DimensionsType(click.ParamType[str]):
    """How large a photo stands, like `1200`, `600x450` or `60 %`."""

    name = "size"

    def convert(self, value: str, param: click.Parameter | None, ctx: click.Context | None) -> str:
        """The size as it is shown."""
        try:
            return str(typed_dimensions(value))
        except UsageError as error:
            self.fail(error.message, param, ctx)


size_option = click.option(
    "--size",
    type=DimensionsType(),
    help="How large it stands: 1200, 600x450, '60 %', 'as it came'.",
)
width_option = click.option("--width", type=int, help="The same in CSS pixels across.")


def size_of(size: str | None, width: int | None) -> str | None:
    """The size of two options, of which one may be given. Raises click.UsageError."""
    if size is not None and width is not None:
        raise click.UsageError("--width is a --size: give one of them.")
    return size if width is None else f"{width} px"


class LooksType(click.ParamType[float | str]):
    """A likeness like `90`, the words for one, or `best` for as good as the limit allows."""

    name = "likeness"

    def convert(
        self, value: str | float, param: click.Parameter | None, ctx: click.Context | None
    ) -> float | str:
        """The likeness, or BEST: None would be an option that was not given."""
        try:
            likeness = typed_likeness(str(value))
        except UsageError as error:
            self.fail(error.message, param, ctx)
        return BEST if likeness is None else likeness


def likeness_of(looks: float | str) -> float | None:
    """The likeness of an aim."""
    return None if isinstance(looks, str) else looks


class FormatsType(click.ParamType[tuple[Format, ...]]):
    """Formats by name, with commas between them."""

    name = "formats"

    def convert(
        self,
        value: str | tuple[Format, ...],
        param: click.Parameter | None,
        ctx: click.Context | None,
    ) -> tuple[Format, ...]:
        """Formats in our order, each once."""
        names = value.split(",") if isinstance(value, str) else value
        wanted = {name.strip().lower() for name in names}
        unknown = wanted - set(FORMATS)
        if unknown:
            self.fail(
                f"{', '.join(sorted(unknown))!r} is not among {', '.join(FORMATS)}.", param, ctx
            )
        return tuple(name for name in FORMATS if name in wanted)


class DensitiesType(click.ParamType[tuple[float, ...]]):
    """Densities like `1,2`, with commas between them."""

    name = "densities"

    def convert(
        self,
        value: str | tuple[float, ...],
        param: click.Parameter | None,
        ctx: click.Context | None,
    ) -> tuple[float, ...]:
        """Densities, each once, rising."""
        parts = value.split(",") if isinstance(value, str) else value
        try:
            return tuple(sorted({float(str(part).strip().rstrip("x")) for part in parts}))
        except ValueError:
            self.fail(f"{value!r} is not a list of densities like 1,2.", param, ctx)
