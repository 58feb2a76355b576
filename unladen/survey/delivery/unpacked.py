"""Texts that a server packs anew for every visitor, and so in haste."""

from __future__ import annotations

from unladen.capture.mediatypes import is_compressible
from unladen.capture.packing import PackText
from unladen.remedies import Change
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor

_WORTH = 100  # bytes of all
_OTHERS = ("dead rules", "longhand")


def find(context: Context) -> Found:
    """One excess for all texts that visits asked for, tried out on them as found; what else may be done to them comes
    before it.
    """
    evidence = context.evidence
    pages = evidence.asked_for()
    files = {
        url: exchange
        for url in sorted(pages)
        if is_compressible((exchange := evidence.capture.exchanges[url]).media_type) and exchange.encoding != "packed"
    }
    going: dict[str, int] = {}
    for name in _OTHERS:
        for excess in context.before[name].excess:
            shares = getattr(excess.facts, "files", None) or dict.fromkeys(excess.targets, excess.bytes)
            for path, size in shares.items():
                going[path] = going.get(path, 0) + size
    jobs = {url: (exchange.digest, PackText()) for url, exchange in files.items()}
    outcomes = context.work_cache.outcomes(list(jobs.values()), context.progress, "survey")
    saved: dict[str, int] = {}
    sizes: dict[str, int] = {}
    for url, exchange in files.items():
        outcome, size = outcomes.get(jobs[url]), evidence.capture.sent_size(exchange)
        if outcome is None or outcome.refused:
            continue
        # In proportion, of what the others leave of it.
        path = evidence.path(url)
        remaining = max(0, size - going.get(path, 0))
        gain = round((size - outcome.size) * remaining / size) if size else 0
        # Small ones too: what else is done to them may make them larger, and a second pass would find them.
        if gain > 0:
            saved[path], sizes[path] = gain, remaining
    if sum(saved.values()) < _WORTH:
        return Found()
    one = len(saved) == 1
    excess = Finding(
        id="unpacked:texts",
        excess="packed-in-haste",
        kind="documents",
        title=f"{len(saved)} text{'' if one else 's'} compressed anew for every visitor",
        why="Compressed once, ahead of time, texts become smaller than a server makes them during a visit.",
        pages=tuple(dict.fromkeys(page for url in files if evidence.path(url) in saved for page in pages[url])),
        bytes=sum(saved.values()),
        of_bytes=sum(sizes.values()),
        requests=0,
        tried=not any(path in going for path in saved),
        facts=FilesFacts(files=saved),
        changes=(Change("precompress", "precompress", tuple(saved), context.everywhere),),
    )
    return Found((excess,))


SURVEYOR = Surveyor("unpacked texts", find, (FilesFacts,), needs=_OTHERS, remedies=("precompress",))
