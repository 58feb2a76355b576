"""Functions of scripts that nothing has ever called, in any load or walk of any page."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Literal

from unladen.capture import Exchange
from unladen.capture.model import sent_body
from unladen.errors import Notice
from unladen.markup.spans import Span
from unladen.remedies import Change
from unladen.remedies.scripts.functions_when_called import BodiesParams, Withhold, rest_beside, why_not
from unladen.remedies.scripts.minify_scripts import MinifyParams
from unladen.scripts.bodies import never_ran
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.conditions import LINKS

# Below that the wait at the first call is not worth it; of bytes transferred.
_WORTH, _SHARE = 2_000, 0.1
_WAITS_ON = LINKS[2]


@dataclass(frozen=True, slots=True, kw_only=True)
class FunctionsFacts(Facts):
    """`functions` that could come later, of `all` in the script; `rest_bytes` as sent come then, after about `wait`
    ms.
    """

    about: Literal["functions"] = "functions"
    functions: int
    all: int
    rest_bytes: int
    wait: int


def find(context: Context) -> Found:
    """One excess for each script of which all pages in scope have been walked over."""
    evidence = context.evidence
    if not evidence.walks:
        return Found()
    notices: list[Notice] = []
    findings: list[Finding] = []
    used = _used(evidence)
    walked = {(walk.page, walk.device.name) for walk in evidence.walks}
    weighed = {(weigh_in.page, weigh_in.conditions.device.name) for weigh_in in evidence.weigh_ins}
    for url in evidence.asked_for("scripts"):
        exchange = evidence.capture.exchanges[url]
        pages = evidence.texts.users().get(url, set()).intersection(context.scope)
        path = evidence.path(url)
        text = None if url in evidence.texts.pinned() else evidence.texts.text(exchange)
        if text is None or text.bom or text.charset != "utf-8" or url not in used or not pages:
            continue
        missing = sorted(place for place in weighed - walked if place[0] in pages)
        if missing:
            where = " on ".join(missing[0])
            notices.append(Notice(path, f"its functions stay, since nobody has walked over {where}"))
        elif reason := why_not(evidence.texts, exchange, sorted(pages)):
            notices.append(Notice(path, f"keeps its functions, since {reason}"))
        elif excess := _excess(context, exchange, text.chars, used[url], pages):
            findings.append(excess)
    return Found(tuple(findings), tuple(notices))


def _used(evidence: SiteFacts) -> Mapping[str, list[Span]]:
    """The used spans of scripts over all walks, by URL."""
    result: dict[str, list[Span]] = {}
    for walk in evidence.walks:
        for use in walk.files:
            exchange = evidence.capture.lookup(use.url) if use.kind == "scripts" else None
            if exchange is not None:
                result.setdefault(exchange.url, []).extend(use.used)
    return result


def _excess(
    context: Context, exchange: Exchange, chars: str, used: list[Span], pages: Collection[str]
) -> Finding | None:
    try:
        functions, count = never_ran(chars, used)
    except ValueError:
        return None
    evidence = context.evidence
    params = BodiesParams(functions=tuple(dict.fromkeys(f.name for f in functions if f.stub)))
    made = context.work_cache.outcome(exchange.digest, params.work())
    if made.refused:
        return None
    rest = rest_beside(evidence.capture, exchange, made)
    try:
        cut = Withhold.of(exchange, rest, params)(chars)
    except ValueError:
        return None
    # Both as they would be sent in the end, written shorter: names around a stub cannot be shortened any more.
    before, after = (_sent(context, exchange, text) for text in (chars, cut))
    if before - after < max(_WORTH, _SHARE * before):
        return None
    later = len(sent_body(context.work_cache.body(made), "br")[0])
    wait = round(_WAITS_ON.latency + later / _WAITS_ON.bytes_per_ms)
    path, moved = evidence.path(exchange.url), int(made.facts["functions"])
    everywhere = tuple(page for page in context.scope if page in pages)
    return Finding(
        id=f"functions:{path}",
        excess="uncalled-functions",
        kind="scripts",
        title=f"{path.rsplit('/', 1)[-1]}: {moved:,} of {count:,} functions were never called",
        why=(
            f"Not on any of {len(pages)} pages, by whatever the walks pressed. The first visitor who calls one "
            "waits for "
            f"{later / 1000:.0f} kB: about {wait:,} ms on {_WAITS_ON.label}."
        ),
        pages=tuple(sorted(pages)),
        bytes=before - after,
        of_bytes=before,
        requests=0,
        tried=True,
        facts=FunctionsFacts(functions=moved, all=count, rest_bytes=later, wait=wait),
        changes=(Change(f"functions-when-called:{path}", "functions-when-called", (path,), everywhere, params),),
    )


def _sent(context: Context, exchange: Exchange, chars: str) -> int:
    """Bytes as sent of a script once it is written shorter, if it can be."""
    data = chars.encode()
    outcome = context.work_cache.outcome_of(data, MinifyParams(names=context.effort.similarity < 1).work())
    return len(sent_body(data if outcome.refused else context.work_cache.body(outcome), exchange.encoding)[0])


SURVEYOR = Surveyor("uncalled functions", find, (FunctionsFacts,), remedies=("functions-when-called",))
