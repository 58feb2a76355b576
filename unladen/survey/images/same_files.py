"""Images that come twice under different names."""

from __future__ import annotations

from collections import defaultdict

from unladen.remedies import Change
from unladen.remedies.images.merge import MergeParams
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.site_facts import ImageUse
from unladen.survey.spec import Context, Found, Surveyor


def find(context: Context) -> Found:
    """Files with the same content, of which one is enough, and the evidence with those merged."""
    evidence, texts = context.evidence, context.evidence.texts
    by_digest: dict[str, list[ImageUse]] = defaultdict(list)
    for use in evidence.images.values():
        by_digest[use.exchange.digest].append(use)
    findings: list[Finding] = []
    same: dict[str, str] = {}
    for uses in by_digest.values():
        if len(uses) < 2:
            continue
        kept, *others = sorted(uses, key=lambda use: (len(use.path), use.path))
        others = [o for o in others if texts.within(texts.all_uses().get(o.exchange.url, []), context.scope)]
        if not others:
            continue
        copies = sum(page in other.pages for page in kept.pages for other in others)
        size, targets = kept.exchange.size, tuple(other.path for other in others)
        change = Change(f"merge:{kept.path}", "merge", targets, context.scope, MergeParams(into=kept.path))
        findings.append(
            Finding(
                id=change.id,
                excess="same-file-twice",
                kind="images",
                title=f"{kept.name} exists under {len(uses)} names",
                why="The files are identical. One is enough, and the browser caches it.",
                pages=tuple(dict.fromkeys(page for use in uses for page in use.pages)),
                bytes=size * bool(copies),
                of_bytes=size * len(uses),
                requests=min(1, copies),
                tried=True,
                facts=FilesFacts(files={use.path: 0 for use in uses}),
                changes=(change,),
            )
        )
        same |= {other.exchange.url: kept.exchange.url for other in others}
    return Found(tuple(findings), evidence=evidence.merging(same) if same else None)


SURVEYOR = Surveyor("same files", find, (FilesFacts,), remedies=("merge",))
