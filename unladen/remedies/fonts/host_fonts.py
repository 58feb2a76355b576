"""Fonts of another host among the site's own files, cut to the characters that are shown."""

from __future__ import annotations

import posixpath
from collections.abc import Iterator
from dataclasses import dataclass, replace
from urllib.parse import unquote, urlsplit

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import url_of_path
from unladen.capture.mediatypes import media_type_of
from unladen.fonts.subset import SubsetFont
from unladen.markup.css import css_urls
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.html import Document, Element
from unladen.markup.references import link_to, resolve
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.fonts.subset_fonts import SmallerFaces, font_beside
from unladen.remedies.journal import Offered, Replaced
from unladen.remedies.spec import Remedy
from unladen.work_cache import Outcome, WorkCache

FOLDER = "fonts"
_FONTS = ("font/", "application/font", "application/x-font", "application/vnd.ms-fontobject")


@dataclass(frozen=True, slots=True, kw_only=True)
class HostParams(Params):
    """`keep`: for each font by its address the characters that stay in the smaller one, as `unicode-range` writes
    them.
    """

    keep: dict[str, str] = fields.texts(most=100_000)


@dataclass(frozen=True, slots=True)
class Home:
    """A font at home: as found on the other host, as found here, and the smaller one beside it, if there is one."""

    found: Exchange
    here: Exchange
    small: Exchange | None = None
    outcome: Outcome | None = None


def home_of(capture: Capture, work_cache: WorkCache, font: Exchange, keep: str) -> Home:
    """Where a font goes, and what is made of it."""
    suffix = posixpath.splitext(unquote(urlsplit(font.url).path))[1].lower()
    if not media_type_of("x" + suffix).startswith("font/"):
        suffix = ".woff2"
    here = _at_home(capture, font, suffix, font.digest, font.size)
    outcome = work_cache.outcome(font.digest, SubsetFont(keep)) if keep else None
    if outcome is None or outcome.refused:
        return Home(font, here)
    return Home(font, here, font_beside(capture, here, outcome), outcome)


def _at_home(capture: Capture, found: Exchange, suffix: str, digest: str, size: int) -> Exchange:
    """A file of another host under a name of its own here; the name says its content."""
    stem = posixpath.splitext(posixpath.basename(unquote(urlsplit(found.url).path)))[0]
    plain = "".join(c if c.isalnum() and c.isascii() else "-" for c in stem).strip("-")[:40] or "font"
    path = f"{FOLDER}/{plain}-{digest[:8]}{suffix}"
    url = url_of_path(capture.base_url, path)
    return replace(found, url=url, path=path, digest=digest, size=size, packed="", packed_size=0)


def fonts_in(capture: Capture, sheet: Exchange, chars: str) -> Iterator[tuple[int, int, Exchange]]:
    """The fonts of the recording that a sheet names: where, and which."""
    for named in css_urls(chars):
        url = resolve(sheet.url, named.value)
        font = capture.lookup(url) if url else None
        if font and font.status == 200 and not named.imported and font.media_type.startswith(_FONTS):
            yield named.start, named.end, font


def brought_home(
    capture: Capture, work_cache: WorkCache, sheet: Exchange, chars: str, params: HostParams
) -> tuple[str, list[Home]]:
    """A sheet of faces as it reads at home, in the folder of the fonts, and the fonts.

    What the recording does not have stays where it is. Raises `ValueError` where a face cannot be read.
    """
    base = url_of_path(capture.base_url, f"{FOLDER}/x.css")
    homes: dict[str, Home] = {}
    edits = []
    for start, end, font in fonts_in(capture, sheet, chars):
        home = homes.setdefault(font.url, home_of(capture, work_cache, font, params.keep.get(font.url, "")))
        edits.append(Edit(start, end, link_to(home.here.url, base)))
    whole = [named for named in css_urls(chars) if named.start not in {edit.start for edit in edits}]
    edits += [Edit(n.start, n.end, url) for n in whole if (url := resolve(sheet.url, n.value))]
    made = apply_edits(chars, sorted(edits, key=lambda edit: edit.start))
    for home in homes.values():
        if home.small and home.outcome:
            parts = SmallerFaces(
                base,
                frozenset({home.here.url}),
                link_to(home.small.url, base),
                str(home.outcome.facts["kept"]),
                str(home.outcome.facts["left"]),
                not home.here.path.endswith(".woff2"),
            )
            made = parts(made)
    return made, list(homes.values())


