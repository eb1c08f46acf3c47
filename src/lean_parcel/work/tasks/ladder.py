"""The task that measures the ladder of a framed photo."""

from lean_parcel.core.search.ladder import SearchInput
from lean_parcel.core.search.sizing import measured_input
from lean_parcel.work.tasks.encoder_input import EncoderInput, reference_of


def measure_ladder_task(encoder_input: EncoderInput, first: SearchInput) -> SearchInput:
    """What a search needs to know beyond the first encode: see `measured_input`."""
    return measured_input(reference_of(encoder_input), first)
