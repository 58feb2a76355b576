"""Tiny files whose request costs more than their bytes."""

from __future__ import annotations

from unladen.capture.model import sent_body
from unladen.markup.edits import apply_edits
from unladen.remedies import Change, Params
from unladen.remedies.markup.inline_code import tags_of, within
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.conditions import HEADER_BYTES

_OTHERS = ("held up", "first view", "imports", "widgets", "loaded twice")


def find(context: Context) -> Found:
    """At most one excess, for all of them."""
    evidence = context.evidence
    # Tags that other changes want to alter stay theirs.
    elsewhere = {target for _, change in context.reached(*_OTHERS) for target in change.targets}
    saved: dict[str, int] = {}
    pages: dict[str, None] = {}
    for path in evidence.pages:
        page = evidence.capture.page(path)
        document, text = evidence.texts.document(page), evidence.texts.text(page)
        if document is None or text is None:
            continue
        before = len(sent_body(text.encode(text.chars), page.encoding)[0])
        for element, file in tags_of(evidence.texts, page, document):
            inner = evidence.texts.text(file)
            if inner is None or evidence.path(file.url) in elsewhere:
                continue
            edit = within(document, element, file)
            chars = apply_edits(text.chars, [edit]).replace(f"\1{file.url}\1", inner.chars)
            gain = evidence.capture.sent_size(file) + HEADER_BYTES
            gain -= len(sent_body(chars.encode("utf-8", "replace"), page.encoding)[0]) - before
            if gain > 0:
                saved[evidence.path(file.url)] = max(gain, saved.get(evidence.path(file.url), 0))
                pages[path] = None
    if not saved:
        return Found()
    many = f"{len(saved)} scripts and style sheets are" if len(saved) > 1 else "A script or style sheet is"
    excess = Finding(
        id="inline-code",
        excess="tiny",
        kind="scripts" if any(path.endswith("js") for path in saved) else "styles",
        title=f"{many} smaller than the request for {'them' if len(saved) > 1 else 'it'}",
        why=f"Each costs a request and about {HEADER_BYTES} bytes of headers.",
        pages=tuple(pages),
        bytes=sum(saved.values()),
        of_bytes=sum(saved.values()),
        requests=len(saved),
        tried=True,
        facts=FilesFacts(files=saved),
        changes=(Change("inline-code", "inline-code", tuple(saved), tuple(pages), Params()),),
    )
    return Found((excess,))


SURVEYOR = Surveyor(
    "tiny code",
    find,
    (FilesFacts,),
    needs=_OTHERS,
    remedies=("inline-code",),
)
