"""Style sheets that a browser learns of only once it has read others."""

from __future__ import annotations

from unladen.remedies import Change, Params
from unladen.remedies.styles.imports_as_links import importing
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor


def find(context: Context) -> Found:
    """At most one excess, for all sheets that import others."""
    evidence = context.evidence
    pages: dict[str, dict[str, None]] = {}
    files: dict[str, int] = {}
    for path in evidence.pages:
        page = evidence.capture.page(path)
        document = evidence.texts.document(page)
        for _, sheet, findings in importing(evidence.texts, page, document) if document else ():
            pages.setdefault(evidence.path(sheet.url), {})[path] = None
            files |= {evidence.path(e.sheet.url): evidence.capture.sent_size(e.sheet) for e in findings}
    if not pages:
        return Found()
    every = tuple(dict.fromkeys(page for mine in pages.values() for page in mine))
    many = f"{len(files)} style sheets are" if len(files) > 1 else "A style sheet is"
    excess = Finding(
        id="imports-as-links",
        excess="holds-up",
        kind="styles",
        title=f"{many} discovered only after another has loaded",
        why="A style sheet names them by @import. Each step costs a round trip before the first paint.",
        pages=every,
        bytes=0,
        of_bytes=sum(files.values()),
        requests=0,
        tried=False,
        facts=FilesFacts(files=files),
        changes=(Change("imports-as-links", "imports-as-links", tuple(pages), every, Params()),),
    )
    return Found((excess,))


SURVEYOR = Surveyor("imports", find, (FilesFacts,), remedies=("imports-as-links",))
