"""The sites that faults are planted in: six pages of our own, made for the purpose, and real ones from the registry."""

from __future__ import annotations

import re
from pathlib import Path

from bench.planted import boats
from tests.sites import photo, registry_package

_HERE = Path(__file__).parent / "site"
_HEAD = (
    '<!doctype html>\n<html lang="en" dir="ltr">\n<head>\n<meta charset="utf-8">\n<title>{title}</title>\n'
    '<meta name="viewport" content="width=device-width">\n<meta name="description" content="A mill by the sea.">\n'
    '<meta name="robots" content="index,follow">\n<meta property="og:title" content="{title}">\n'
    '<link rel="canonical" href="https://mill.example/{name}">\n'
    '<script type="application/ld+json">{{"@type": "Place", "name": "Mill"}}</script>\n'
    '<link rel="stylesheet" href="style.css">\n<script src="app.js"></script>\n</head>\n<body>\n'
    '<header><button class="burger" aria-expanded="false" aria-label="Menu">=</button><nav aria-label="Main"><ul>\n'
    '<li class="tip"><a href="index.html">Home</a><div class="sub"><a href="index.html#tides">Tides</a></div></li>\n'
    '<li><a href="order.html">Order</a></li><li><a href="long.html">Long</a></li><li><a href="gallery.html">'
    "Gallery</a></li>\n"
    "</ul></nav></header>\n<main>\n"
)
_TAIL = (
    '</main>\n<footer><p>Contact: <a href="mailto:mill@example.org">write</a> or <a href="tel:+440000">call</a></p>'
    "<noscript><p>Please ring the bell instead.</p></noscript></footer>\n</body>\n</html>\n"
)
_HOME = """<h1>The tide mill</h1>
<div class="hero"><h2>Turning since 1620</h2></div>
<section id="tides"><h2>Tides</h2><p class="quote tablet">High water twice a day.</p>
<p class="note">First note</p><p class="note">Second note</p>
<div class="slides"><div class="slide on">One slide</div><div class="slide">Two slides</div><div
class="slide">Three slides</div></div>
<button class="back">Back</button> <button class="next">Next</button></section>
<section><button class="tab on" data-panel="p1">Flour</button><button class="tab" data-panel="p2">Bread</button>
<div class="panel on" id="p1">About flour</div><div class="panel" id="p2">About bread</div></section>
<section class="acc"><button>Opening hours</button><div>Daily from ten to four</div></section>
<section class="acc"><button>How to come</button><div>By boat or <a
href="https://ferry.example/line">by ferry</a></div></section>
<details><summary>History</summary><p>Built by the abbey.</p></details>
<button data-dialog="news">Newsletter</button>
<dialog id="news"><h3>Letters</h3><p>Twice a year.</p><button class="close">Close</button></dialog>
<button disabled>Not now</button><div class="spin"></div>
<img src="wheel.jpg" width="320" height="200" alt="The wheel"><img src="stones.jpg" width="300" height="200"
alt="Stones">
<img src="logo.png" width="120" height="80" alt="Sign of the mill">
"""
_ORDER = """<h1>Order flour</h1>
<form class="order" action="/send" method="post"><label for="n">Name</label><input id="n" name="name" required
placeholder="Your name">
<label for="m">Mail</label><input id="m" name="mail" type="email" required><input type="hidden" name="token" value="t1">
<input type="checkbox" id="c" name="news" value="yes"><label for="c">News</label>
<select class="size" name="size"><option value="10">Small</option><option value="20">Large</option></select>
<input type="range" name="many" min="1" max="9" value="3"><textarea name="words" placeholder="Anything else"></textarea>
<button type="submit">Send</button></form>
<p class="thanks" hidden>Thank you!</p><p class="price">10 coins</p><p class="invoice">Invoices come by post.</p>
<p><a href="/files/list.pdf" download="list.pdf">Price list</a> <a href="#bottom">Down</a> <a
href="https://shop.example/x?y=1" target="_blank" rel="noopener">Shop</a></p>
<table><caption>Prices</caption><tr><th scope="col">Flour</th><th
scope="col">Coins</th></tr><tr><td>Rye</td><td>10</td></tr></table>
<h2 id="bottom">Delivery</h2><p>By cart.</p>
"""
_LONG = "<h1>A long day</h1>\n" + "".join(
    f'<section><h2>Hour {n}</h2><p id="h{n}">The water stands at {n * 7 % 23} hands. The miller waits.</p>'
    + "<p>Grain, stone and water. </p>" * 12
    + (f'<img src="p{n % 4}.jpg" width="300" height="200" alt="Hour {n}" loading="lazy">' if n % 5 == 0 else "")
    + "</section>\n"
    for n in range(1, 41)
)
_GALLERY = (
    '<h1>Gallery</h1><div class="cards">'
    + "".join(
        f'<div class="card"><a class="big" href="p{n % 4}.jpg"><img src="p{n % 4}.jpg" width="150" height="100" '
        f'alt="Picture {n}"></a>'
        f"<p>Card {n}</p></div>"
        for n in range(12)
    )
    + '</div><div class="light"></div><div class="scroller">'
    + "".join(f"<div>Strip {n}</div>" for n in range(8))
    + '</div><p class="page-no">Page 1</p><button class="pager">1</button><button class="pager">2</button>'
    '<div class="tip"><b>Why?</b> <span class="hint">Because of the moon</span></div>'
)
_FRAMED = """<h1>Frames and shadows</h1><p>Below is a frame.</p>
<iframe src="inner.html" width="400" height="220" title="The inner page"></iframe>
<mill-card></mill-card><script src="shadow.js"></script>
<svg width="60" height="60" role="img" aria-label="Wheel"><circle cx="30" cy="30" r="25" fill="#8a4f22"/></svg>
<p lang="de">Die Mühle dreht sich.</p><ul><li>First<li>Second</ul>
"""
_INNER = (
    '<!doctype html><html lang="en"><head><title>Inner</title><style>'
    "p{color:#24201c}button:hover{color:red}</style></head>"
    "<body><p>Inside the frame</p><button onclick=\"document.getElementById('x').hidden=false\">Show</button>"
    '<p id="x" hidden>Shown inside</p><a href="index.html">Out</a></body></html>'
)
_EXTRAS = """<h1>Odds and ends</h1><link rel="icon" href="logo.png" sizes="32x32">
<button class="tab on" data-panel="e1">Now</button><button class="tab" data-panel="e2">Later</button>
<div class="panel on" id="e1">Nothing <i class="glow">yet</i></div>
<div class="panel" id="e2"><b class="mark">Soon</b> <button class="fold">More</button><p
class="folded" hidden>Much more</p></div>
<video controls width="320" height="180"
poster="wheel.jpg"><track kind="captions" srclang="en" label="English" src="words.vtt"></video>
<p class="twice" style="color: #b4532a">Said twice</p><img class="wide" src="wheel.jpg" width="240" height="150"
alt="Small wheel">
<button class="both">Both</button><p class="bothed" hidden>By either</p>
<p class="swipe">Swipe here</p><label>Letter <input type="file" name="letter"></label>
<label>Word <input class="word" name="word"></label><div class="shelf"
tabindex="0"><p>One</p><p>Two</p><p>Three</p></div>
<template id="row"><li class="row"><b>Tide</b> <span>Hands</span></li></template>
<script type="application/json" id="tide-data">{"high": [6, 18], "low": [0, 12]}</script>
<script>
addEventListener("message", function (e) { if (e.data === "tide") document.title = "Tide"; });
var channel = new BroadcastChannel("tides");
if (navigator.serviceWorker) navigator.serviceWorker.register("sw.js");
document.querySelector(".swipe").addEventListener("touchstart", function () { document.body.classList.add("swiped"); });
document.querySelector(".both").addEventListener("click", function () {
document.querySelector(".bothed").hidden = false; });
document.querySelector(".fold").onclick = function () { document.querySelector(".folded").hidden = false; };
</script>
"""
_PAGES = {
    "index": ("The tide mill", _HOME),
    "order": ("Order flour", _ORDER),
    "long": ("A long day", _LONG),
    "gallery": ("Gallery", _GALLERY),
    "framed": ("Frames", _FRAMED),
    "extras": ("Odds and ends", _EXTRAS),
}


