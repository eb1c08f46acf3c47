"""References in texts as they are written by hand, and nothing else touched."""

import unicodedata
from dataclasses import replace
from typing import Literal
from urllib.parse import quote

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lean_parcel.core.packing.references.edits import repointed, with_hunks
from lean_parcel.core.packing.references.zones import Language, language_of
from tests.core.packing.handing import old

NormalForm = Literal["NFC", "NFD"]
OLD = [
    old("cup.jpg", "img", "cup"),
    old("red-cup.jpg", "", "red"),
    old("Röte Tasse (1).jpg", "", "tasse"),
    old("a&b.png", "", "and"),
]


def after(text: str, language: Language, prefix: str = "", **options: bool) -> str:
    found = repointed(text, language, OLD, prefix, **options)
    return with_hunks(text, found.hunks, range(len(found.hunks)))


@pytest.mark.parametrize(
    ("before", "now"),
    [
        ('<img src="img/cup.jpg">', '<img src="img/cup-720.jpg">'),
        ("<img src=img/cup.jpg>", "<img src=img/cup-720.jpg>"),
        ("<IMG SRC='../img/cup.jpg?v=3#x'>", "<IMG SRC='../img/cup-720.jpg?v=3#x'>"),
        (
            '<img srcset="img/cup.jpg 1x, red-cup.jpg 2x,img/cup.jpg 3x">',
            '<img srcset="img/cup-720.jpg 1x, red-720.jpg 2x,img/cup-720.jpg 3x">',
        ),
        ('<img src="R%C3%B6te%20Tasse%20(1).jpg">', '<img src="tasse-720.jpg">'),
        ('<img src="Ro\u0308te Tasse (1).jpg">', '<img src="tasse-720.jpg">'),
        ('<img src="R&ouml;te Tasse (1).jpg">', '<img src="tasse-720.jpg">'),
        ('<img src="img/a&amp;b.png">', '<img src="img/and-720.jpg">'),
        ('<a href="/p?src=img%2Fcup.jpg&amp;w=9">', '<a href="/p?src=img%2Fcup-720.jpg&amp;w=9">'),
        ('<i style="background:url(&quot;red-cup.jpg&quot;)">', None),
        ("<i data-all='[\"img\\/cup.jpg\"]'>", "<i data-all='[\"img\\/cup-720.jpg\"]'>"),
        ("<style>a{background:url(red-cup.jpg)}</style>", None),
        ("<style>a{background:url(red-cup.jpg)}", None),
        ("<!--><img src='red-cup.jpg'>", None),
        ("<?php a > b ?><img src='red-cup.jpg'>", None),
        ("a < b <img src = red-cup.jpg>", None),
        (
            "<textarea><img src='red-cup.jpg'></textarea><img src='red-cup.jpg'>",
            ("<textarea><img src='red-cup.jpg'></textarea><img src='red-720.jpg'>"),
        ),
        ("<script>const a = 'red-cup.jpg'</script>", None),
        ('<script type="application/json">{"a":"red-cup.jpg"}</script>', None),
        ('<svg><image href="red-cup.jpg"/></svg>', None),
        ('<meta property="og:image" content="https://x.example/red-cup.jpg">', None),
    ],
)
def test_html(before: str, now: str | None) -> None:
    expected = before.replace("red-cup.jpg", "red-720.jpg") if now is None else now
    assert after(before, "html") == expected


@pytest.mark.parametrize(
    ("before", "now"),
    [
        ("a{b:url(red-cup.jpg)}", "a{b:url(red-720.jpg)}"),
        ("a{b:url( 'red-cup.jpg' )}", "a{b:url( 'red-720.jpg' )}"),
        ('a{b:url("img/cup.jpg#x")}', 'a{b:url("img/cup-720.jpg#x")}'),
        (r"a{b:url(R\f6 te\ Tasse\ \(1\).jpg)}", "a{b:url(tasse-720.jpg)}"),
        ('a{b:url("Röte Tasse (1).jpg")}', 'a{b:url("tasse-720.jpg")}'),
        (
            'a{b:image-set("red-cup.jpg" 1x, url(red-cup.jpg) 2x)}',
            'a{b:image-set("red-720.jpg" 1x, url(red-720.jpg) 2x)}',
        ),
        ("a{b:url(//x.example/red-cup.jpg)}", "a{b:url(//x.example/red-720.jpg)}"),
    ],
)
def test_css(before: str, now: str) -> None:
    assert after(before, "css") == now


