"""Scripts and style sheets with comments and white space that visitors pay for."""

from __future__ import annotations

from unladen.capture import Exchange
from unladen.capture.mediatypes import is_page
from unladen.capture.model import sent_body
from unladen.markup.text import Text
from unladen.markup.tidy import tidied
from unladen.remedies import Change
from unladen.remedies.change import Params
from unladen.remedies.scripts.minify_scripts import MinifyParams
from unladen.styles.minify import minified
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor

_NAMES = {"scripts": "script", "styles": "style sheet", "documents": "page"}
_WORTH, _SHARE = 150, 0.02  # bytes transferred of one file, and of its own


def find(context: Context) -> Found:
    """One excess for all scripts, one for all style sheets and one for all pages."""
    findings = [excess for excess in (_scripts(context), _styles(context), _pages(context)) if excess]
    return Found(tuple(findings))


def _asked_for(context: Context, kind: str) -> dict[str, tuple[Exchange, Text, list[str]]]:
    """Files of the site of this kind that may be changed, each with its text and the pages that asked for it."""
    evidence = context.evidence
    exchanges = {}
    for url, pages in evidence.asked_for(kind).items():
        exchange = evidence.capture.exchanges[url]
        text = None if url in evidence.texts.pinned() else evidence.texts.text(exchange)
        if text is not None:
            exchanges[url] = exchange, text, pages
    return exchanges


def _scripts(context: Context) -> Finding | None:
    files = _asked_for(context, "scripts")
    params = MinifyParams(names=context.effort.similarity < 1)
    plain = {url: exchange for url, (exchange, text, _) in files.items() if not text.bom and text.charset == "utf-8"}
    outcomes = context.work_cache.outcomes(
        [(e.digest, params.work()) for e in plain.values()], context.progress, "survey"
    )
    saved = {}
    for url, exchange in plain.items():
        outcome = outcomes.get((exchange.digest, params.work()))
        if outcome is not None and not outcome.refused:
            body = context.work_cache.body(outcome)
            saved[url] = _sent(exchange, context.work_cache.input(exchange.digest)), _sent(exchange, body)
    return _excess(context, "scripts", files, saved, "minify-scripts", params)


def _styles(context: Context) -> Finding | None:
    """What is saved of what is left once dead rules are gone."""
    files = _asked_for(context, "styles")
    remaining = context.before["dead rules"].notes
    assert isinstance(remaining, dict)
    saved = {}
    for url, (exchange, text, _) in files.items():
        chars = remaining.get(url, text.chars)
        try:
            saved[url] = _sent(exchange, text.encode(chars)), _sent(exchange, text.encode(minified(chars)))
        except ValueError:
            continue
    return _excess(context, "styles", files, saved, "minify-styles", Params())


def _pages(context: Context) -> Finding | None:
    files = _asked_for(context, "documents")
    remaining = context.before["dead rules"].notes
    assert isinstance(remaining, dict)
    saved = {}
    for url, (exchange, text, _) in files.items():
        if is_page(exchange.media_type):
            chars = remaining.get(url, text.chars)
            saved[url] = _sent(exchange, text.encode(chars)), _sent(exchange, text.encode(tidied(chars)))
    return _excess(context, "documents", files, saved, "tidy-markup", Params())


def _sent(exchange: Exchange, body: bytes) -> int:
    return len(sent_body(body, exchange.encoding)[0])


def _excess(
    context: Context,
    kind: str,
    files: dict[str, tuple[Exchange, Text, list[str]]],
    sizes: dict[str, tuple[int, int]],
    remedy: str,
    params: Params,
) -> Finding | None:
    evidence = context.evidence
    saved = {
        url: before - after
        for url, (before, after) in sorted(sizes.items())
        if before - after >= max(_WORTH, _SHARE * before)
    }
    if not saved:
        return None
    what = _NAMES[kind] + ("" if len(saved) == 1 else "s")
    targets = {evidence.path(url): gain for url, gain in saved.items()}
    return Finding(
        id=f"longhand:{kind}",
        excess="longhand",
        kind=kind,
        title=f"{len(saved)} {what} with comments and white space",
        why="Browsers need neither.",
        pages=tuple(dict.fromkeys(page for url in saved for page in files[url][2])),
        bytes=sum(saved.values()),
        of_bytes=sum(sizes[url][0] for url in saved),
        requests=0,
        tried=True,
        facts=FilesFacts(files=targets),
        changes=(Change(remedy, remedy, tuple(targets), context.everywhere, params),),
    )


SURVEYOR = Surveyor(
    "longhand",
    find,
    (FilesFacts,),
    needs=("dead rules",),
    remedies=("minify-scripts", "minify-styles", "tidy-markup"),
)
