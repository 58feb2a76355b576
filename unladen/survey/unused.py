"""Parts of styles and scripts that no walk used on any page."""

from __future__ import annotations

from unladen.survey.evidence import Evidence
from unladen.survey.finding import Excess
from unladen.survey.usage import use_of_files

_WORTH = 2_000  # bytes transferred


def find(evidence: Evidence) -> list[Excess]:
    """One excess for each file with a part that could go, estimated in proportion to the bytes unused."""
    found = []
    for use in use_of_files(evidence.capture, evidence.walks):
        gain = use.transferred_unused
        if gain < _WORTH or not evidence.capture.owns(use.url):
            continue
        path = evidence.path(use.url)
        kind = "style sheet" if use.kind == "styles" else "script"
        share = 100 - round(100 * use.used / max(1, use.size))
        walked = f"Walks over {len(use.pages)} pages used {use.used:,} of its {use.size:,} bytes."
        found.append(
            Excess(
                id=f"unused:{path}",
                excess="unused",
                kind=use.kind,
                title=f"{path.rsplit('/', 1)[-1]}: {share} % of this {kind} was used nowhere",
                why=f"{walked} Transferred bytes are estimated in proportion.",
                pages=tuple(use.pages),
                bytes=gain,
                of_bytes=use.transferred,
                requests=0,
                tried=False,
                change=None,
                facts={"used": use.used, "size": use.size},
                advice="See the use map for what is used where. A walk proves use, never that a part is needed by nobody.",
                files=(path,),
            )
        )
    return found