@pytest.mark.parametrize(
    ("before", "now"),
    [
        ("x = 'red-cup.jpg'", "x = 'red-720.jpg'"),
        (r'x = "\u0072ed-cup.jpg"', 'x = "red-720.jpg"'),
        (r'x = "<img src=\"red-cup.jpg\">"', r'x = "<img src=\"red-720.jpg\">"'),
        ("x = `${base}/img/cup.jpg?${v}`", "x = `${base}/img/cup-720.jpg?${v}`"),
        ("x = `a ${`red-cup.jpg`} b`", "x = `a ${`red-720.jpg`} b`"),
        ("import a from './img/cup.jpg'", "import a from './img/cup-720.jpg'"),
        ('const x = <img src="red-cup.jpg" />', 'const x = <img src="red-720.jpg" />'),
        (
            "x = <p>Don't</p>\ny = <b>a</b>, <img src='red-cup.jpg' />",
            "x = <p>Don't</p>\ny = <b>a</b>, <img src='red-720.jpg' />",
        ),
        ("a = b / c; d = 'red-cup.jpg' / 2", "a = b / c; d = 'red-720.jpg' / 2"),
        ("return /['\"]/.test('red-cup.jpg')", "return /['\"]/.test('red-720.jpg')"),
        ("`a ${ {b: `}`} } red-cup.jpg`", "`a ${ {b: `}`} } red-720.jpg`"),
        ("x = 'never closed\ny = 'red-cup.jpg'", "x = 'never closed\ny = 'red-720.jpg'"),
    ],
)
def test_javascript(before: str, now: str) -> None:
    assert after(before, "javascript") == now


def test_json() -> None:
    before = '{"red-cup.jpg": ["img\\/cup.jpg", "see red-cup.jpg there"]}'
    now = '{"red-720.jpg": ["img\\/cup-720.jpg", "see red-cup.jpg there"]}'
    assert after(before, "json") == now


@pytest.mark.parametrize(
    ("before", "now"),
    [
        ('![a](red-cup.jpg "t")', '![a](red-720.jpg "t")'),
        ("![a](<Röte Tasse (1).jpg>)", "![a](<tasse-720.jpg>)"),
        ("[a]: img/cup.jpg", "[a]: img/cup-720.jpg"),
        ('x <img src="red-cup.jpg"> y', 'x <img src="red-720.jpg"> y'),
        ("---\nimage: img/cup.jpg\n---\nx", "---\nimage: img/cup-720.jpg\n---\nx"),
    ],
)
def test_markdown(before: str, now: str) -> None:
    assert after(before, "markdown") == now


@pytest.mark.parametrize(
    ("text", "language"),
    [
        ("<!-- red-cup.jpg --><p>red-cup.jpg</p>", "html"),
        ('<img alt="red-cup.jpg" title="red-cup.jpg" src="x.svg">', "html"),
        ('<img src="my red-cup.jpg"><img src="red-cup.jpg.webp">', "html"),
        ('<img src="dark-red-cup.jpg"><img src="red-cup.jpgx">', "html"),
        ("<script>// 'red-cup.jpg'\n/red-cup.jpg/.test(x)</script>", "html"),
        ("/* url(red-cup.jpg) */ a{b:c}", "css"),
        ("red.cup.jpg = 1 // 'red-cup.jpg'\n/* 'red-cup.jpg' */", "javascript"),
        ("red-cup.jpg `red-cup.jpg`\n```\n![](red-cup.jpg)\n```\n", "markdown"),
        ("<img src='red-cup.jpg", "html"),
        ("<title>red-cup.jpg <img src='red-cup.jpg'></title>", "html"),
        ("``a ` ![](red-cup.jpg) ``", "markdown"),
        ("a{b:url(red-cup.jpg", "css"),
        ("a{b:'red-cup.jpg\n}", "css"),
    ],
)
def test_what_is_no_reference_stays(text: str, language: Language) -> None:
    """It may be one for all that, and is told: only a person knows."""
    assert all(hunk.is_literal for hunk in repointed(text, language, OLD).hunks)


