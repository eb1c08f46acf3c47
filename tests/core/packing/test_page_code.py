"""Page code, read by parsers: HTML by Python's, with what the standard demands checked on top."""

from html.parser import HTMLParser

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.errors import UsageError
from lean_parcel.core.packing.handed import HandedPhoto
from lean_parcel.core.packing.page_code import (
    MISSING_ALT,
    address,
    checked_prefix,
    css,
    html,
    markdown,
)
from tests.core.packing.handing import handed, handed_file

_EMPTY = {"img", "source"}


class Read(HTMLParser):
    """Tags with their attributes, and text; elements have to be closed in their order."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.tags: list[tuple[str, dict[str, str | None]]] = []
        self.texts: list[str] = []
        self.comments: list[str] = []
        self._open: list[str] = []
        self.feed(text)
        self.close()
        assert not self._open

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        assert len({name for name, _ in attrs}) == len(attrs)
        self.tags.append((tag, dict(attrs)))
        if tag not in _EMPTY:
            self._open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        assert self._open.pop() == tag

    def handle_data(self, data: str) -> None:
        if data.strip():
            self.texts.append(data.strip())

    def handle_comment(self, data: str) -> None:
        self.comments.append(data)

    def of(self, tag: str) -> dict[str, str | None]:
        (attributes,) = [values for name, values in self.tags if name == tag]
        return attributes


def test_a_picture_has_everything_that_a_page_needs() -> None:
    code = Read(html(handed(credit="Quill & fen", fetch_priority="high"), "/img/"))
    assert [tag for tag, _ in code.tags] == ["figure", "picture", "source", "img", "figcaption"]
    sizes = "(min-width: 480px) 480px, 100vw"
    assert code.of("source") == {
        "type": "image/avif",
        "srcset": "/img/new-720.avif 720w, /img/new-1440.avif 1440w",
        "sizes": sizes,
    }
    assert code.of("img") == {
        "src": "/img/new-720.jpg",
        "srcset": "/img/new-720.jpg 720w, /img/new-1440.jpg 1440w",
        "sizes": sizes,
        "width": "480",
        "height": "240",
        "loading": "lazy",
        "fetchpriority": "high",
        "alt": "A cup",
    }
    assert code.texts == ["Quill & fen"]


def test_one_file_is_an_img_without_choices() -> None:
    only = HandedPhoto(
        files=(handed_file("a.jpg", "jpeg", 1, 720),),
        css_width_px=300,
        css_height_px=150,
        density=1,
        loading="eager",
    )
    code = Read(html(only))
    assert [tag for tag, _ in code.tags] == ["img"]
    assert code.of("img") == {"src": "a.jpg", "width": "300", "height": "150", "alt": ""}
    assert MISSING_ALT.strip("<!->").strip() in code.comments[0]
    assert not Read(html(handed(alt_text=""))).comments


@given(st.text(max_size=60), st.text(max_size=60), st.text(max_size=40))
def test_no_text_breaks_out(alt: str, credit: str, prefix: str) -> None:
    try:
        where = checked_prefix(prefix)
    except UsageError:
        where = ""
    photo = handed(alt_text=alt, credit=credit)
    code = Read(html(photo, where))
    names = [tag for tag, _ in code.tags if tag not in ("figure", "figcaption")]
    assert names == ["picture", "source", "img"]
    srcset = code.of("source")["srcset"]
    assert srcset
    assert len(srcset.split(", ")) == 2
    assert all(len(each.split(" ")) == 2 for each in srcset.split(", "))
    style = css(photo, "cup", where)
    assert style.count('"') == 2 + 4 * 4
    assert style.count("{") == style.count("}") == 1
    first, *_ = markdown(photo, where).split("\n")
    assert first.startswith("![")
    assert first.endswith("-720.jpg)")


@pytest.mark.parametrize("prefix", ["javascript:alert(1)", "data:x", "a\nb", "x" * 301])
def test_paths_that_are_none_are_refused(prefix: str) -> None:
    with pytest.raises(UsageError) as caught:
        checked_prefix(prefix)
    assert caught.value.code == "invalid_prefix"


@pytest.mark.parametrize(
    ("prefix", "found"),
    [
        ("", "a.jpg"),
        ("/img", "/img/a.jpg"),
        ("/img/", "/img/a.jpg"),
        ("https://cdn.example/a b,c", "https://cdn.example/a%20b%2Cc/a.jpg"),
        ("/img?file=", "/img?file=a.jpg"),
    ],
)
def test_addresses_have_their_prefix(prefix: str, found: str) -> None:
    assert address(handed_file("a.jpg", "jpeg", 1, 9), prefix) == found


def test_css_names_every_file_after_one_for_old_browsers() -> None:
    style = css(handed(), "cup")
    first, second = [line for line in style.splitlines() if "background-image" in line]
    assert first == '  background-image: url("new-720.jpg");'
    assert "image-set(" in second
    assert '    url("new-1440.avif") type("image/avif") 3x,' in style.splitlines()
