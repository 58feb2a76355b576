"""A still: a picture with a button stands in a frame until a visitor asks for what belongs there.

The frame itself stays, with all its attributes; `srcdoc` gives it the still for a document (HTML Standard, 4.8.5 "The
iframe element"), and the button sends it to its own address. Parameters: `pictures` (see the survey of embeds), `title`,
`kind`, `start` (a query that makes a player play), `way` (`still` or `link`, which opens in a window of its own), `below`
(in wider windows, in CSS px, the frame shows its own address at once; 0: in none).
"""

from __future__ import annotations

import html
import re
from collections.abc import Sequence
from itertools import pairwise
from typing import Any
from urllib.parse import urlsplit

from unladen.capture import Exchange
from unladen.capture.addresses import url_of_path
from unladen.markup.html import Document, Element
from unladen.markup.references import link_to, resolve
from unladen.plan import Change, pictures_for
from unladen.raster.recode import STILL
from unladen.remedies.draft import Draft
from unladen.remedies.loader import may_run_inline

_STYLE = (
    "*{box-sizing:border-box}html,body{height:100%;margin:0;background:#3b3a33}"
    ".s{position:absolute;inset:0;display:block;width:100%;height:100%;padding:0;border:0;background:0;cursor:pointer;"
    "font:16px/1.3 system-ui,sans-serif;text-align:left;text-decoration:none}"
    "img{position:absolute;inset:0;width:100%;height:100%;object-fit:cover}"
    "span{position:absolute;left:12px;bottom:12px;max-width:calc(100% - 24px);padding:8px 14px;border-radius:4px;"
    "background:#000d;color:#fff}"
    ".s:focus-visible::after{content:'';position:absolute;inset:3px;border:3px solid #fff;box-shadow:0 0 0 3px #000,inset 0 0 0 3px #000}"
)
# The connection is made ready when a visitor points at the button, not before.
_ASK = "document.querySelector('button').onclick=function(){frameElement.dispatchEvent(new Event('wanted'))}"
_SCRIPT = (
    "var b=document.querySelector('button'),u=b.value;b.onclick=function(){location.replace(u)};"
    "b.onpointerenter=b.onfocus=function(){b.onpointerenter=b.onfocus=null;"
    "var l=document.createElement('link');l.rel='preconnect';l.href=u;document.head.append(l)}"
)


def apply(change: Change, draft: Draft) -> None:
    """Put stills for the targets into the pages in scope."""
    for path in change.pages:
        if not (found := draft.page(path)):
            continue
        page, document = found
        for target in change.targets:
            frames = frames_of(draft, page, document, target)
            if not frames:
                draft.notice(path, f"does not show {target} any more")
                continue
            pictures = pictures_of(change, draft, page, target)
            for frame in frames:
                _stand_in(change, draft, page, document, frame, target, pictures)


def frames_of(draft: Draft, page: Exchange, document: Document, url: str) -> list[Element]:
    """The frames of a page that show an address and have no document of their own."""
    base = draft.texts.base(page)
    return [
        element
        for element in document.elements
        if element.tag == "iframe" and not element.inert and "srcdoc" not in element.attrs
        and resolve(base, element.attrs.get("src", "")) == url
    ]  # fmt: skip


def pictures_of(change: Change, draft: Draft, page: Exchange, target: str) -> list[tuple[int, Exchange]]:
    """For each shape the frame's width in CSS px and the file, the narrowest first."""
    made = []
    given = sorted(pictures_for(change.params), key=lambda p: int(p["frame"]))
    root = draft.capture.lookup(target)
    for number, picture in enumerate(given):
        digest = str(picture["digest"])
        if digest not in draft.capture.store:
            draft.notice(target, "has a picture that is not here, so its still is plain")
            continue
        outcome = draft.memo.recode(digest, STILL)
        if outcome.refused:
            draft.notice(target, f"has a picture that {outcome.refused}, so its still is plain")
            continue
        name = f"stills/{_name(str(change.params.get('title', '')))}{f'-{number + 1}' if number else ''}.png"
        beside = Exchange(url_of_path(draft.capture.base_url, name), 200, (), "image/png", digest, 0, "", name)
        file = draft.new_file(beside, outcome, 0)
        draft.offer(change, root or beside, file, frozenset({draft.path(page)}))
        made.append((int(picture["frame"]), file))
    return made