@pytest.mark.parametrize(
    ("before", "now"),
    [
        ("<img src='img/cup.jpg'>", "<img src='/p?a=1&amp;f=cup-720.jpg'>"),
        ("<img src=img/cup.jpg>", "<img src=/p?a=1&amp;f=cup-720.jpg>"),
        ("<script>a = 'img/cup.jpg'</script>", "<script>a = '/p?a=1&f=cup-720.jpg'</script>"),
        ("<style>a{b:url(img/cup.jpg)}</style>", "<style>a{b:url(/p?a=1&f=cup-720.jpg)}</style>"),
    ],
)
def test_an_address_is_written_as_the_place_wants_it(before: str, now: str) -> None:
    assert after(before, "html", "/p?a=1&f=") == now


@pytest.mark.parametrize("prefix", ["/a' onerror='x", '/a" b="', "/a) b(", "/a</script>", "/`${x}"])
@pytest.mark.parametrize(
    "text",
    [
        "<img src='img/cup.jpg'>",
        '<img src="img/cup.jpg">',
        "<img src=img/cup.jpg>",
        "<p style='a:url(img/cup.jpg)'>",
        "<script>a = `img/cup.jpg`; b = 'img/cup.jpg'</script>",
        "<style>a{b:url(img/cup.jpg) url('img/cup.jpg')}</style>",
    ],
)
def test_no_prefix_ends_what_it_stands_in(text: str, prefix: str) -> None:
    found = after(text, "html", prefix)
    inserted = found.replace(text.split("img/cup.jpg")[0], "", 1)
    assert not set(inserted[: inserted.index("cup-720.jpg")]) & set("'\"`()<>{} ")


def test_a_prefix_takes_the_place_of_the_folders_but_not_of_another_site() -> None:
    text = '<img src="img/cup.jpg"><img src="https://x.example/img/cup.jpg">'
    now = '<img src="/new/cup-720.jpg"><img src="https://x.example/img/cup-720.jpg">'
    assert after(text, "html", "/new/") == now
    assert after("`${a}img/cup.jpg`", "javascript", "/new/") == "`${a}img/cup-720.jpg`"


def test_an_img_becomes_a_picture_with_its_own_words() -> None:
    text = '<p>\n  <img class="x" src="img/cup.jpg" width=9 alt="Mine" loading="eager">\n</p>'
    found = after(text, "html", as_pictures=True)
    assert found.startswith("<p>\n  <picture>\n    <source ")
    assert found.endswith(' class="x" alt="Mine" loading="eager">\n  </picture>\n</p>')
    assert 'src="img/cup-720.jpg"' in found
    assert 'width="480"' in found
    assert "width=9" not in found
    inside = '<picture><img src="img/cup.jpg"></picture>'
    assert after(inside, "html", as_pictures=True).count("<picture>") == 1
    query = '<img src="/p?f=img/cup.jpg">'
    assert after(query, "html", as_pictures=True) == '<img src="/p?f=img/cup-720.jpg">'


def test_of_photos_with_one_name_the_folders_tell() -> None:
    photos = [old("cup.jpg", "home", "a"), old("cup.jpg", "shop/img", "b")]
    text = '<img src="shop/img/cup.jpg"><img src="/home/cup.jpg"><img src="cup.jpg">'
    found = repointed(text, "html", photos)
    (hunk,) = found.hunks
    assert hunk.photos == (1, 0)
    assert hunk.after.endswith('<img src="cup.jpg">')
    assert found.unclear == ("cup.jpg",)


