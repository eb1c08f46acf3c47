"""The task that examines one file beside another."""

from lean_parcel.core.damage.examine import Damage, Examiner
from lean_parcel.core.likeness.reference import Reference
from lean_parcel.core.original.photo import open_pixels
from lean_parcel.core.original.source import Limits


def damage_task(
    reference: bytes, reference_name: str, candidate: bytes, candidate_name: str, limits: Limits
) -> Damage:
    """The damage of one file beside another of the same shape. Raises a PhotoError or
    UsageError."""
    original = open_pixels(reference, reference_name, limits)
    return Examiner(Reference(original)).examine(open_pixels(candidate, candidate_name, limits))