def own() -> dict[str, bytes]:
    """The files of our own site."""
    files = {
        f"{name}.html": (_HEAD.format(title=title, name=name) + body + _TAIL).encode()
        for name, (title, body) in _PAGES.items()
    }
    files["inner.html"] = _INNER.encode()
    files |= {name: (_HERE / name).read_bytes() for name in ("style.css", "app.js", "shadow.js")}
    files |= {"files/list.pdf": b"%PDF-1.4 rye 10, wheat 12", "sw.js": b"self.onfetch = null;"}
    files["words.vtt"] = b"WEBVTT\n\n00:00.000 --> 00:02.000\nThe wheel turns"
    files |= {f"p{n}.jpg": photo(450, 300, 10 + n) for n in range(4)}
    files |= {"hero.jpg": photo(1400, 500, 3), "wheel.jpg": photo(640, 400, 1), "stones.jpg": photo(600, 400, 2)}
    return files | {"logo.png": photo(240, 160, 9, "PNG", grain=2)}


def real(name: str, version: str, folder: str) -> dict[str, bytes]:
    """The files of a page from the registry."""
    root = registry_package(name, version) / folder
    return {str(file.relative_to(root)): file.read_bytes() for file in sorted(root.rglob("*")) if file.is_file()}


def _library() -> bytes:
    """The script library that both slider pages load from elsewhere."""
    return (registry_package("jquery", "1.12.4") / "dist/jquery.min.js").read_bytes()


def flexslider() -> dict[str, bytes]:
    """A page with a carousel; the copy of the library that it falls back on is put where it looks for it."""
    return real("flexslider", "2.7.2", ".") | {"demo/js/libs/jquery-1.7.min.js": _library()}


def lightslider() -> dict[str, bytes]:
    """A page with two sliders, with its library at home."""
    files = {
        f"{part}/{name}": body
        for part in ("demo", "src")
        for name, body in real("lightslider", "1.1.6", part).items()
    }
    name = "demo/index.html"
    files[name] = re.sub(rb'src="http:[^"]*jquery.min.js"', b'src="library.js"', files[name])
    return files | {"demo/library.js": _library()}


SITES = {
    "own": own,
    "creative": lambda: real("startbootstrap-creative", "7.0.7", "dist"),
    "resume": lambda: real("startbootstrap-resume", "7.0.6", "dist"),
    "lightslider": lightslider,
    "flexslider": flexslider,
    "boats": boats.site,
}
