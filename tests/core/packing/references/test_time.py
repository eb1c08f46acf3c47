"""Texts of strangers are read in a time that grows with their length: each of these is doubled."""

import time

import pytest

from lean_parcel.core.packing.references.edits import repointed, with_hunks
from lean_parcel.core.packing.references.zones import Language, language_of
from tests.core.packing.handing import old

OLD = [old("cup.jpg", "img", "cup"), old("my cup.jpg", "", "my")]
LANGUAGES: tuple[Language, ...] = ("html", "css", "javascript", "markdown")
#: What a reader might try again and again, in vain.
PIECES = (
    "url(\\61", "url(\\a", "url(a ", "url('", "/*", "'\\'", '"\\"', "`${", "`", "``", "`a`` ",
    "/[", "/a[", "= /(", "<!--", "<a ", "<a x='", '<a x="', "<a '", "<?", "<![", "</", "<style>",
    "<script>", "<textarea>", "cup.jpg ", "cup.jpg/", "/cup.jpg", "cup.jpg%2F", "cup.jpg, ", "a.",
    "a", ".jpg", "[a](", "](<", "](((", "```\n", "\n", "\n- ", "{", "}", "${", "&#", "&amp;", "%C3",
    "\\", " ", "'", '"', "'cup.jpg'", "<img src=cup.jpg>", "<picture>", "e\u0301",
)  # fmt: skip
#: Enough that what grows with the square takes seconds, and what is exponential never ends.
_LENGTH = 10_000


def seconds(text: str, language: Language) -> float:
    start = time.process_time()
    found = repointed(text, language, OLD, "/new/", as_pictures=True)
    language_of("", text)
    assert with_hunks(text, found.hunks, ()) == text
    return time.process_time() - start


@pytest.mark.parametrize("language", LANGUAGES)
@pytest.mark.parametrize("piece", PIECES)
def test_twice_the_text_takes_about_twice_the_time(piece: str, language: Language) -> None:
    text = piece * (_LENGTH // len(piece))
    assert any(
        seconds(text + text, language) < 3 * seconds(text, language) + 0.05 for _ in range(3)
    )


@pytest.mark.parametrize("language", LANGUAGES)
def test_a_few_bytes_do_not_keep_a_reader_busy(language: Language) -> None:
    assert seconds("a{b:url(" + "\\61" * 43, language) < 0.5
