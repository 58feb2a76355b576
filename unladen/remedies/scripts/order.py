"""The scripts of a page in their order, and which of them may change their place in it.

When scripts run: HTML Standard, 4.12.1 "The script element". Those without `defer` or `async` run where they stand and
hold the page up; deferred ones and modules run in their order once the page has been read; `async` ones when they come.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any, Literal
from urllib.parse import urlsplit

from unladen.capture import Exchange
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.markup.site import SiteTexts
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.scripts.names import OPAQUE, Names, names_of

# What makes a script classic (HTML Standard, 4.12.1.1; the JavaScript MIME types of WHATWG MIME Sniffing, 4.6, in use).
_CLASSIC = {
    "", "text/javascript", "application/javascript", "application/x-javascript", "application/ecmascript",
    "text/ecmascript", "text/jscript", "text/x-javascript",
}  # fmt: skip
# Blocks that browsers or libraries read as something else (HTML Standard, 4.12.1; Speculation Rules, WICG; common
# practice).
_DATA = ("importmap", "speculationrules", "json", "template", "html", "shader", "x-", "plain", "babel")
_WORD = re.compile(r"[A-Za-z_$][\w$]*")


@dataclass(frozen=True, slots=True)
class Tag:
    """A script of a page that a browser runs. `url`: that of its file in the capture, "" for one within the page.

    `known`: its text is there to be read. One that is not, and comes when it will, counts on nobody on the page but
    for the names that its address gives it to call.
    """

    element: Element
    url: str
    when: Literal["now", "deferred", "async"]
    names: Names
    module: bool = False
    known: bool = True


def scripts_of(texts: SiteTexts, page: Exchange, document: Document) -> list[Tag]:
    """The scripts that a page asks for by its markup, in order; not what is only data, or for old browsers."""
    base, scripts = texts.base(page), []
    for element in document.elements:
        sort = element.attrs.get("type", "").split(";")[0].strip().lower()
        module = sort == "module"
        if (
            element.tag != "script"
            or element.inert
            or not (module or sort in _CLASSIC)
            or "nomodule" in element.attrs
        ):
            continue
        source = element.attrs.get("src")
        url, chars = "", None
        if source is None:
            chars = document.chars[element.end : element.inner_end]
        else:
            address = resolve(base, source)
            exchange = texts.capture.lookup(address) if address else None
            text = texts.text(exchange) if exchange and exchange.status == 200 else None
            url, chars = (exchange.url if exchange else address or source), (text.chars if text else None)
        waits: Literal["now", "deferred", "async"] = "now"
        if "async" in element.attrs and (source is not None or module):
            waits = "async"
        elif module or ("defer" in element.attrs and source is not None):
            waits = "deferred"
        names = names_of(chars) if chars is not None else OPAQUE
        if chars is None and waits == "async":
            names = Names(asks=frozenset(_WORD.findall(urlsplit(url).query)))
        scripts.append(Tag(element, url, waits, names, module, chars is not None))
    return scripts


def held_by_the_page(document: Document) -> list[Element]:
    """Scripts that a page holds back by a way of its own: with an address, and of a sort that no browser runs."""
    return [
        element
        for element in document.elements
        if element.tag == "script"
        and not element.inert
        and _is_held(element.attrs)
        and "data-unladen" not in element.attrs
    ]


def _is_held(attrs: dict[str, str]) -> bool:
    sort = attrs.get("type", "").split(";")[0].strip().lower()
    if sort == "module" or sort in _CLASSIC or any(word in sort for word in _DATA):
        return False
    return "src" in attrs or any(name.startswith("data-") and "src" in name for name in attrs)


def may_defer(tags: Sequence[Tag], wanted: Collection[str]) -> tuple[list[Tag], dict[str, str]]:
    """Which of the wanted scripts (URLs) may run after the page has been read, and why others may not.

    Whatever still runs before, and stands behind one of them, must need nothing of it.
    """
    chosen: set[int] = set()
    reasons: dict[str, str] = {}
    for i in range(len(tags) - 1, -1, -1):
        tag = tags[i]
        if tag.url not in wanted or not tag.url or tag.when != "now":
            continue
        later = next(
            (o for j, o in enumerate(tags[i + 1 :], i + 1) if _runs_first(o, j, chosen) and _needs(o, tag)), None
        )
        # What is deferred already runs before those behind it, and so far ran after this one.
        earlier = next((o for o in tags[:i] if o.when == "deferred" and _needs(o, tag)), None)
        if not tag.known:
            reasons[tag.url] = "it is not in the recording, so that nobody can read it"
        elif tag.names.writes:
            reasons[tag.url] = "it writes into the page while it loads"
        elif later or earlier:
            other = later or earlier
            assert other is not None
            reasons[tag.url] = f"{_called(other)} may need it at once"
        else:
            chosen.add(i)
    taken = [tags[i] for i in sorted(chosen)]
    # A file that stands there twice goes as a whole or not at all.
    whole = [tag for tag in taken if tag.url not in reasons]
    return whole, reasons


def may_wait(tags: Sequence[Tag], wanted: Collection[str]) -> tuple[list[Tag], dict[str, str]]:
    """Which scripts wait, in order, when the wanted ones (URLs) do, and why some of those do not.

    Those within the page that may need one of them wait as well; what stays at once takes along all that it may need.
    """
    reasons: dict[str, str] = {}
    for tag in tags:
        if tag.url in wanted and not tag.known:
            reasons[tag.url] = "it is not in the recording, so that nobody can read it"
        elif tag.url in wanted and tag.names.writes:
            reasons[tag.url] = "it writes into the page while it loads"
    while True:
        held = _waiting(tags, set(wanted).difference(reasons))
        refused = _needed_at_once(tags, held)
        if not refused:
            return [tags[i] for i in held], reasons
        reasons |= refused


def _waiting(tags: Sequence[Tag], wanted: Collection[str]) -> list[int]:
    """The wanted scripts, and those within the page behind them that may need one, by their places."""
    held: list[int] = []
    for i, tag in enumerate(tags):
        if tag.url in wanted if tag.url else not tag.names.writes and any(_needs(tag, tags[j]) for j in held):
            held.append(i)
    return held


def _needed_at_once(tags: Sequence[Tag], held: Sequence[int]) -> dict[str, str]:
    """The files among those that wait which something that does not wait may need, and what that is."""
    result: dict[str, str] = {}
    for i, tag in enumerate(tags):
        if i in held:
            continue
        for j in held:
            # A script that runs where it stands counts on nobody behind it.
            if (j < i or tag.when != "now") and _needs(tag, tags[j]):
                # What waits within the page does so for others.
                files = (
                    [tags[j]] if tags[j].url else [tags[k] for k in held if tags[k].url and _needs(tags[j], tags[k])]
                )
                result |= {file.url: f"{_called(tag)} may need it at once" for file in files}
    return result


def targets_by_url(change: Change[Any], draft: Draft) -> dict[str, str]:
    """The targets of a change by the addresses of their files."""
    return {file.url if (file := draft.exchange(path)) else path: path for path in change.targets}


def _runs_first(tag: Tag, place: int, deferred: Collection[int]) -> bool:
    """Whether a script may run before those that are deferred."""
    return place not in deferred and tag.when != "deferred"


def _needs(tag: Tag, other: Tag) -> bool:
    return tag is not other and (not tag.url or tag.url != other.url) and tag.names.needs(other.names)


def _called(tag: Tag) -> str:
    return tag.url.rpartition("/")[2] or tag.url if tag.url else "a script within the page"
