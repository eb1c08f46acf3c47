"""Errors cross process borders as they are."""

import pickle
from collections.abc import Iterator

import pytest

from lean_parcel.core.errors import LeanParcelError, StorageError, UsageError


def kinds(kind: type[LeanParcelError] = LeanParcelError) -> Iterator[type[LeanParcelError]]:
    yield kind
    for each in kind.__subclasses__():
        yield from kinds(each)


@pytest.mark.parametrize("kind", list(kinds()))
def test_an_error_arrives_with_its_words_its_code_and_its_detail(
    kind: type[LeanParcelError],
) -> None:
    has_own_code = issubclass(kind, UsageError | StorageError)
    error = kind("Too much.", "why", "inner") if has_own_code else kind("Too much.", "inner")  # type: ignore[call-arg]
    there = pickle.loads(pickle.dumps(error))
    assert type(there) is kind
    assert (str(there), there.message, there.detail) == ("Too much.", "Too much.", "inner")
    assert there.code == error.code == ("why" if has_own_code else kind.code)


def test_no_two_kinds_have_the_same_code() -> None:
    codes = [kind.code for kind in kinds() if "code" in vars(kind)]
    assert len(codes) == len(set(codes))
