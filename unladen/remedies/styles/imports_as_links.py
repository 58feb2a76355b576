"""Style sheets that others import are named by the pages themselves, so that a browser need not read one to learn of
the next.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.markup.css import css_urls
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.markup.site import SiteTexts
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import AddressOf, Draft, LinkedEdit, Stage
from unladen.remedies.draft.links import Part
from unladen.remedies.spec import Remedy
from unladen.remedies.styles.first_view_styles import links_of
from unladen.styles.rules import Node, tree

_DEEPEST = 10
# What a link cannot say (CSS Cascade Level 5, 2 "Importing style sheets").
_BEYOND = re.compile(r"\b(layer|supports|scope)\b", re.I)


@dataclass(frozen=True, slots=True)
class Imported:
    """A sheet that another imports, under these media ("" for all)."""

    sheet: Exchange
    media: str


def imports_of(texts: SiteTexts, sheet: Exchange, above: tuple[str, ...] = ()) -> list[Imported]:
    """All that a sheet imports, in the order in which it counts, with what those import.

    Raises `ValueError` with the reason where a link could not stand for one of them.
    """
    text = texts.text(sheet)
    if text is None:
        raise ValueError("imports a sheet that cannot be read")
    if sheet.url in above or len(above) > _DEEPEST:
        raise ValueError("imports in a circle, or too deep")
    imports: list[Imported] = []
    for _, address, condition in _statements(text.chars):
        url = resolve(sheet.url, address)
        file = texts.capture.lookup(url) if url else None
        if file is None or file.status != 200 or file.media_type != "text/css" or not texts.capture.owns(file.url):
            raise ValueError(f"imports {address}, which is no file of the site")
        if _BEYOND.search(condition):
            raise ValueError("imports under conditions that a link cannot say")
        if file.url in texts.pinned():
            raise ValueError("imports what another page takes by its integrity")
        for inner in imports_of(texts, file, (*above, sheet.url)):
            if inner.media and condition:
                raise ValueError("imports under conditions within conditions")
            imports.append(Imported(inner.sheet, inner.media or condition))
        imports.append(Imported(file, condition))
    return imports


def _statements(chars: str) -> Iterator[tuple[Node, str, str]]:
    """The imports of a sheet that count, with their address and condition: those before all other rules."""
    for node in tree(chars):
        if node.block.at == "@charset":
            continue
        if node.block.at != "@import" or not node.is_statement:
            return
        text = chars[node.block.start : node.block.end]
        addresses = list(css_urls(text))
        if not addresses:
            return
        rest = text[addresses[0].end :]
        yield node, addresses[0].value, rest.lstrip("\"')").strip().rstrip(";").strip()


def without_imports(chars: str) -> str:
    """A sheet without its imports."""
    return apply_edits(chars, [Edit(node.block.start, node.block.end, "") for node, _, _ in _statements(chars)])


def importing(
    texts: SiteTexts, page: Exchange, document: Document
) -> Iterator[tuple[Element, Exchange, list[Imported]]]:
    """The tags of a page for sheets that import others, which could be named in their place."""
    for element, sheet in links_of(texts, page, document):
        try:
            imports = imports_of(texts, sheet)
        except ValueError:
            continue
        if imports and not element.attrs.get("media", "").strip():
            yield element, sheet, imports


def apply(change: Change[Params], draft: Draft) -> None:
    """Let the pages in scope name what the targets, style sheets, import."""
    for path, sheet in draft.targets(change):
        try:
            imports = imports_of(draft.texts, sheet)
        except ValueError as error:
            draft.notice(path, str(error))
            continue
        users = draft.texts.users().get(sheet.url, set()).intersection(change.pages)
        pages = {name: page for name in users if (page := draft.page(name)) is not None}
        tags = {
            name: [entry for entry in importing(draft.texts, *page) if entry[1] == sheet]
            for name, page in pages.items()
        }
        if not imports or not users or not all(tags.get(name) for name in users):
            draft.notice(path, "is used in a way that pages cannot name what it imports")
        elif draft.edits.transform(change, sheet, Stage.IMPORTS, without_imports):
            _name(
                change, draft, imports, [(pages[name][0], element) for name in tags for element, _, _ in tags[name]]
            )


def _name(change: Change[Params], draft: Draft, found: list[Imported], tags: list[tuple[Exchange, Element]]) -> None:
    for sheet in {entry.sheet.url: entry.sheet for entry in found}.values():
        text = draft.texts.text(sheet)
        if text and list(_statements(text.chars)):
            draft.edits.transform(change, sheet, Stage.IMPORTS, without_imports)
    links: list[Part] = []
    for entry in found:
        media = f' media="{html.escape(entry.media)}"' if entry.media else ""
        links += ['<link data-unladen=import rel=stylesheet href="', AddressOf(entry.sheet.url), f'"{media}>']
    for page, element in tags:
        at = element.start
        edit = LinkedEdit(at, at, "", slot="unladen imports", adds=True, parts=tuple(links))
        draft.edits.edit(change, page, edit)


REMEDY = Remedy(
    name="imports-as-links",
    phase="styles",
    params=Params,
    title="Links instead of CSS imports",
    what="Style sheets that only other style sheets name",
    detail=(
        "Adds a link for each imported sheet, before the link of the importing sheet, in the same order and with the "
        "same media. The `@import` goes. Skipped where an import says more than a link can."
    ),
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
    steadies=True,
)