def test_pictures_of_others_are_told_and_new_files_are_not() -> None:
    text = '<img src="logo.png"><img src="cup-720.jpg"><a href="x.pdf"><img src="img/cup.jpg">'
    assert repointed(text, "html", OLD).foreign == ("logo.png",)


def test_hunks_are_lines_and_are_taken_one_by_one() -> None:
    text = "a\r\n<img src='red-cup.jpg'><img src='img/cup.jpg'>\r\n\r\n<img src='red-cup.jpg'>"
    hunks = repointed(text, "html", OLD).hunks
    assert [(hunk.line, hunk.photos) for hunk in hunks] == [(2, (1, 0)), (4, (1,))]
    assert with_hunks(text, hunks, ()) == text
    assert with_hunks(text, hunks, [1]) == text[: text.rindex("red-cup")] + "red-720.jpg'>"


#: What texts are made of where they are hardest to read, but for escapes, which go with a name.
PIECES = (
    "<img src='", "red-cup.jpg", "'>", "url(", ")", "<!--", "-->", "`", "${", "}", "\n", "<script>",
    "</script>", "<style>", "</style>", "&quot;", "%", '"', " ", "é",
)  # fmt: skip


@given(
    st.lists(st.sampled_from(PIECES), max_size=40).map("".join),
    st.sampled_from(["html", "css", "javascript", "json", "markdown"]),
)
def test_nothing_but_references_changes(text: str, language: Language) -> None:
    found = repointed(text, language, OLD)
    assert with_hunks(text, found.hunks, ()) == text
    now = with_hunks(text, found.hunks, range(len(found.hunks)))
    assert now.replace("red-720.jpg", "red-cup.jpg") == text
    assert (
        with_hunks(text, repointed(text, language, OLD, "/x", as_pictures=True).hunks, ()) == text
    )


@pytest.mark.parametrize(
    ("name", "text", "language"),
    [
        ("a.css", "", "css"),
        ("a.tsx", "", "javascript"),
        ("a.php", "", "html"),
        ("", "  <p>", "html"),
        ("", '{"a": 1}', "json"),
        ("", "# Cups\n", "markdown"),
        ("", ".a { b: url(c.jpg) }", "css"),
        ("", "const a = 1", "javascript"),
    ],
)
def test_languages_are_told_by_name_or_by_text(name: str, text: str, language: Language) -> None:
    assert language_of(name, text) == language


@pytest.mark.parametrize("language", ["html", "css", "javascript", "json", "markdown"])
def test_a_long_text_of_broken_pieces_comes_to_an_end(language: Language) -> None:
    text = "<a " * 20_000 + "'red-cup.jpg'" + "\\" * 20_000 + "%C3" * 20_000
    assert with_hunks(text, repointed(text, language, OLD).hunks, ()) == text


@pytest.mark.parametrize(
    "text",
    ['<img src="img/red cup.jpg">', '<img src="img/red%20cup.jpg">', "<img src='red cup.jpg'>"],
)
def test_of_two_names_the_longer_is_meant(text: str) -> None:
    photos = [old("cup.jpg", "", "short"), old("red cup.jpg", "img", "long")]
    for order in (photos, photos[::-1]):
        (hunk,) = repointed(text, "html", order).hunks
        assert "long-720.jpg" in hunk.after
        assert "short" not in hunk.after


def test_a_name_that_begins_like_another_is_its_own() -> None:
    photos = [old("cup.jpg", "", "short"), old("cup.jpg.webp", "", "long")]
    for order in (photos, photos[::-1]):
        text = '<img src="cup.jpg.webp"><img src="cup.jpg">'
        (hunk,) = repointed(text, "html", order).hunks
        assert hunk.after == '<img src="long-720.jpg"><img src="short-720.jpg">'


