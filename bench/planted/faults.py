"""Faults to plant: each breaks one thing that a visitor could notice."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from dataclasses import dataclass

from PIL import Image, ImageFilter

from tests.sites import photo

Files = dict[str, bytes]
Edit = Callable[[Files], Files]
BOTH = ("phone", "desktop")


@dataclass(frozen=True)
class Planted:
    """What is done to which site's files, and the page and devices on which it is looked for."""

    name: str
    kind: str
    site: str
    page: str
    edit: Edit
    file: str
    devices: tuple[str, ...] = ("phone",)


def text(file: str, old: str, new: str, count: int = 1) -> Edit:
    """Replace a text in a file; it must be there."""

    def edit(files: Files) -> Files:
        body = files[file].decode()
        if old not in body:
            raise LookupError(f"{file} has no {old!r}")
        return files | {file: body.replace(old, new, count).encode()}

    return edit


def pattern(file: str, old: str, new: str) -> Edit:
    """Replace the first match of a pattern; there must be one."""

    def edit(files: Files) -> Files:
        body, done = re.subn(old, new, files[file].decode(), count=1, flags=re.S)
        if not done:
            raise LookupError(f"{file} has no {old!r}")
        return files | {file: body.encode()}

    return edit


def without(file: str) -> Edit:
    """Leave a file out."""
    return lambda files: {name: body for name, body in files.items() if name != file}


def picture(file: str, change: Callable[[Image.Image], Image.Image], **options: object) -> Edit:
    """Make another picture of a picture."""

    def edit(files: Files) -> Files:
        image = Image.open(io.BytesIO(files[file])).convert("RGB")
        out = io.BytesIO()
        changed = change(image)
        changed.save(out, Image.registered_extensions()[file[file.rindex(".") :].lower()], **options)
        return files | {file: out.getvalue()}

    return edit


def _on(page: str, kind: str, site: str = "own") -> Callable[..., Planted]:
    def planted(name: str, edit: Edit, file: str, devices: tuple[str, ...] = ("phone",)) -> Planted:
        return Planted(name, kind, site, page, edit, file, devices)

    return planted


def _own(kind: str, rows: list[tuple[str, str, str, str, str, tuple[str, ...]]]) -> list[Planted]:
    """Rows of page, name, file, old text, new text, devices."""
    return [
        Planted(name, kind, "own", f"/{page}.html", text(file, old, new), file, devices)
        for page, name, file, old, new, devices in rows
    ]


