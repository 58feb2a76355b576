"""Images so small that asking for them costs more than they weigh."""

from __future__ import annotations

from unladen.remedies import Change
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.site_facts import ImageUse
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.conditions import HEADER_BYTES

INLINE_BYTES = 2_000
_BASE64 = 4 / 3  # RFC 4648
_VIA = {"img", "style"}
_NEEDS = ("same files", "heavy images", "responsive images")


def find(context: Context) -> Found:
    """Small images that nothing else changes, each named in one place of the texts."""
    evidence = context.evidence
    changed = {path for name in _NEEDS for excess in context.before[name].excess for path in excess.targets}
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
        if gain > 0 and evidence.texts.within(uses, context.scope):
            saved[use.path] = gain
    return Found((_inlined(context, saved),) if saved else ())


def _inlined(context: Context, saved: dict[str, int]) -> Finding:
    uses = [use for use in context.evidence.images.values() if use.path in saved]
    pages = tuple(dict.fromkeys(page for use in uses for page in use.pages))
    one = len(saved) == 1
    return Finding(
        id="inline:small",
        excess="tiny-file",
        kind="images",
        title=f"{len(saved)} tiny image{'' if one else 's'}, each with its own request",
        why=f"Written into the text that names {'it' if one else 'them'}, no request is needed; the bytes are "
        "estimated.",
        pages=pages,
        bytes=sum(saved.values()),
        of_bytes=sum(context.evidence.capture.sent_size(use.exchange) for use in uses),
        requests=max(sum(page in use.pages for use in uses) for page in pages),
        tried=False,
        facts=FilesFacts(files=saved),
        changes=(Change("inline:small", "inline", tuple(sorted(saved)), context.scope),),
    )


def _is_lazy(use: ImageUse) -> bool:
    return any(showing.image.loading == "lazy" for showing in use.showings)


SURVEYOR = Surveyor("tiny images", find, (FilesFacts,), needs=_NEEDS, remedies=("inline",))
