"""What came of the photos of a batch, as a table for other programs: CSV as RFC 4180 has it."""

import csv
import io
import re
from collections.abc import Iterable

from lean_parcel.core.damage.found import Worst
from lean_parcel.core.damage.kinds import KIND_NAMES, NOT_SEEN, level_of
from lean_parcel.work.pages.viewing import PagePhoto

HEADINGS = ("photo", "old bytes", "new bytes", "ratio", "likeness", "worst damage", "state")
#: What a spreadsheet would take for the beginning of a formula.
_FORMULA = re.compile(r"[=+\-@\t\r]")


def batch_csv(photos: Iterable[PagePhoto]) -> str:
    """A line a photo, under headings; what begins like a formula is disarmed by an apostrophe."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEADINGS)
    writer.writerows(_line(each) for each in photos)
    return out.getvalue()


def _line(photo: PagePhoto) -> list[str | int]:
    made, old_bytes = photo.pick or photo.best, photo.photo.source.size_bytes
    figures: list[str | int] = ["", "", "", ""]
    if made:
        size_bytes, likeness = made.measured.size_bytes, made.measured.likeness
        ratio = f"{old_bytes / size_bytes:.2f}"
        figures = [size_bytes, ratio, f"{likeness:.2f}", _worst_words(made.worst)]
    return [_disarmed(photo.name), old_bytes, *figures, _disarmed(photo.came_to)]


def _worst_words(worst: Worst | None) -> str:
    if worst is None:
        return ""
    return f"{level_of(worst.strength)} {KIND_NAMES[worst.kind]}" if worst.kind else NOT_SEEN


def _disarmed(text: str) -> str:
    return f"'{text}" if _FORMULA.match(text) else text
