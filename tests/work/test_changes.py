"""What is announced, and to whom it is news."""

from lean_parcel.work.changes import Changes


def test_news_is_what_was_announced_after_what_was_seen() -> None:
    changes = Changes()
    start = changes.since(-1).version
    changes.announce_photo(7)
    first = changes.since(start)
    assert (first.photo_ids, first.has_pages) == ((7,), False)
    changes.announce_pages()
    assert changes.since(first.version).photo_ids == ()
    assert changes.since(first.version).has_pages
    both = changes.since(start)
    assert (both.photo_ids, both.has_pages) == ((7,), True)
    assert changes.since(both.version).is_empty