P, D, T = ("phone",), ("desktop",), ("tablet",)
CSS, JS = "style.css", "app.js"
FAULTS: list[Planted] = [
    *_own(
        "style",
        [
            ("index", "hero has lost its picture", CSS, "background: url(hero.jpg) center/cover;", "", D),
            ("index", "colour of text", CSS, "--ink: #24201c", "--ink: #24609c", P),
            ("gallery", "cards have no border", CSS, "border: 1px solid #ddd; ", "", P),
            ("index", "quote mark is gone", CSS, '.quote::before { content: "\\201C"; color: #b4532a; }', "", P),
            ("index", "marker of lists", CSS, "li::marker { color: #b4532a; }", "", D),
            ("index", "counter is gone", CSS, "counter-increment: note;", "", P),
            ("index", "only on tablets", CSS, "color: #7a2d12;", "", T),
            (
                "index",
                "only on phones: menu always open",
                CSS,
                "nav ul { display: none; flex",
                "nav ul { display: flex; flex",
                P,
            ),
            ("index", "animation is gone", CSS, "animation: spin 3s infinite linear; ", "", P),
            ("gallery", "transition is gone", CSS, " transition: transform .3s;", "", P),
            (
                "index",
                "closed panel in red",
                CSS,
                ".panel { display: none; padding: 8px; }",
                ".panel { display: none; padding: 8px; color: red; }",
                P,
            ),
        ],
    ),
    *_own(
        "state",
        [
            ("index", "hover of links", CSS, "a:hover { text-decoration: none; background: #ffe9c0; }", "", P),
            ("index", "hover of buttons", CSS, "button:hover { background: #8a4f22; color: #fff; }", "", D),
            ("index", "press of buttons", CSS, "button:active { transform: translateY(1px); }", "", P),
            (
                "index",
                "focus ring",
                CSS,
                "a:focus-visible { outline: 3px solid #c79a2b; }",
                "a:focus-visible { outline: none; }",
                P,
            ),
            ("order", "focus of fields", CSS, "input:focus { border-color: #2f8a86; }", "", P),
            ("order", "focus within the form", CSS, "form:focus-within { background: #fff7; }", "", P),
            ("order", "invalid fields", CSS, "input:invalid { border-left: 4px solid #b4532a; }", "", P),
            ("order", "ticked box", CSS, "input:checked + label { font-weight: bold; }", "", P),
            ("order", "placeholder", CSS, "input::placeholder { color: #7c7a3a; }", "", P),
            ("index", "disabled button", CSS, "button:disabled { opacity: .4; }", "", P),
            ("order", "target", CSS, ":target { background: #ffe9c0; }", "", P),
            ("gallery", "card when pointed at", CSS, ".card:hover { transform: scale(1.02); }", "", P),
        ],
    ),
    *_own(
        "media",
        [
            ("index", "print keeps the menu", CSS, "nav, .burger, button { display: none; }", "", P),
            ("order", "print of the invoice", CSS, ".invoice { color: #000; }", "", P),
            ("index", "dark scheme", CSS, "body { background: #1c1a17; color: #eee; }", "", P),
            ("index", "more contrast", CSS, "a { text-decoration-thickness: 3px; }", "", P),
            ("gallery", "movement", CSS, ".card { animation: rise .4s; }", "", P),
        ],
    ),
    *_own(
        "words",
        [
            ("index", "a word in a paragraph", "index.html", "twice a day", "once a day", P),
            ("index", "text of a closed part", "index.html", "About bread", "About beer", P),
            ("index", "closed details", "index.html", "Built by the abbey", "Built by nobody", P),
            ("index", "words of a picture", "index.html", 'alt="The wheel"', 'alt=""', P),
            ("order", "placeholder of a field", "order.html", 'placeholder="Your name"', "", P),
            (
                "index",
                "noscript is gone",
                "index.html",
                "<noscript><p>Please ring the bell instead.</p></noscript>",
                "",
                P,
            ),
            ("order", "generated word", CSS, '.price::after { content: " incl. tax"; }', "", P),
            ("long", "text far below", "long.html", "The water stands at 0 hands.", "The water stands still.", P),
        ],
    ),
    *_own(
        "meaning",
        [
            ("index", "title", "index.html", "<title>The tide mill</title>", "<title></title>", P),
            ("index", "language", "index.html", '<html lang="en" dir="ltr">', '<html dir="ltr">', P),
            ("index", "description", "index.html", '<meta name="description" content="A mill by the sea.">\n', "", P),
            ("index", "canonical", "index.html", '<link rel="canonical" href="https://mill.example/index">\n', "", P),
            ("index", "robots", "index.html", "index,follow", "noindex", P),
            ("index", "social title", "index.html", '<meta property="og:title" content="The tide mill">\n', "", P),
            ("index", "structured data", "index.html", '"name": "Mill"', '"name": "Pub"', P),
            ("index", "heading level", "index.html", "<h2>Tides</h2>", "<p><b>Tides</b></p>", P),
            ("order", "label of a field", "order.html", '<label for="m">Mail', "<label>Mail", P),
            ("index", "name of the menu button", "index.html", ' aria-label="Menu"', "", P),
            ("order", "table heads", "order.html", '<th scope="col">Flour', "<th>Flour", P),
            ("index", "id that a tab names", "index.html", 'id="p2"', 'id="p9"', P),
            ("framed", "role of a drawing", "framed.html", ' role="img" aria-label="Wheel"', "", P),
            ("framed", "language of a part", "framed.html", '<p lang="de">', "<p>", P),
        ],
    ),
    *_own(
        "ways",
        [
            ("index", "link leads elsewhere", "index.html", 'href="order.html"', 'href="long.html"', P),
            (
                "index",
                "link in a closed part",
                "index.html",
                "https://ferry.example/line",
                "https://ferry.example/",
                P,
            ),
            ("index", "mail address", "index.html", "mailto:mill@example.org", "mailto:mill@example.com", P),
            ("order", "form action", "order.html", 'action="/send"', 'action="/sent"', P),
            ("order", "form method", "order.html", ' method="post"', "", P),
            ("order", "field name", "order.html", 'name="mail" type="email"', 'name="email" type="email"', P),
            ("order", "hidden field", "order.html", '<input type="hidden" name="token" value="t1">', "", P),
            ("order", "download", "order.html", ' download="list.pdf"', "", P),
            ("order", "hash target is gone", "order.html", ' id="bottom"', "", P),
            ("order", "required", "order.html", 'name="name" required', 'name="name"', P),
        ],
    ),
    *_own(
        "scripts",
        [
            ("index", "global is gone", JS, "window.Mill =", "var MillOnce =", P),
            (
                "index",
                "part of a global is gone",
                JS,
                ", open: function (what) { document.body.dataset.open = what; }",
                "",
                P,
            ),
            ("index", "an error", JS, "var at = 0;", "var at = 0; nothing.here();", P),
            (
                "index",
                "an error after a press",
                JS,
                'b.parentNode.classList.toggle("on"); });',
                'b.parentNode.classList.toggle("on"); nowhere(); });',
                P,
            ),
            ("index", "storage", JS, 'localStorage.setItem("seen", "yes");', "", P),
            (
                "index",
                "listener of the window",
                JS,
                'window.addEventListener("scroll"',
                'window.addEventListener("scrolled"',
                P,
            ),
            ("framed", "custom element", "shadow.js", '"mill-card"', '"mill-kard"', P),
        ],
    ),
    *_own(
        "walk",
        [
            ("index", "menu does not open", CSS, "nav.open ul { display: flex; }", "", P),
            ("index", "menu button is dead", JS, 'each(".burger", function', 'each(".hamburger", function', P),
            ("index", "tab is dead", JS, 'document.getElementById(t.dataset.panel).classList.add("on");', "", P),
            ("index", "accordion is dead", JS, 'b.parentNode.classList.toggle("on");', "", P),
            ("index", "accordion shows nothing", CSS, ".acc.on > div { display: block; }", "", D),
            ("index", "slides stand still", JS, 's.classList.toggle("on", i === at);', "", P),
            ("index", "back goes forward", JS, "show(at - 1);", "show(at + 1);", P),
            ("index", "dialog does not open", JS, ".showModal();", ";", P),
            ("index", "dialog does not close", JS, 'b.closest("dialog").close();', "", P),
            ("gallery", "lightbox does not open", CSS, ".light.on { display: grid; place-items: center; }", "", P),
            ("gallery", "lightbox leaves the page", JS, "e.preventDefault();\n    var l", "var l", P),
            (
                "gallery",
                "pager",
                JS,
                'document.querySelector(".page-no").textContent',
                "document.body.dataset.page",
                P,
            ),
            (
                "gallery",
                "hint when pointed at",
                CSS,
                ".tip.over .hint { visibility: visible; }",
                ".tip.ovr .hint { visibility: visible; }",
                P,
            ),
            ("order", "price follows the size", JS, 's.value + " coins"', '"10 coins"', P),
            ("order", "thanks after sending", JS, 'document.querySelector(".thanks").hidden = false;', "", P),
            ("index", "arrow key", JS, 'e.key === "ArrowRight"', 'e.key === "ArrowUp"', P),
            ("gallery", "escape key", JS, 'e.key === "Escape"', 'e.key === "Esc"', P),
            (
                "index",
                "head casts no shadow when scrolled",
                CSS,
                "header.scrolled { box-shadow: 0 2px 6px #0004; }",
                "",
                P,
            ),
            ("gallery", "scroller is cut off", CSS, "overflow-x: auto;", "overflow-x: hidden;", P),
        ],
    ),
    *_own(
        "layout",
        [
            (
                "index",
                "images keep their size",
                CSS,
                "img { max-width: 100%; height: auto; }",
                "img { width: 90%; height: auto; }",
                P,
            ),
            (
                "index",
                "a layer over the page",
                CSS,
                ".invoice",
                "footer::after { content: ''; position: fixed; inset: 0; z-index: 99; } .invoice",
                P,
            ),
            ("index", "main is narrower", CSS, "max-width: 960px;", "max-width: 700px;", D),
            ("long", "a line more far below", "long.html", "<h2>Hour 38</h2>", "<h2>Hour<br>38</h2>", P),
            (
                "long",
                "picture far below is gone",
                "long.html",
                'alt="Hour 40" loading="lazy"',
                'alt="Hour 40" hidden',
                P,
            ),
        ],
    ),
    Planted(
        "picture is blurred",
        "picture",
        "own",
        "/index.html",
        picture("wheel.jpg", lambda i: i.filter(ImageFilter.GaussianBlur(9))),
        "wheel.jpg",
    ),
    Planted(
        "picture is grey",
        "picture",
        "own",
        "/index.html",
        picture("stones.jpg", lambda i: i.convert("L").convert("RGB")),
        "stones.jpg",
    ),
    Planted(
        "picture is coded far too hard",
        "picture",
        "own",
        "/index.html",
        picture("wheel.jpg", lambda i: i, quality=4),
        "wheel.jpg",
    ),
    Planted(
        "picture has lost a corner",
        "picture",
        "own",
        "/index.html",
        picture("stones.jpg", lambda i: _corner(i)),
        "stones.jpg",
    ),
    Planted(
        "picture is another one",
        "picture",
        "own",
        "/gallery.html",
        lambda f: f | {"p2.jpg": photo(450, 300, 99)},
        "p2.jpg",
    ),
    Planted("picture is missing", "picture", "own", "/index.html", without("stones.jpg"), "stones.jpg"),
    Planted(
        "background is upside down",
        "picture",
        "own",
        "/index.html",
        picture("hero.jpg", lambda i: i.rotate(180)),
        "hero.jpg",
        D,
    ),
    Planted(
        "picture far below is another one",
        "picture",
        "own",
        "/long.html",
        lambda f: f | {"p0.jpg": photo(450, 300, 77)},
        "p0.jpg",
    ),
    Planted(
        "picture is stretched",
        "picture",
        "own",
        "/index.html",
        text(
            "index.html", 'src="logo.png" width="120" height="80"', 'src="logo.png" style="width:120px;height:40px"'
        ),
        "index.html",
    ),
    Planted(
        "text in a frame",
        "frame",
        "own",
        "/framed.html",
        text("inner.html", "Inside the frame", "Inside"),
        "inner.html",
    ),
    Planted(
        "button in a frame is dead",
        "frame",
        "own",
        "/framed.html",
        text("inner.html", ".hidden=false", ".hidden=true"),
        "inner.html",
    ),
    Planted(
        "colour in a frame", "frame", "own", "/framed.html", text("inner.html", "p{color:#24201c}", ""), "inner.html"
    ),
    Planted(
        "text in a shadow tree",
        "shadow",
        "own",
        "/framed.html",
        text("shadow.js", "The inner card", "The card"),
        "shadow.js",
    ),
    Planted(
        "colour in a shadow tree",
        "shadow",
        "own",
        "/framed.html",
        text("shadow.js", "p{color:#2d4a73;", "p{"),
        "shadow.js",
    ),
    Planted(
        "button in a shadow tree",
        "shadow",
        "own",
        "/framed.html",
        text("shadow.js", ".hidden = false;", ";"),
        "shadow.js",
    ),
    Planted(
        "style sheet is missing", "style", "creative", "/index.html", without("css/styles.css"), "css/styles.css"
    ),
    Planted(
        "framework's collapse is gone",
        "style",
        "creative",
        "/index.html",
        pattern("css/styles.css", r"\.collapse:not\(\.show\)\s*\{\s*display: none;\s*\}", ""),
        "css/styles.css",
    ),
    Planted(
        "button of the framework when pointed at",
        "state",
        "creative",
        "/index.html",
        pattern("css/styles.css", r"\.btn:hover \{.*?\}", ""),
        "css/styles.css",
    ),
    Planted(
        "script of the page is missing",
        "scripts",
        "creative",
        "/index.html",
        without("js/scripts.js"),
        "js/scripts.js",
    ),
    Planted(
        "portrait is squashed",
        "layout",
        "resume",
        "/index.html",
        pattern("css/styles.css", r"\.rounded-circle \{.*?\}", ""),
        "css/styles.css",
        D,
    ),
    Planted(
        "side menu is not fixed",
        "layout",
        "resume",
        "/index.html",
        pattern(
            "css/styles.css",
            r"\.fixed-top "
            r"\{.*?\}",
            "",
        ),
        "css/styles.css",
        D,
    ),
    Planted(
        "social link",
        "ways",
        "resume",
        "/index.html",
        pattern(
            "index.html",
            r'(<a class="social-icon" '
            r'href=")#!',
            r"\1#?",
        ),
        "index.html",
        D,
    ),
    Planted(
        "slider script is missing",
        "walk",
        "flexslider",
        "/demo/index.html",
        without("jquery.flexslider.js"),
        "jquery.flexslider.js",
        D,
    ),
    Planted(
        "slider arrows are gone",
        "walk",
        "flexslider",
        "/demo/index.html",
        pattern("jquery.flexslider.js", r"directionNav: true,(.*?)//", r"directionNav: false,\1//"),
        "jquery.flexslider.js",
        D,
    ),
    *_own(
        "style",
        [
            ("extras", "colour of what is selected", CSS, "p::selection { background: #c79a2b; }", "", P),
            (
                "extras",
                "button of a file field",
                CSS,
                "input::file-selector-button { border: 1px solid #8a4f22; }",
                "",
                P,
            ),
            ("extras", "steps of an animation", CSS, "50% { color: #b4532a; }", "50% { color: #24201c; }", P),
            (
                "extras",
                "mark in a closed panel",
                CSS,
                '.mark::before { content: ""; display',
                ".mark::before { display",
                D,
            ),
            ("extras", "caret of a field", CSS, ".word { caret-color: #b4532a; }", "", P),
            (
                "extras",
                "smooth scrolling of a shelf",
                CSS,
                "overflow: auto; scroll-behavior: smooth;",
                "overflow: auto;",
                P,
            ),
        ],
    ),
    *_own(
        "meaning",
        [
            ("extras", "words of a template", "extras.html", "<span>Hands</span>", "<span>Feet</span>", P),
            ("extras", "icon is gone", "extras.html", '<link rel="icon" href="logo.png" sizes="32x32">', "", P),
            ("extras", "data block is another", "extras.html", '"high": [6, 18]', '"high": [6]', P),
        ],
    ),
    *_own(
        "ways",
        [
            (
                "extras",
                "captions are gone",
                "extras.html",
                '<track kind="captions" srclang="en" label="English" src="words.vtt">',
                "",
                P,
            ),
            (
                "framed",
                "frame is shut off",
                "framed.html",
                '<iframe src="inner.html"',
                '<iframe sandbox src="inner.html"',
                P,
            ),
        ],
    ),
    Planted("price list is missing", "ways", "own", "/order.html", without("files/list.pdf"), "files/list.pdf", P),
    Planted(
        "price list is another",
        "ways",
        "own",
        "/order.html",
        lambda f: f | {"files/list.pdf": b"%PDF-1.4 other"},
        "files/list.pdf",
        P,
    ),
    *_own(
        "scripts",
        [
            (
                "extras",
                "worker is not registered",
                "extras.html",
                'navigator.serviceWorker.register("sw.js");',
                ";",
                P,
            ),
            (
                "extras",
                "channel is gone",
                "extras.html",
                'var channel = new BroadcastChannel("tides");',
                "var channel = {};",
                P,
            ),
            (
                "extras",
                "messages are not heard",
                "extras.html",
                'addEventListener("message", function',
                'addEventListener("messages", function',
                P,
            ),
            ("extras", "swipes are not heard", "extras.html", '"touchstart"', '"touchstarts"', P),
        ],
    ),
    *_own(
        "walk",
        [
            (
                "extras",
                "button in a closed panel is dead",
                "extras.html",
                'document.querySelector(".fold").onclick',
                'document.querySelector(".fold").onclic',
                P,
            )
        ],
    ),
    Planted(
        "slider's styles are missing",
        "style",
        "flexslider",
        "/demo/index.html",
        without("flexslider.css"),
        "flexslider.css",
        D,
    ),
    Planted(
        "photograph of a slider",
        "picture",
        "flexslider",
        "/demo/index.html",
        lambda f: f | {"demo/images/kitchen_adventurer_cheesecake_brownie.jpg": photo(800, 400, 5)},
        "demo/images/kitchen_adventurer_cheesecake_brownie.jpg",
        D,
    ),
    Planted(
        "list of a slider page",
        "words",
        "lightslider",
        "/demo/index.html",
        pattern(
            "demo/index.html",
            r"<h3>"
            r"3</h3>",
            "<h3>5</h3>",
        ),
        "demo/index.html",
        D,
    ),
    Planted(
        "slider stands closer",
        "style",
        "lightslider",
        "/demo/index.html",
        pattern("demo/index.html", r"margin-bottom: 60px;", "margin-bottom: 50px;"),
        "demo/index.html",
        D,
    ),
]


def _corner(image: Image.Image) -> Image.Image:
    image = image.copy()
    image.paste((240, 240, 240), (image.width - 160, 0, image.width, 110))
    return image


def _extra(name: str, file: str, old: str, new: str = "") -> Planted:
    return Planted(name, "meeting", "own", "/extras.html", text(file, old, new), file)


# Two changes that only break something together: what the one takes away the other has left.
MEETING: list[tuple[Planted, Planted]] = [
    (
        _extra("colour in the styles", CSS, ".twice { color: #b4532a; }"),
        _extra("colour in the page", "extras.html", ' style="color: #b4532a"'),
    ),
    (
        _extra("size in the styles", CSS, ".wide { width: 240px; height: 150px; }"),
        _extra("size in the page", "extras.html", ' width="240" height="150" alt="Small', ' alt="Small'),
    ),
    (
        _extra("listener in the script", JS, 'each(".both", function', 'each(".neither", function'),
        _extra(
            "listener in the page",
            "extras.html",
            'document.querySelector(".both").addEventListener',
            'document.createElement("b").addEventListener',
        ),
    ),
]
