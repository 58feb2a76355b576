"""Changes that no visitor can notice."""

from __future__ import annotations

import base64
import io
import re
from collections.abc import Callable

from PIL import Image

from bench.planted.faults import BOTH, Edit, Files, Planted, pattern, text


def recoded(file: str, format: str, quality: int, scale: float = 1.0) -> Edit:
    """The same picture under its name in another coding, and smaller if asked."""

    def edit(files: Files) -> Files:
        image = Image.open(io.BytesIO(files[file])).convert("RGB")
        if scale != 1:
            size = (round(image.width * scale), round(image.height * scale))
            image = image.resize(size, Image.Resampling.LANCZOS)
        out = io.BytesIO()
        image.save(out, format, quality=quality)
        return files | {file: out.getvalue()}

    return edit


def minified(file: str) -> Edit:
    """Styles without comments and most white space."""

    def edit(files: Files) -> Files:
        body = re.sub(r"/\*(?!!).*?\*/", "", files[file].decode(), flags=re.S)
        return files | {file: re.sub(r"\s*([{};,])\s*", r"\1", re.sub(r"\s+", " ", body)).encode()}

    return edit


def every(file: str, old: str, new: str) -> Edit:
    """Replace all matches of a pattern; there must be one."""

    def edit(files: Files) -> Files:
        body, done = re.subn(old, new, files[file].decode(errors="surrogateescape"), flags=re.S)
        if not done:
            raise LookupError(f"{file} has no {old!r}")
        return files | {file: body.encode(errors="surrogateescape")}

    return edit


def inlined(page: str, file: str, tag: str) -> Edit:
    """A file's text in the place of the tag that names it."""

    def edit(files: Files) -> Files:
        name = re.escape(file.rpartition("/")[2])
        body = files[page].decode()
        old = rf'<link[^>]*{name}"[^>]*>' if tag == "style" else rf'<script[^>]*{name}"[^>]*></script>'
        new = f"<{tag}>{files[file].decode()}</{tag}>"
        return files | {page: re.sub(old, lambda _: new, body, count=1).encode()}

    return edit


def as_data(page: str, file: str) -> Edit:
    """A picture inlined where a page names it."""

    def edit(files: Files) -> Files:
        link = "data:image/png;base64," + base64.b64encode(files[file]).decode()
        return files | {page: files[page].replace(file.encode(), link.encode())}

    return edit


def joined(page: str, file: str, other: str) -> Edit:
    """Two scripts as one, where the first of them stands."""

    def edit(files: Files) -> Files:
        body = files[page].decode().replace(f'<script src="{other}"></script>', "")
        return files | {page: body.encode(), file: files[file] + b"\n;" + files[other]}

    return edit


def moved_out(page: str, file: str) -> Edit:
    """The last script of a page in a file of its own."""

    def edit(files: Files) -> Files:
        body, _, rest = files[page].decode().rpartition("<script>\n")
        script, _, tail = rest.partition("</script>")
        return files | {page: f'{body}<script src="{file}"></script>{tail}'.encode(), file: script.encode()}

    return edit


def _pages(
    rows: list[tuple[str, str, Callable[..., Edit], tuple[object, ...]]], devices: tuple[str, ...] = BOTH
) -> list[Planted]:
    return [
        Planted(name, "harmless", "own", f"/{page}.html", make(*some), str(some[0]), devices)
        for page, name, make, some in rows
    ]


