"""Whole texts as sites have them, and what becomes of each, as recorded."""

import pytest

from lean_parcel.core.packing.references.edits import repointed, with_hunks
from lean_parcel.core.packing.references.zones import language_of
from tests.core.packing.handing import old
from tests.recorded import Recorded

OLD = [old("cup.jpg", "img", "cup"), old("jug.png", "img/deep", "jug"), old("b 1.webp", "", "b")]
TEXTS = {
    "index.html": """<!doctype html>
<link rel="preload" as="image" href="/img/cup.jpg" imagesrcset="img/cup.jpg 1x, b.webp 2x">
<meta name="twitter:image" content="https://site.example/img/cup.jpg?v=2">
<style>.a { background: url( "img/cup.jpg" ) } .b { background: url(img/deep/jug.png) }</style>
<!-- <img src="img/cup.jpg"> and my-cup.jpg -->
<img class=wide src=img/cup.jpg width=400 alt="Cup" onload="show('img/cup.jpg')">
<picture><source srcset="img/deep/jug.png 1x"><img src="img/deep/jug.png"></picture>
<a href="img/cup.jpg" download="cup.jpg" title="the cup.jpg, a file">cup.jpg</a>
<script>const list = ["img/cup.jpg", `img/${name}/cup.jpg`, 'x' + 'jug.png']; // img/cup.jpg
const pattern = /["'] img\\/cup.jpg/g, half = a / b / "img/deep/jug.png";</script>
<p style="background-image: url('b%201.webp')">xcup.jpg cup.jpgx other/cup.jpg</p>
""",
    "site.css": """/* url(img/cup.jpg) */
@import "img/cup.jpg"; .a::after { content: "cup.jpg"; mask: url(img/cup.jpg#part) }
.b { background: image-set("img/cup.jpg" 1x, url(img/deep/jug.png) 2x), url(b\\ 1.webp) }
.c { background: url(data:image/png;base64,cup.jpg) } .d { background: url(img/cup.jpg }
""",
    "app.js": """import cup from "./img/cup.jpg"; import('./img/deep/jug.png');
const of = { "img/cup.jpg": 'it\\'s img/cup.jpg', plain: `b 1.webp`, nested: `${`img/cup.jpg`}` };
return /img\\/cup.jpg/.test(x) ? x / 2 / y : "b%201.webp"; /* "img/cup.jpg" */
const sum = total++ / 3 + 'img/deep/jug.png'.length / 2; typeof /'/g; "img/cup.jpg"
""",
    "notes.md": """# Cups
![A cup](img/cup.jpg "Cup") ![jug][j] <img src="img/deep/jug.png"> `img/cup.jpg`
[j]: ./img/deep/jug.png 'the jug'
    img/cup.jpg in code, [a file](<b 1.webp>) and ![](b%201.webp)
""",
    "site.yml": """hero: /img/cup.jpg
cards: [jug.png, "b 1.webp", xcup.jpg, cup.jpgs, b%201.webp]  # cup.jpg.
""",
    "views.py": """HERO = 'img/cup.jpg'; JUG = BASE + "/deep/jug.png"
""",
    "data.json": """{"hero": "img/cup.jpg", "all": ["img\\/deep\\/jug.png", "b 1.webp"],
 "cup.jpg": 1}""",
}


@pytest.mark.parametrize("as_pictures", [False, True], ids=["addresses", "pictures"])
@pytest.mark.parametrize("prefix", [None, "/new/"], ids=["folders_stay", "prefix"])
def test_what_becomes_of_texts(prefix: str | None, as_pictures: bool, recorded: Recorded) -> None:
    told = {}
    for name, text in TEXTS.items():
        language = language_of(name, text)
        found = repointed(text, language, OLD, prefix or "", as_pictures=as_pictures)
        sure = [index for index, hunk in enumerate(found.hunks) if not hunk.is_literal]
        now = with_hunks(text, found.hunks, sure)
        changed = [
            line
            for line, before in zip(now.splitlines(), text.splitlines(), strict=False)
            if line != before
        ]
        mentions = [hunk.before for hunk in found.hunks if hunk.is_literal]
        told[name] = {
            "changed": changed,
            "mentions": mentions,
            "unclear": found.unclear,
            "foreign": found.foreign,
        }
    recorded(told)
