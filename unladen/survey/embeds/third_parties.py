"""Embeds and third parties that bring much."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import Literal

from unladen.survey.amounts import requests_in_words, weight_of
from unladen.survey.embeds.frames import covered
from unladen.survey.findings import Facts, Finding
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.model import Request
from unladen.weigh.records.parties import EMBED, THIRD_PARTY, Party

_WORTH = 30_000  # bytes on one page


@dataclass(frozen=True, slots=True, kw_only=True)
class BringerFacts(Facts):
    """The hosts that it comes from."""

    about: Literal["bringer"] = "bringer"
    hosts: list[str]


def find(context: Context) -> Found:
    """One excess for each embed or third party, over all pages, at its heaviest weigh-in. Fonts have their own.

    What embeds and widgets speak of is not spoken of again.
    """
    evidence = context.evidence
    told = covered([*context.before["embeds"].excess, *context.before["widgets"].excess])
    brought: dict[Party, dict[str, list[Request]]] = defaultdict(dict)
    for weigh_in in evidence.weigh_ins:
        causes = evidence.causes(weigh_in)
        table: dict[Party, list[Request]] = defaultdict(list)
        for request, bringer in zip(causes.requests, causes.bringers, strict=True):
            if bringer.kind in (EMBED, THIRD_PARTY) and not request.cached and request.kind != "fonts":
                if request.url in told.get(weigh_in.page, ()):
                    continue
                table[bringer].append(request)
        for bringer, requests in table.items():
            known = brought[bringer].get(weigh_in.page, [])
            if weight_of(requests) > weight_of(known):
                brought[bringer][weigh_in.page] = requests
    findings = []
    for bringer, pages in sorted(brought.items(), key=lambda entry: entry[0].name):
        heaviest = max(pages.values(), key=weight_of)
        size = weight_of(heaviest)
        if size < _WORTH:
            continue
        scripts = sum(r.transferred for r in heaviest if r.kind == "scripts")
        what = "An embed from" if bringer.kind == EMBED else "A third party,"
        findings.append(
            Finding(
                id=f"brought:{bringer.kind}:{bringer.name}",
                excess="brought-by-others",
                kind="scripts" if scripts * 2 >= size else max(heaviest, key=lambda r: r.transferred).kind,
                title=f"{what} {bringer.name}, causes {requests_in_words(len(heaviest))}",
                why=f"All of it loads before a visitor wants it; {scripts:,} bytes are scripts.",
                pages=tuple(pages),
                bytes=size,
                of_bytes=size,
                requests=len(heaviest),
                tried=False,
                facts=BringerFacts(hosts=sorted({r.url.split("/")[2] for r in heaviest})),
                advice=(
                    "Replace it by a picture with a play button or by a link until a visitor wants it."
                    if bringer.kind == EMBED
                    else "Ask whether the site still needs it, and load it late or on the pages that use it."
                ),
                files=tuple(dict.fromkeys(r.url for r in heaviest)),
            )
        )
    return Found(tuple(findings))


SURVEYOR = Surveyor("third parties", find, (BringerFacts,), needs=("embeds", "widgets"))
