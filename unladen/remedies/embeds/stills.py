"""A still: a picture with a button stands in a frame until a visitor asks for what belongs there.

The frame itself stays, with all its attributes; `srcdoc` gives it the still for a document (HTML Standard, 4.8.5 "The
iframe element"), and the button sends it to its own address.
"""

from __future__ import annotations

import html
import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from urllib.parse import urlsplit

from unladen.capture import Exchange
from unladen.capture.addresses import url_of_path
from unladen.markup.html import Document, Element
from unladen.markup.references import link_to, resolve
from unladen.raster.recode import STILL
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.fields import Record
from unladen.remedies.journal import Withheld
from unladen.remedies.loader import may_run_inline

MOST_TITLE = 200  # characters of a title or query
WIDEST = 4_000  # CSS px of a window
WAYS = ("still", "link", "lazy")
# What a picture of an embed is of: as it looked, its own poster, the user's own.
PICTURES = {"seen": "pictures", "poster": "poster", "own": "own"}
KINDS = ("player", "map", "form", "feed", "frame", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class StillPicture(Record):
    """A picture in the store by its digest; `frame` is the width of the frame that it is for, all in CSS px."""

    digest: str = fields.text(64, "[0-9a-f]{64}")
    frame: int = fields.whole(0, 100_000)
    width: int = fields.whole(0, 100_000)
    height: int = fields.whole(0, 100_000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown(Params):
    """What a still shows: `kind` of embed, `title` on the button, and which of the pictures, a word of `PICTURES`."""

    kind: str = fields.word(*KINDS, default="")
    title: str = fields.text(MOST_TITLE, default="")
    picture: str = fields.word(*PICTURES, default="seen")
    pictures: tuple[StillPicture, ...] = fields.records(StillPicture)
    poster: tuple[StillPicture, ...] = fields.records(StillPicture)
    own: tuple[StillPicture, ...] = fields.records(StillPicture)

    def pictures_of(self, which: str = "") -> tuple[StillPicture, ...]:
        """The pictures of one sort, or of the sort that is to be shown."""
        pictures: tuple[StillPicture, ...] = getattr(self, PICTURES[which or self.picture])
        return pictures


@dataclass(frozen=True, slots=True, kw_only=True)
class EmbedParams(Shown):
    """`way`: `still`, `link` (which opens in a window of its own) or `lazy`, by the frame's own attribute.

    `start` is a query that makes a player play; in windows wider than `below` CSS px the frame shows its own address at
    once (0: in none).
    """

    way: str = fields.word(*WAYS, default="still")
    start: str = fields.text(MOST_TITLE, r"[^?#\"'<>\s]*", default="")
    below: int = fields.whole(0, WIDEST, 0)


_STYLE = (
    "*{box-sizing:border-box}html,body{height:100%;margin:0;background:#3b3a33}"
    ".s{position:absolute;inset:0;display:block;width:100%;height:100%;padding:0;border:0;background:0;cursor:pointer;"
    "font:16px/1.3 system-ui,sans-serif;text-align:left;text-decoration:none}"
    "img{position:absolute;inset:0;width:100%;height:100%;object-fit:cover}"
    "span{position:absolute;left:12px;bottom:12px;max-width:calc(100% - 24px);padding:8px 14px;border-radius:4px;"
    "background:#000d;color:#fff}"
    ".s:focus-visible::after{content:'';position:absolute;inset:3px;border:3px solid #fff;box-shadow:0 0 0 3px "
    "#000,inset 0 0 0 3px #000}"
)
# The connection is made ready when a visitor points at the button, not before.
_ASK = "document.querySelector('button').onclick=function(){frameElement.dispatchEvent(new Event('wanted'))}"
_SCRIPT = (
    "var b=document.querySelector('button'),u=b.value;b.onclick=function(){location.replace(u)};"
    "b.onpointerenter=b.onfocus=function(){b.onpointerenter=b.onfocus=null;"
    "var l=document.createElement('link');l.rel='preconnect';l.href=u;document.head.append(l)}"
)


def put_stills(change: Change[EmbedParams], draft: Draft) -> None:
    """Put stills for the targets into the pages in scope."""
    for path in change.pages:
        if not (parsed := draft.page(path)):
            continue
        page, document = parsed
        for target in change.targets:
            frames = frames_of(draft, page, document, target)
            if not frames:
                draft.notice(path, f"does not show {target} any more")
                continue
            pictures = files_of(change, draft, page, target)
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


def files_of(change: Change[Shown], draft: Draft, page: Exchange, target: str) -> list[tuple[int, Exchange]]:
    """For each shape the frame's width in CSS px and the file, the narrowest first."""
    made = []
    given = sorted(change.params.pictures_of(), key=lambda p: p.frame)
    root = draft.capture.lookup(target)
    for number, picture in enumerate(given):
        digest = picture.digest
        if digest not in draft.capture.store:
            draft.notice(target, "has a missing picture, so its placeholder is plain")
            continue
        outcome = draft.work_cache.outcome(digest, STILL)
        if outcome.refused:
            draft.notice(target, f"has a picture that {outcome.refused}, so its placeholder is plain")
            continue
        name = f"stills/{_name(change.params.title)}{f'-{number + 1}' if number else ''}.png"
        beside = Exchange(url_of_path(draft.capture.base_url, name), 200, (), "image/png", digest, 0, "", name)
        file = draft.files.new_file(beside, outcome, 0)
        draft.files.offer(change, root or beside, file, frozenset({draft.path(page)}))
        made.append((picture.frame, file))
    return made


def widget_document(change: Change[Shown], draft: Draft, page: Exchange, document: Document, target: str) -> str:
    """The document of a still that asks our own script for what it stands for."""
    base = draft.texts.base(page)
    links = [(width, link_to(file.url, base)) for width, file in files_of(change, draft, page, target)]
    shown = EmbedParams(kind=change.params.kind, title=change.params.title)
    return still_document(shown, "", links, language_of(document), scripted=True)


def language_of(document: Document) -> str:
    """The language of a page, "" if it does not say."""
    return next((e.attrs.get("lang", "") for e in document.elements if e.tag == "html"), "")


def _name(title: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:40] or "still"


def _stand_in(
    change: Change[EmbedParams], draft: Draft, page: Exchange, document: Document, frame: Element, target: str,
    pictures: Sequence[tuple[int, Exchange]],
) -> None:  # fmt: skip
    scripted = may_run_inline(page, document)
    language = language_of(document)
    base = draft.texts.base(page)
    links = [(width, link_to(file.url, base)) for width, file in pictures]
    text = still_document(change.params, frame.attrs["src"].strip(), links, language, scripted=scripted)
    allow = allowed(frame.attrs.get("allow", ""), target, plays=change.params.kind == "player")
    done = draft.edits.edit(change, page, document.set_attribute(frame, "srcdoc", text), "srcdoc")
    done = done and draft.edits.edit(change, page, document.set_attribute(frame, "data-still", "yes"), "data-still")
    if done and allow and change.params.way != "link":
        draft.edits.edit(change, page, document.set_attribute(frame, "allow", allow), "allow")
    if done:
        draft.journal.write(Withheld(change.id, target, draft.path(page)))


def still_document(
    params: EmbedParams, address: str, pictures: Sequence[tuple[int, str]], language: str, *, scripted: bool
) -> str:
    """The document that stands in a frame. `address` is the frame's own; without scripts a link does the same.

    Without an address the button tells the page that it was pressed.
    """
    title = params.title or urlsplit(address).hostname or address
    start = params.start
    goal = address if not start or params.way == "link" else f"{address}{'&' if '?' in address else '?'}{start}"
    label = f"<span>{'<i aria-hidden=true>▶ </i>' if params.kind == 'player' else ''}{html.escape(title)}</span>"
    inner = _picture(pictures) + label
    quoted = html.escape(goal, quote=True)
    link = f'<a class=s href="{quoted}">{inner}</a>'
    if not address:
        body = f"<button class=s type=button>{inner}</button><script>{_ASK}</script>"
    elif params.way == "link":
        body = link.replace("<a ", "<a target=_blank rel=noopener ", 1)
    elif scripted:
        button = f'<button class=s type=button value="{quoted}">{inner}</button>'
        without = f"<noscript><style>button{{display:none}}</style>{link}</noscript>"
        body = f"{button}{without}<script>{_SCRIPT}</script>"
        if below := params.below:  # before anything of the still is asked for
            escaped = html.escape(address, quote=True)
            wide = f"if(parent.innerWidth>{below})location.replace(document.currentScript.dataset.a)"
            body = f'<script data-a="{escaped}">{wide}</script>{body}'
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
    """What the frame may do, said of the embed's own origin, since a frame with a still starts out as one of the
    page's.

    Permissions Policy, 5.3 "allow attribute": a feature without origins means that of the frame's own address.
    """
    parts = urlsplit(target)
    origin = f"{parts.scheme}://{parts.netloc}"
    features: dict[str, str] = {"autoplay": origin} if plays else {}
    for entry in filter(None, (e.split() for e in allow.split(";"))):
        origins = [origin if o in ("'src'", "src") else o for o in entry[1:]] or [origin]
        features[entry[0]] = " ".join(origins)
    return "; ".join(f"{feature} {origins}" for feature, origins in features.items())
