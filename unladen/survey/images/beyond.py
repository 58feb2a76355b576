"""What no weigh-in loads, though visitors do: icons of tabs and home screens, and documents behind links."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from unladen.capture import Exchange
from unladen.capture.addresses import canonical
from unladen.markup.html import Element
from unladen.markup.references import resolve
from unladen.raster.probe import ImageInfo, ImageRefused, probe
from unladen.raster.recode import Recipe
from unladen.remedies import Change
from unladen.remedies.images.site_icons import IconParams
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor

# Sharp on a screen of 2 px per CSS px in a tab; what phones ask for on a home screen (common practice, no source).
_TAB, _HOME = 64, 180
_READ = ("PNG", "JPEG", "WEBP", "GIF")
_WORTH = 1_000  # bytes of an icon
_ICO = 30_000  # bytes of an ICO file, which may hold several sizes
_HEAVY = 300_000  # bytes of a document
# The dictionary of a stream stands right before it, and is never packed into another (ISO 32000-1, 7.3.8 and 7.5.7).
_PICTURE = re.compile(rb"/Subtype\s*/Image\b")
_LENGTH = re.compile(rb"/Length\s+(\d{1,10})(?!\d|\s+\d+\s+R)")
_DICTIONARY = 2_000  # bytes


@dataclass(slots=True)
class _Icon:
    wanted: int = 0
    pages: list[str] = field(default_factory=list)


def find(context: Context) -> Found:
    """One excess for each icon and each document."""
    return Found((*_icons(context), *_documents(context)))


def _elements(context: Context, tag: str) -> Iterator[tuple[str, Element, Exchange]]:
    """Elements of all pages that link to a file of the site, by the path of their page."""
    evidence = context.evidence
    for path in context.everywhere:
        page = evidence.capture.page(path)
        document = evidence.texts.document(page)
        for element in document.elements if document else ():
            link = element.attrs.get("href", "") if element.tag == tag and not element.inert else ""
            url = resolve(evidence.texts.base(page), link) if link else ""
            file = evidence.capture.lookup(canonical(url)) if url else None
            if file is not None and file.status == 200 and evidence.capture.owns(file.url):
                yield path, element, file


def _icons(context: Context) -> Iterator[Finding]:
    findings: dict[Exchange, _Icon] = {}
    for path, element, file in _elements(context, "link"):
        rel = element.attrs.get("rel", "").lower().split()
        home = any(word.startswith("apple-touch-icon") for word in rel)
        if not home and "icon" not in rel:
            continue
        icon = findings.setdefault(file, _Icon())
        icon.wanted = max(icon.wanted, _said(element) or (_HOME if home else _TAB))
        if path not in icon.pages:
            icon.pages.append(path)
    for file, icon in findings.items():
        if file.url not in context.evidence.images and (excess := _icon(context, file, icon)):
            yield excess


def _said(element: Element) -> int:
    """The largest width that a link says of its icon (HTML Standard, 4.6.7.8 "sizes"), 0 for none."""
    return max(
        [int(width) for width in re.findall(r"(?i)(?<!\S)(\d{1,4})x\d{1,4}(?!\S)", element.attrs.get("sizes", ""))]
        or [0]
    )


def _icon(context: Context, file: Exchange, icon: _Icon) -> Finding | None:
    capture, path = context.evidence.capture, context.evidence.path(file.url)
    name = path.rsplit("/", 1)[-1]
    try:
        info: ImageInfo | None = probe(capture.body(file))
    except ImageRefused:
        info = None
    if info is None or info.format not in _READ or info.frames > 1:
        if info is not None and info.format == "ICO" and file.size > _ICO:
            advice = "Save it with 16, 32 and 48 px alone, the largest as PNG."
            return _named(context, "icon", file, icon.pages, f"{name}: an icon of {file.size:,} bytes", advice)
        return None
    params = IconParams(width=icon.wanted if icon.wanted < info.width else 0, similarity=context.similarity)
    change = Change(f"site-icons:{path}", "site-icons", (path,), context.everywhere, params)
    outcome = context.work_cache.outcome(
        file.digest, Recipe(params.width, "", params.similarity, copyright=context.images.copyright)
    )
    if outcome.refused or file.size - outcome.size < _WORTH:
        return None
    return Finding(
        id=change.id,
        excess="icon",
        kind="images",
        title=f"{name}: an icon of {info.width:,} px where {params.width or info.width:,} are enough",
        why=f"{file.size - outcome.size:,} of its {file.size:,} bytes could go, which was tried out. Browsers "
        "load it beside the page.",
        pages=tuple(page for page in icon.pages if page in context.scope) or context.scope[:1],
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=True,
        facts=FilesFacts(files={path: file.size - outcome.size}),
        changes=(change,),
    )


def _documents(context: Context) -> Iterator[Finding]:
    linked: dict[Exchange, list[str]] = {}
    for path, _, file in _elements(context, "a"):
        if file.media_type == "application/pdf" and file.size >= _HEAVY:
            pages = linked.setdefault(file, [])
            if path not in pages:
                pages.append(path)
    for file, pages in linked.items():
        count, size = pictures_in(context.evidence.capture.body(file))
        if size * 2 < file.size:
            continue  # something else makes it heavy
        name = context.evidence.path(file.url).rsplit("/", 1)[-1]
        title = f"{name}: {count} {'pictures' if count > 1 else 'picture'} of {size:,} bytes behind a link"
        advice = "Save a version for screens (pictures at 150 px per inch), and state its size beside the link."
        yield _named(context, "document", file, pages, title, advice)


def pictures_in(pdf: bytes) -> tuple[int, int]:
    """How many pictures a PDF file holds, and their bytes, as far as their dictionaries say how long they are."""
    count = size = 0
    for result in _PICTURE.finditer(pdf):
        start = max(pdf.rfind(b" obj", max(0, result.start() - _DICTIONARY), result.start()), 0)
        end = pdf.find(b"stream", result.end(), result.end() + _DICTIONARY)
        length = _LENGTH.search(pdf, start, end) if end > 0 else None
        if length:
            count, size = count + 1, size + int(length[1])
    return count, min(size, len(pdf))


def _named(context: Context, sort: str, file: Exchange, pages: list[str], title: str, advice: str) -> Finding:
    path = context.evidence.path(file.url)
    return Finding(
        id=f"{sort}:{path}",
        excess=sort,
        kind="images" if sort == "icon" else "documents",
        title=title,
        why=f"It is {file.size:,} bytes large and not part of the page's weight. It stays unchanged.",
        pages=tuple(page for page in pages if page in context.scope) or context.scope[:1],
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=False,
        facts=FilesFacts(files={path: 0}),
        advice=advice,
        files=(path,),
    )


SURVEYOR = Surveyor("beyond the weigh-in", find, (FilesFacts,), remedies=("site-icons",), advises=True)
