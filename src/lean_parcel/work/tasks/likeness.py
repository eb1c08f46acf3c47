"""The task that compares two files."""

from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits


def likeness_task(
    reference: bytes, reference_name: str, candidate: bytes, candidate_name: str, limits: Limits
) -> float:
    """The likeness of one file to another of the same shape. Raises a PhotoError or UsageError."""
    original = open_pixels(reference, reference_name, limits)
    return Reference(original).likeness(open_pixels(candidate, candidate_name, limits))
