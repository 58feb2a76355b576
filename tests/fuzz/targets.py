"""What is fed: for each format a few good files, and what is done with a damaged one."""

from __future__ import annotations

import base64
import contextlib
import gzip
import io
import json
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from tests.sites import page, photo
from unladen.capture import BodyStore, Capture, read_folder, read_site, write_zip
from unladen.capture.addresses import site_path
from unladen.capture.paths import written_paths
from unladen.documents import read_json
from unladen.errors import Refused, UnladenError
from unladen.fonts.subset import SubsetFont
from unladen.ledger import compare_documents, read_ledger
from unladen.markup.html import same_elements
from unladen.markup.site import texts_of
from unladen.markup.tidy import tidied
from unladen.markup.titles import title_of
from unladen.plan import Plan, Tolerance
from unladen.plan.fit import fit
from unladen.raster.probe import ImageRefused
from unladen.raster.recode import Recipe
from unladen.raster.svg import check_svg, minified_svg
from unladen.remedies.fields import FieldRefused
from unladen.styles.minify import minified
from unladen.styles.trim import Dead, selectors_in, trimmed
from unladen.survey import SiteFacts, SurveyInputs, inventory
from unladen.weigh.visits.walk import orders_from

# What the reader of a format may say to bad input; anything else is a fault of ours.
ALLOWED = (UnladenError, Refused, ImageRefused, FieldRefused)
HTML = page(
    "<img src=a.jpg srcset='a.jpg 1x, b.jpg 2x' loading=lazy><iframe src=https://player.example/x></iframe>"
    "<style>p{background:url(a.jpg)}</style><picture><source media='(max-width: 400px)' srcset=b.jpg><img src=a.jpg>"
    "</picture><a href='/x?y=1#z'>x</a><noscript><img src=c.jpg></noscript><video poster=a.jpg><source src=f.mp4>"
    "</video>"
    "<svg><use href='#i'/><image href=a.jpg /></svg><script>let a = 'a.jpg'</script>",
    "<base href='/'><link rel=stylesheet href=s.css><meta property=og:image content=a.jpg>",
)
CSS = b"""@charset "utf-8"; @import url("b.css") screen;
@media (max-width: 40em) { .a:hover > b::before { content: "\\201C"; background: url(a.jpg) } }
@font-face { font-family: x; src: url(x.woff2) format("woff2") } /* c */
.b { background-image: image-set("a.jpg" 1x, url('b.jpg') 2x); --x: { a } }"""
SVG = b"""<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 10">
<defs><linearGradient id="g"><stop offset="0"/></linearGradient></defs>
<!-- c --><style>.a{fill:url(#g)}</style><path class="a" d="M0 0L20 10z"/><text x="1" y="2">t</text></svg>"""
PLAN = {
    "format": "unladen/plan/2", "effort": "steady", "keep": {"files": ["/a.jpg"]},
    "changes": [{"id": "webp:/a.jpg", "remedy": "webp", "targets": ["/a.jpg"], "pages": ["/index.html"], "on": True,
                 "params": {"format": "WEBP", "likeness": 0.97}}],
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Target:
    """`feed` takes a damaged file and a folder of its own; what it raises beside `ALLOWED` is a fault."""

    seeds: tuple[bytes, ...]
    feed: Callable[[bytes, Path], None]


def _whole_way(path: Path, folder: Path, name: str) -> None:
    """Read, ask what there is, write out again; no file is lost without a word."""
    capture = read_site(path, BodyStore(folder / "bodies"), name=name)
    _asked(capture)
    files, paths, notices = written_paths(capture)
    own = [e.url for e in capture if capture.owns(e.url) and e.status == 200]
    assert {file.url for file in files} == set(paths), "a file without a path"
    told = {notice.name for notice in notices}
    lost = [url for url in own if url not in paths and site_path(capture.base_url, url) not in told]
    assert not lost, f"neither written nor noticed: {lost}"
    write_zip(capture, folder / "out.zip")
    with zipfile.ZipFile(folder / "out.zip") as archive:
        names = archive.namelist()
    bad = [n for n in names if n.startswith(("/", "\\")) or ".." in n.split("/") or "\\" in n or ":" in n]
    assert not bad, bad


def _asked(capture: Capture) -> None:
    capture.pages()
    title_of(capture)
    texts_of(capture)
    inventory(SiteFacts.of(capture, SurveyInputs(())))


def _archive(name: str) -> Callable[[bytes, Path], None]:
    def feed(data: bytes, folder: Path) -> None:
        path = folder / name
        path.write_bytes(data)
        _whole_way(path, folder, name)

    return feed


def _in_a_site(name: str) -> Callable[[bytes, Path], None]:
    def feed(data: bytes, folder: Path) -> None:
        site = folder / "site"
        site.mkdir()
        for other, body in (
            ("index.html", HTML),
            ("s.css", CSS),
            ("a.jpg", photo(8, 6)),
            ("i.svg", SVG),
            (name, data),
        ):
            (site / other).write_bytes(body)
        capture = read_folder(site, BodyStore(folder / "bodies"))
        _asked(capture)
        write_zip(capture, folder / "out.zip")

    return feed


def _svg(data: bytes, folder: Path) -> None:
    check_svg(minified_svg(data))


def _image(data: bytes, folder: Path) -> None:
    for recipe in (Recipe(), Recipe(40, "WEBP", 0.95)):
        with contextlib.suppress(*ALLOWED):
            recipe.run(data)


def _sheet(data: bytes, folder: Path) -> None:
    """Whatever a sheet holds, what is made of it says the same, or its guard refuses."""
    chars = data.decode("utf-8", "replace")
    names = [name.lower() for asked in selectors_in(chars) for name in asked.names]
    for make in (minified, lambda text: trimmed(text, Dead(frozenset(names[::2])), lambda _: False).chars):
        with contextlib.suppress(ValueError):
            make(chars)


def _page(data: bytes, folder: Path) -> None:
    chars = data.decode("utf-8", "replace")
    if not same_elements(chars, tidied(chars)):
        raise AssertionError("a tidied page has other elements")


def _font(data: bytes, folder: Path) -> None:
    with contextlib.suppress(*ALLOWED):
        SubsetFont("U+20-7E").run(data)


def _document(data: bytes, folder: Path) -> None:
    """All readers of documents get it, each with its own opinion."""
    found = read_json(data, "x.json")
    site = folder / "site"
    site.mkdir()
    (site / "index.html").write_bytes(HTML)
    capture = read_folder(site, BodyStore(folder / "bodies"))
    for read in (
        lambda: fit(Plan.from_json(found, "x.json"), capture).notices(),
        lambda: Tolerance.from_json(found),
        lambda: compare_documents(found, found, ("x", "y")),
        lambda: (
            read_ledger(found)
            if isinstance(found, dict) and str(found.get("format")).startswith("unladen/ledger")
            else None
        ),
        lambda: [orders_from(wanted) for wanted in found.values()] if isinstance(found, dict) else None,
    ):
        with contextlib.suppress(*ALLOWED):
            read()


def _zip(files: dict[str, bytes], method: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as archive:
        for name, body in files.items():
            archive.writestr(name, body)
    return out.getvalue()


def _har() -> bytes:
    def entry(url: str, body: bytes, kind: str) -> dict[str, object]:
        content = {"mimeType": kind, "text": base64.b64encode(body).decode(), "encoding": "base64", "size": len(body)}
        fields = [{"name": "content-type", "value": kind}]
        return {
            "request": {"method": "GET", "url": url, "headers": []},
            "response": {"status": 200, "headers": fields, "content": content, "redirectURL": ""},
        }

    entries = [
        entry("https://a.example/", HTML, "text/html"),
        entry("https://b.example:8443/a.jpg", photo(8, 6), "image/jpeg"),
    ]
    return json.dumps({"log": {"version": "1.2", "pages": [], "entries": entries}}).encode()


def _warc(members: bool) -> bytes:
    def record(url: str, kind: str, body: bytes) -> bytes:
        block = b"HTTP/1.1 200 OK\r\nContent-Type: %s\r\nContent-Length: %d\r\n\r\n%s" % (
            kind.encode(),
            len(body),
            body,
        )
        head = (
            f"WARC/1.0\r\nWARC-Type: response\r\nWARC-Target-URI: {url}\r\nContent-Type: application/http; "
            "msgtype=response\r\n"
        )
        whole = f"{head}Content-Length: {len(block)}\r\n\r\n".encode() + block + b"\r\n\r\n"
        return gzip.compress(whole) if members else whole

    return record("https://a.example/", "text/html", HTML) + record("https://a.example/s.css", "text/css", CSS)


def _nested() -> bytes:
    return (
        b"@layer a{.x:is(.y,#z)>b::before,i:not(.q){--a:var(--b);color:red}}@media "
        b"print{.x{a:b}@font-face{font-family:'M';src:url(m)}}"
    )


def _a_font() -> bytes:
    """The one that the front end ships."""
    root = Path(__file__).resolve().parents[2] / "web/node_modules/@fontsource-variable/hanken-grotesk/files"
    return (root / "hanken-grotesk-cyrillic-ext-wght-normal.woff2").read_bytes()


def targets() -> dict[str, Target]:
    """All of them, by name."""
    files = {"index.html": HTML, "s.css": CSS, "a.jpg": photo(8, 6), "i.svg": SVG, "b.html.gz": gzip.compress(HTML)}
    return {
        "zip": Target(
            (_zip(files, zipfile.ZIP_STORED), _zip(files, zipfile.ZIP_DEFLATED), _zip(files, zipfile.ZIP_BZIP2)),
            _archive("x.zip"),
        ),
        "har": Target((_har(),), _archive("x.har")),
        "warc": Target((_warc(False), _warc(True)), _archive("x.warc")),
        "html": Target((HTML,), _in_a_site("index.html")),
        "css": Target((CSS,), _in_a_site("s.css")),
        "svg": Target((SVG,), _svg),
        "sheet": Target((CSS, _nested()), _sheet),
        "page": Target((HTML,), _page),
        "font": Target((_a_font(),), _font),
        "image": Target((photo(40, 30), photo(9, 9, 3)), _image),
        "document": Target(
            (json.dumps(PLAN).encode(), json.dumps({"/": {"own": [], "off": []}}).encode()), _document
        ),
    }
