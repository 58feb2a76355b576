"""What a platform writes into pages and nobody of today reads."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from unladen.capture.model import sent_body
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.extras import extras_in
from unladen.remedies import Change, Params
from unladen.survey.findings import Facts, Finding
from unladen.survey.spec import Context, Found, Surveyor


@dataclass(frozen=True, slots=True, kw_only=True)
class ExtrasFacts(Facts):
    """How many parts of each sort, over all pages."""

    about: Literal["extras"] = "extras"
    parts: dict[str, int]


def find(context: Context) -> Found:
    """At most one excess, for all pages that get lighter by it."""
    evidence = context.evidence
    saved: dict[str, int] = {}
    whole = 0
    parts: dict[str, int] = {}
    for path in evidence.pages:
        page = evidence.capture.page(path)
        document, text = evidence.texts.document(page), evidence.texts.text(page)
        extras = extras_in(document) if document else []
        if not extras or text is None:
            continue
        chars = apply_edits(text.chars, [Edit(extra.start, extra.end, "") for extra in extras])
        before, after = (len(sent_body(text.encode(some), page.encoding)[0]) for some in (text.chars, chars))
        if before > after:
            saved[path] = before - after
            whole += before
            for extra in extras:
                parts[extra.sort] = parts.get(extra.sort, 0) + 1
    if not saved:
        return Found()
    sorts = ", ".join(sorted(parts, key=lambda sort: -parts[sort]))
    excess = Finding(
        id="drop-extras",
        excess="extras",
        kind="documents",
        title=f"{sum(parts.values())} parts of {'pages' if len(saved) > 1 else 'a page'} that nobody needs",
        why=f"The platform adds them ({sorts}).",
        pages=tuple(saved),
        bytes=sum(saved.values()),
        of_bytes=whole,
        requests=0,
        tried=True,
        facts=ExtrasFacts(parts=parts),
        changes=(Change("drop-extras", "drop-extras", tuple(saved), tuple(saved), Params()),),
    )
    return Found((excess,))


SURVEYOR = Surveyor("extras", find, (ExtrasFacts,), remedies=("drop-extras",))
