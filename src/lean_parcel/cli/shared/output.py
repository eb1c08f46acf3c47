"""Writing candidates to a folder, under safe names, without harm to what is there."""

import hashlib
from collections.abc import Sequence
from pathlib import Path

import click

from lean_parcel.core.packing.names import FileFacts, as_text, file_name, name_key, numbered
from lean_parcel.work.delivery.writing import write_whole
from lean_parcel.work.packing.one_file import FileFit, Offer


class OutputFolder:
    """The folder of `--out`. Sources are never overwritten, files of this run neither, and other
    files only where `replace` is set."""

    def __init__(self, folder: Path, sources: Sequence[Path], *, replace: bool) -> None:
        self._folder = folder
        self._sources = {name_key(path.resolve()) for path in sources}
        self._replace = replace
        self._written: set[Path] = set()
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise click.UsageError(f"{folder} cannot be made: {error.strerror}.") from error

    def write(self, result: FileFit, photo: Path, *, write_all: bool) -> dict[int, Path]:
        """Writes the pick, or every candidate, and returns the paths by index; a file that was kept
        in the way is said on stderr and has no path."""
        paths: dict[int, Path] = {}
        for index, offer in enumerate(result.offers):
            if not (write_all or index == result.pick):
                continue
            path = numbered(self._folder / _name(photo, offer), self._written.__contains__)
            if name_key(path.resolve()) in self._sources or (path.exists() and not self._replace):
                click.echo(as_text(f"{path} is there already and was kept."), err=True)
                continue
            _write(path, offer.data)
            self._written.add(path)
            paths[index] = path
        return paths


def _name(photo: Path, offer: Offer) -> str:
    trial = offer.encode.trial
    facts = FileFacts(
        photo_name=photo.name,
        format=trial.settings.format,
        width_px=trial.width_px,
        density=1.0,
        sha256=hashlib.sha256(offer.data).hexdigest(),
    )
    return file_name(facts)


def _write(path: Path, data: bytes) -> None:
    try:
        write_whole(path, data)
    except OSError as error:
        raise click.FileError(str(path), error.strerror) from error