def widget_document(change: Change, draft: Draft, page: Exchange, document: Document, target: str) -> str:
    """The document of a still that asks our own script for what it stands for."""
    base = draft.texts.base(page)
    links = [(width, link_to(file.url, base)) for width, file in pictures_of(change, draft, page, target)]
    return still_document(change.params, "", links, language_of(document), scripted=True)


def language_of(document: Document) -> str:
    """The language of a page, "" if it does not say."""
    return next((e.attrs.get("lang", "") for e in document.elements if e.tag == "html"), "")


def _name(title: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:40] or "still"


def _stand_in(
    change: Change, draft: Draft, page: Exchange, document: Document, frame: Element, target: str,
    pictures: Sequence[tuple[int, Exchange]],
) -> None:  # fmt: skip
    scripted = may_run_inline(page, document)
    language = language_of(document)
    base = draft.texts.base(page)
    links = [(width, link_to(file.url, base)) for width, file in pictures]
    text = still_document(change.params, frame.attrs["src"].strip(), links, language, scripted=scripted)
    allow = allowed(frame.attrs.get("allow", ""), target, plays=change.params.get("kind") == "player")
    done = draft.edit(change, page, document.set_attribute(frame, "srcdoc", text), "srcdoc")
    done = done and draft.edit(change, page, document.set_attribute(frame, "data-still", "yes"), "data-still")
    if done and allow and change.params.get("way") != "link":
        draft.edit(change, page, document.set_attribute(frame, "allow", allow), "allow")
    if done:
        draft.journal.withheld[(target, draft.path(page))] = change.id


def still_document(
    params: dict[str, Any], address: str, pictures: Sequence[tuple[int, str]], language: str, *, scripted: bool
) -> str:
    """The document that stands in a frame. `address` is the frame's own; without scripts a link does the same.

    Without an address the button tells the page that it was pressed.
    """
    title = str(params.get("title", "")) or urlsplit(address).hostname or address
    start = str(params.get("start", ""))
    goal = (
        address if not start or params.get("way") == "link" else f"{address}{'&' if '?' in address else '?'}{start}"
    )
    label = (
        f"<span>{'<i aria-hidden=true>▶ </i>' if params.get('kind') == 'player' else ''}{html.escape(title)}</span>"
    )
    inner = _picture(pictures) + label
    quoted = html.escape(goal, quote=True)
    link = f'<a class=s href="{quoted}">{inner}</a>'
    if not address:
        body = f"<button class=s type=button>{inner}</button><script>{_ASK}</script>"
    elif params.get("way") == "link":
        body = link.replace("<a ", "<a target=_blank rel=noopener ", 1)
    elif scripted:
        button = f'<button class=s type=button value="{quoted}">{inner}</button>'
        without = f"<noscript><style>button{{display:none}}</style>{link}</noscript>"
        body = f"{button}{without}<script>{_SCRIPT}</script>"
        if below := int(params.get("below") or 0):  # before anything of the still is asked for
            own = html.escape(address, quote=True)
            wide = f"if(parent.innerWidth>{below})location.replace(document.currentScript.dataset.a)"
            body = f'<script data-a="{own}">{wide}</script>{body}'
    else:
        body = link
    lang = f" lang={html.escape(language, quote=True)}" if re.fullmatch(r"[A-Za-z0-9-]+", language) else ""
    return f"<!DOCTYPE html><html{lang}><title>{html.escape(title)}</title><style>{_STYLE}</style><main>{body}</main>"


def _picture(pictures: Sequence[tuple[int, str]]) -> str:
    if not pictures:
        return ""
    sources = "".join(
        f'<source media="(max-width:{(width + wider) // 2}px)" srcset="{html.escape(link)}">'
        for (width, link), (wider, _) in pairwise(pictures)
    )
    image = f'<img src="{html.escape(pictures[-1][1])}" alt="" loading=lazy>'
    return f"<picture>{sources}{image}</picture>" if sources else image


def allowed(allow: str, target: str, *, plays: bool) -> str:
    """What the frame may do, said of the embed's own origin, since a frame with a still starts out as one of the page's.

    Permissions Policy, 5.3 "allow attribute": a feature without origins means that of the frame's own address.
    """
    parts = urlsplit(target)
    origin = f"{parts.scheme}://{parts.netloc}"
    features: dict[str, str] = {"autoplay": origin} if plays else {}
    for entry in filter(None, (e.split() for e in allow.split(";"))):
        origins = [origin if o in ("'src'", "src") else o for o in entry[1:]] or [origin]
        features[entry[0]] = " ".join(origins)
    return "; ".join(f"{feature} {origins}" for feature, origins in features.items())
