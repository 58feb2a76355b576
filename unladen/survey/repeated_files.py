"""Images that come twice under different names, and images so small that asking for them costs more than they weigh."""

from __future__ import annotations

from collections import defaultdict

from unladen.plan import Change
from unladen.survey.evidence import Evidence, ImageUse
from unladen.survey.finding import Excess
from unladen.survey.heavy_images import ImageSurvey
from unladen.weigh.conditions import HEADER_BYTES

INLINE_BYTES = 2_000
_BASE64 = 4 / 3  # RFC 4648
_VIA = {"img", "style"}


def duplicates(survey: ImageSurvey) -> list[Excess]:
    """Files with the same content, of which one is enough. Those merged are no candidates any more."""
    if survey.settings.same_names:
        return []
    by_digest: dict[str, list[ImageUse]] = defaultdict(list)
    for use in survey.evidence.images.values():
        by_digest[use.exchange.digest].append(use)
    found = []
    for uses in by_digest.values():
        if len(uses) < 2:
            continue
        kept, *others = sorted(uses, key=lambda use: (len(use.path), use.path))
        texts = survey.evidence.texts
        others = [o for o in others if texts.within(texts.all_uses().get(o.exchange.url, []), survey.scope)]
        twice = [page for page in kept.pages if any(page in other.pages for other in others)]
        if not others:
            continue
        targets = tuple(other.path for other in others)
        change = Change(f"merge:{kept.path}", "merge", targets, survey.scope, {"into": kept.path})
        copies = sum(page in other.pages for page in kept.pages for other in others)
        size = kept.exchange.size
        found.append(
            Excess(
                change.id, "same-file-twice", "images", f"{_name(kept)} comes under {len(uses)} names",
                "The files are the same, byte for byte; one of them is enough, and a visitor's cache keeps it.",
                tuple(dict.fromkeys(page for use in uses for page in use.pages)),
                size * bool(twice), size * len(uses), min(1, copies), True, change,
                {"files": [use.path for use in uses]},
            )
        )  # fmt: skip
        for other in others:
            kept.showings += other.showings
            for page in other.pages:
                kept.loaded_by(page)
            survey.evidence.merged[other.exchange.url] = kept.exchange.url
            del survey.evidence.images[other.exchange.url]
    return found


def tiny(survey: ImageSurvey, changed: set[str]) -> list[Excess]:
    """Small images that nothing else changes (`changed` holds paths), each named in one place of the texts."""
    evidence = survey.evidence
    if survey.settings.same_names:
        return []
    saved: dict[str, int] = {}
    uses_of = evidence.texts.all_uses()
    for use in evidence.images.values():
        size = evidence.capture.sent_size(use.exchange)
        uses = uses_of.get(use.exchange.url, [])
        if use.path in changed or use.exchange.size > INLINE_BYTES or len(uses) != 1:
            continue
        if uses[0].reference.via not in _VIA or not use.pages or _is_lazy(use):
            continue
        gain = round(HEADER_BYTES + size - size * _BASE64)
        if gain > 0 and evidence.texts.within(uses, survey.scope):
            saved[use.path] = gain
    if not saved:
        return []
    uses_ = [use for use in evidence.images.values() if use.path in saved]
    change = Change("inline:small", "inline", tuple(sorted(saved)), survey.scope)
    return [_inlined(evidence, saved, uses_, change)]


def _inlined(evidence: Evidence, saved: dict[str, int], uses: list[ImageUse], change: Change) -> Excess:
    pages = tuple(dict.fromkeys(page for use in uses for page in use.pages))
    requests = max(sum(page in use.pages for use in uses) for page in pages)
    one = len(saved) == 1
    return Excess(
        change.id, "tiny-file", "images", f"{len(saved)} tiny image{'' if one else 's'}, asked for one by one",
        f"Written into the text that names {'it' if one else 'them'}, no request is needed; the bytes are estimated.",
        pages, sum(saved.values()), sum(evidence.capture.sent_size(use.exchange) for use in uses), requests, False, change,
        {"files": saved},
    )  # fmt: skip


def _is_lazy(use: ImageUse) -> bool:
    return any(showing.image.loading == "lazy" for showing in use.showings)


def _name(use: ImageUse) -> str:
    return use.path.rsplit("/", 1)[-1]
