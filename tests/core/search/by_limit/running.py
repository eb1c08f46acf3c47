"""Running a search by limit."""

from lean_parcel.core.candidates.trial import Candidate, Measured, Trial
from lean_parcel.core.formats import Format
from lean_parcel.core.search.by_limit.search import search_by_limit
from lean_parcel.core.search.ladder import SearchInput
from tests.core.search.fake_encoder import (
    SEARCH_INPUT,
    Encoder,
    carry_out,
    fake_encoder,
)


def run(
    name: Format,
    limit_bytes: int,
    encoder: Encoder = fake_encoder,
    search_input: SearchInput = SEARCH_INPUT,
) -> tuple[Candidate, dict[Trial, Measured]]:
    """A search's candidate, and everything it had encoded."""
    return carry_out(search_by_limit(name, search_input, limit_bytes, "#ffffff"), encoder)