def apply(change: Change[HostParams], draft: Draft) -> None:
    """Bring the targets, style sheets of other hosts, and their fonts to the pages in scope."""
    for target in change.targets:
        sheet = draft.capture.lookup(target)
        text = draft.texts.text(sheet) if sheet else None
        if sheet is None or text is None:
            draft.notice(target, "is no longer in the recording")
            continue
        chars, homes = brought_home(draft.capture, draft.work_cache, sheet, text.chars, change.params)
        body = chars.encode()
        made = _at_home(draft.capture, sheet, ".css", draft.capture.store.put(body), len(body))
        pages = frozenset(path for path in change.pages if _point(change, draft, path, sheet, made))
        if not pages:
            draft.notice(target, "is no longer named by these pages")
            continue
        draft.files.add(made)
        sizes = draft.capture.sent_size(sheet), draft.capture.sent_size(made)
        draft.journal.write(Replaced(change.id, sheet.url, made.url, *sizes, pages))
        for home in homes:
            _bring(change, draft, home, pages)


def _bring(change: Change[HostParams], draft: Draft, home: Home, pages: frozenset[str]) -> None:
    result, here, small = home.found, home.here, home.small
    draft.files.add(here)
    size = draft.capture.sent_size(result)
    draft.journal.write(Replaced(change.id, result.url, here.url, size, draft.capture.sent_size(here), pages))
    if small and home.outcome:
        draft.work_cache.hand_over(home.outcome)
        draft.files.add(small)
        sizes = draft.capture.sent_size(here), draft.capture.sent_size(small)
        draft.journal.write(Offered(change.id, here.url, small.url, *sizes, pages))


def _point(change: Change[HostParams], draft: Draft, path: str, sheet: Exchange, made: Exchange) -> bool:
    """Let a page name the sheet at home; whether it names it, and may be edited."""
    parsed = draft.page(path)
    if parsed is None:
        return False
    page, document = parsed
    base = draft.texts.base(page)
    link = link_to(made.url, base)
    done = [
        draft.edits.edit(change, page, document.set_attribute(element, "href", link), "href")
        for element in _links(draft.capture, document, base, sheet)
    ]
    return bool(done) and all(done)


def _links(capture: Capture, document: Document, base: str, sheet: Exchange) -> list[Element]:
    """The tags by which a page names a sheet."""
    links = [e for e in document.elements if e.tag == "link" and not e.inert and e.attrs.get("href")]
    return [e for e in links if (url := resolve(base, e.attrs["href"])) and capture.lookup(url) == sheet]


def names_by_link(capture: Capture, document: Document, base: str, sheet: Exchange) -> bool:
    """Whether a page names a sheet by a tag of its own that does not insist on its content."""
    mine = _links(capture, document, base, sheet)
    return bool(mine) and not any(e.attrs.get("integrity", "").strip() for e in mine)


REMEDY = Remedy(
    name="host-fonts",
    phase="fonts",
    params=HostParams,
    title="Host fonts on this site",
    what="Font families of a font service, served from this site",
    detail=(
        "Serves the font service's style sheet and the recorded fonts from this site, each reduced to the characters "
        "in use. Any other character still comes from the original font. Browsers need no other host. The licence "
        "says whether you may host a family: read it before you publish."
    ),
    apply=apply,
    least_effort="bold",
    may_edit_pages=True,
    needs_new_names=True,
)
