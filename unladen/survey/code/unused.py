"""Parts of styles and scripts that no walk used on any page."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from unladen.survey.code.usage import use_of_files
from unladen.survey.findings import Facts, Finding
from unladen.survey.spec import Context, Found, Surveyor

_WORTH = 2_000  # bytes transferred


@dataclass(frozen=True, slots=True, kw_only=True)
class UseFacts(Facts):
    """Decoded bytes of a file, and those used."""

    about: Literal["use"] = "use"
    used: int
    size: int


def find(context: Context) -> Found:
    """One excess for each file with a part that could go, estimated in proportion to the bytes unused."""
    evidence, findings = context.evidence, []
    trimmed = {path for excess in context.before["dead rules"].excess for path in excess.targets}
    for use in use_of_files(evidence.capture, evidence.walks):
        gain = use.transferred_unused
        if gain < _WORTH or not evidence.capture.owns(use.url) or evidence.path(use.url) in trimmed:
            continue
        path = evidence.path(use.url)
        kind = "style sheet" if use.kind == "styles" else "script"
        share = 100 - round(100 * use.used / max(1, use.size))
        walked = f"Walks over {len(use.pages)} pages used {use.used:,} of its {use.size:,} bytes."
        findings.append(
            Finding(
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
                facts=UseFacts(used=use.used, size=use.size),
                advice="See the use map for what is used where. A walk proves use, never that a part is needed by "
                "nobody.",
                files=(path,),
            )
        )
    return Found(tuple(findings))


SURVEYOR = Surveyor("unused code", find, (UseFacts,), needs=("dead rules",))