@pytest.mark.parametrize("of_list", ["NFC", "NFD"])
@pytest.mark.parametrize("of_text", ["NFC", "NFD"])
@pytest.mark.parametrize("folder", ["", "Küche"])
def test_names_in_another_normal_form_are_the_same(
    of_list: NormalForm, of_text: NormalForm, folder: str
) -> None:
    """As macOS writes names, and as others do."""
    name, inside = (unicodedata.normalize(of_list, each) for each in ("Röte Tür.jpg", folder))
    photos = [old(name, inside, "door"), old(name, "elsewhere", "other")]
    path = unicodedata.normalize(of_text, f"{folder}/Röte Tür.jpg" if folder else "./Röte Tür.jpg")
    for written in (path, quote(path)):
        (hunk,) = repointed(f'<img src="{written}">', "html", photos[: 2 if folder else 1]).hunks
        assert "door-720.jpg" in hunk.after


@pytest.mark.parametrize(
    ("text", "now"),
    [
        ("hero: img/red-cup.jpg", "hero: img/red-720.jpg"),
        ("a|red-cup.jpg|b,(cup.jpg);cup.jpg.", "a|red-720.jpg|b,(cup-720.jpg);cup-720.jpg."),
        ("C:\\site\\red-cup.jpg\n'cup.jpg'", "C:\\site\\red-720.jpg\n'cup-720.jpg'"),
        ("[Röte Tasse (1).jpg]", "[tasse-720.jpg]"),
        ("x.jpg xred-cup.jpg red-cup.jpgx my_cup.jpg cup.jpg-2 cup.jpeg", None),
    ],
)
def test_in_other_texts_whole_names_are_mentions(text: str, now: str | None) -> None:
    found = repointed(text, "html", OLD)
    assert all(hunk.is_literal for hunk in found.hunks)
    assert with_hunks(text, found.hunks, range(len(found.hunks))) == (now or text)


def test_a_mention_beside_a_reference_is_kept_from_being_forgotten() -> None:
    text = "<img src='red-cup.jpg'><!-- red-cup.jpg, cup.jpg -->\n"
    found = repointed(text, "html", OLD)
    (hunk,) = found.hunks
    assert not hunk.is_literal
    assert {OLD[index].name for index in found.mentioned} == {"red-cup.jpg", "cup.jpg"}


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            "\n<a href='cup.jpg'><img src='cup.jpg'></a>",
            "itself goes to cup-720.jpg now, of 576 × 288",
        ),
        ("\n<a style='background: url(cup.jpg)' href='/'>", None),
        ("\n<img srcset='cup.jpg 1x' src=x.svg width=9 height=9>", None),
        ("\n<img src=cup.jpg width=480 height=480>", "width and height are 480 and 480"),
        ("\n<img src=cup.jpg width=960 height=480>", None),
        ("\n<img src=cup.jpg width=101 height=50>", None),
        ("\n<img src=cup.jpg width=50% height=480>", None),
    ],
)
def test_what_a_replaced_reference_may_spoil_is_said(text: str, words: str | None) -> None:
    notes = repointed(text, "html", OLD).notes
    assert [note.line for note in notes] == [2] * len(notes) == [2] * (words is not None)
    assert words is None or words in notes[0].words


@pytest.mark.parametrize(
    ("attributes", "written", "offered"),
    [
        ('alt="A cup &amp; a\n saucer"', None, "A cup & a saucer"),
        ('alt="A cup"', "Mine", None),  # somebody wrote one
        ('alt="A cup"', "", None),  # somebody said that it is decoration
        ('alt=""', None, None),
        ("", None, None),
    ],
)
def test_what_a_page_says_of_a_photo_is_offered_where_nothing_is_written(
    attributes: str, written: str | None, offered: str | None
) -> None:
    photo = replace(OLD[0], handed=replace(OLD[0].handed, alt_text=written))
    text = f"<img src='img/{photo.name}' {attributes}>\n<img src='{photo.name}' alt='Again'>"
    found = repointed(text, "html", [photo]).alt_texts
    first = offered or (None if written is not None else "Again")
    assert [each.text for each in found] == ([] if first is None else [first])
    assert repointed(text.replace("img", "iframe"), "html", [photo]).alt_texts == ()