_LAZY = (r"<img (?![^>]*loading)", '<img loading="lazy" ')
_OWN_PAGES = ("index", "order", "long", "gallery", "framed", "extras")
HARMLESS: list[Planted] = [
    *_pages(
        [
            *(
                (
                    page,
                    f"{file} as {format} {quality}{f' at {scale}' if scale != 1 else ''}",
                    recoded,
                    (file, format, quality, scale),
                )
                for page, file in (
                    ("index", "wheel.jpg"),
                    ("index", "hero.jpg"),
                    ("gallery", "p1.jpg"),
                    ("long", "p0.jpg"),
                )
                for format, quality, scale in (
                    ("JPEG", 78, 1.0),
                    ("WEBP", 76, 1.0),
                    ("JPEG", 84, 0.8),
                    ("WEBP", 80, 0.9),
                )
                if not (file == "hero.jpg" and scale == 0.8)
            ),
            ("index", "logo recoded exactly", recoded, ("logo.png", "PNG", 100)),
            ("index", "logo as WebP", recoded, ("logo.png", "WEBP", 85)),
            *((page, "lazy images", every, (f"{page}.html", *_LAZY)) for page in ("index", "gallery")),
            *((page, "minified styles", minified, ("style.css",)) for page in _OWN_PAGES),
            (
                "index",
                "unused rules out",
                text,
                ("style.css", ".unused-one { color: red; } .unused-two { float: left; }", ""),
            ),
            (
                "gallery",
                "rules of other pages out",
                every,
                (
                    "style.css",
                    r"\.slides \{.*?\}|\.slide "
                    r"\{.*?\}|\.slide\.on \{.*?\}|\.hero \{.*?\}",
                    "",
                ),
            ),
            (
                "order",
                "rules of other pages out",
                every,
                (
                    "style.css",
                    r"\.acc > div \{.*?\}|\.acc\.on > div "
                    r"\{.*?\}|\.panel \{.*?\}|\.panel\.on \{.*?\}",
                    "",
                ),
            ),
            *(
                (
                    page,
                    "deferred script",
                    text,
                    (f"{page}.html", '<script src="app.js">', '<script defer src="app.js">'),
                )
                for page in _OWN_PAGES
            ),
            *(
                (
                    page,
                    "preload",
                    text,
                    (
                        f"{page}.html",
                        '<link rel="stylesheet"',
                        '<link rel="preload" as="script" href="app.js"><link rel="stylesheet"',
                    ),
                )
                for page in ("index", "order", "framed")
            ),
            *(
                (page, "inlined styles", inlined, (f"{page}.html", "style.css", "style"))
                for page in ("order", "gallery", "framed")
            ),
            *(
                (page, "inlined script", inlined, (f"{page}.html", "app.js", "script"))
                for page in ("index", "order", "gallery")
            ),
            ("framed", "joined scripts", joined, ("framed.html", "app.js", "shadow.js")),
            ("extras", "script in a file of its own", moved_out, ("extras.html", "extras.js")),
            (
                "extras",
                "white space of a data block",
                text,
                ("extras.html", '{"high": [6, 18], "low": [0, 12]}', '{"high":[6,18],"low":[0,12]}'),
            ),
            ("index", "inlined picture", as_data, ("index.html", "logo.png")),
            *(
                (
                    page,
                    "order of attributes",
                    every,
                    (f"{page}.html", r'<a href="([^"]*)">', r'<a data-x="1" href="\1">'),
                )
                for page in ("index", "order")
            ),
            *(
                (page, "comments and space between lines", every, (f"{page}.html", r">\n<", ">\n<!-- here -->\n\n<"))
                for page in _OWN_PAGES
            ),
            (
                "long",
                "content-visibility",
                text,
                (
                    "style.css",
                    "* { box-sizing",
                    "section { content-visibility: auto; contain-intrinsic-size: auto 300px; } * { box-sizing",
                ),
            ),
            (
                "index",
                "picture element",
                every,
                (
                    "index.html",
                    r'(<img src="wheel.jpg"[^>]*>)',
                    r"<picture><source "
                    r'srcset="wheel.jpg 1x">\1</picture>',
                ),
            ),
            (
                "gallery",
                "picture elements",
                every,
                (
                    "gallery.html",
                    r'(<img src="p1.jpg"[^>]*>)',
                    r"<picture><source "
                    r'srcset="p1.jpg 1x">\1</picture>',
                ),
            ),
            ("index", "async decoding", every, ("index.html", "<img ", '<img decoding="async" ')),
            (
                "index",
                "priority",
                text,
                ("index.html", '<img src="wheel.jpg"', '<img fetchpriority="high" src="wheel.jpg"'),
            ),
            ("framed", "lazy frame", text, ("framed.html", "<iframe ", '<iframe loading="lazy" ')),
            ("order", "quotes left out", text, ("order.html", 'name="name" required', "name=name required")),
            (
                "index",
                "zeros shortened",
                text,
                ("style.css", "margin: 0 auto; padding: 16px;", "margin:0 auto;padding:1rem"),
            ),
            (
                "index",
                "colours shortened",
                text,
                ("style.css", "background: #fff; z-index: 5;", "background:#ffffff;z-index:5;"),
            ),
            ("index", "script comments and space", text, ("app.js", "window.Mill", "/* the mill */   window.Mill")),
            ("gallery", "selectors of a list", text, ("style.css", ".price::after", ".never, .price::after")),
            (
                "order",
                "dead keyframes",
                text,
                ("style.css", "@keyframes spin { to { transform: rotate(360deg); } }", ""),
            ),
            (
                "index",
                "rel hint",
                text,
                (
                    "index.html",
                    '<link rel="stylesheet"',
                    '<link rel="dns-prefetch" href="https://ferry.example"><link rel="stylesheet"',
                ),
            ),
            (
                "long",
                "image sizes written",
                every,
                ("long.html", r'loading="lazy">', 'loading="lazy" sizes="300px">'),
            ),
            ("gallery", "webp beside the original", recoded, ("p3.jpg", "WEBP", 82)),
            ("gallery", "minified script", every, ("app.js", r"\n\s+", "\n")),
            ("order", "minified script", every, ("app.js", r"\n\s+", "\n")),
            ("framed", "minified script of an element", every, ("shadow.js", r"\n\s+", "\n")),
            (
                "long",
                "prefetch of another page",
                text,
                (
                    "long.html",
                    '<link rel="stylesheet"',
                    '<link rel="prefetch" href="gallery.html"><link rel="stylesheet"',
                ),
            ),
            (
                "framed",
                "quotes of a frame left out",
                text,
                ("framed.html", '<iframe src="inner.html"', "<iframe src=inner.html"),
            ),
            (
                "index",
                "type of scripts",
                text,
                ("index.html", '<script src="app.js">', '<script type="text/javascript" src="app.js">'),
            ),
        ]
    ),
    Planted(
        "photograph of a thumbnail",
        "harmless",
        "creative",
        "/index.html",
        recoded("assets/img/portfolio/thumbnails/1.jpg", "JPEG", 80),
        "1.jpg",
        BOTH,
    ),
    Planted(
        "background smaller",
        "harmless",
        "creative",
        "/index.html",
        recoded("assets/img/bg-masthead.jpg", "WEBP", 82),
        "bg-masthead.jpg",
        BOTH,
    ),
    Planted(
        "minified framework",
        "harmless",
        "creative",
        "/index.html",
        minified("css/styles.css"),
        "css/styles.css",
        BOTH,
    ),
    Planted("lazy images", "harmless", "creative", "/index.html", every("index.html", *_LAZY), "index.html", BOTH),
    Planted(
        "portrait smaller",
        "harmless",
        "resume",
        "/index.html",
        recoded("assets/img/profile.jpg", "JPEG", 84, 0.6),
        "profile.jpg",
        BOTH,
    ),
    Planted(
        "minified framework", "harmless", "resume", "/index.html", minified("css/styles.css"), "css/styles.css", BOTH
    ),
    Planted(
        "photographs recoded",
        "harmless",
        "flexslider",
        "/demo/index.html",
        recoded("demo/images/kitchen_adventurer_caramel.jpg", "JPEG", 80),
        "caramel.jpg",
        ("desktop",),
    ),
    Planted(
        "minified styles",
        "harmless",
        "flexslider",
        "/demo/index.html",
        minified("flexslider.css"),
        "flexslider.css",
        ("desktop",),
    ),
    Planted(
        "deferred nothing, comments out",
        "harmless",
        "flexslider",
        "/demo/index.html",
        every("demo/index.html", r"<!-- [^\[>]*? -->", ""),
        "demo/index.html",
        ("desktop",),
    ),
    Planted(
        "photograph recoded",
        "harmless",
        "lightslider",
        "/demo/index.html",
        recoded("demo/img/cS-1.jpg", "JPEG", 82),
        "cS-1.jpg",
        ("desktop",),
    ),
    Planted(
        "styles minified",
        "harmless",
        "lightslider",
        "/demo/index.html",
        minified("src/css/lightslider.css"),
        "lightslider.css",
        ("desktop",),
    ),
    Planted(
        "preload of a photograph",
        "harmless",
        "resume",
        "/index.html",
        pattern("index.html", "<head>", '<head><link rel="preload" as="image" href="assets/img/profile.jpg">'),
        "index.html",
        ("desktop",),
    ),
]
