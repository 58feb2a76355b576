"""Functions of a script that no visitor has called yet are fetched when one is."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

from unladen.capture import Capture, Exchange
from unladen.markup.references import link_to, resolve
from unladen.markup.site import SiteTexts
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage, beside, made_file
from unladen.remedies.loader import policies_of
from unladen.remedies.spec import Remedy
from unladen.scripts.bodies import CutBodies, without_bodies
from unladen.work_cache import Outcome


@dataclass(frozen=True, slots=True, kw_only=True)
class BodiesParams(Params):
    """`functions`: the names of those that come later, which tell them by their text; in the order of the script."""

    functions: tuple[str, ...] = fields.names()

    def pieces(self) -> tuple[str, ...]:
        """Each function by itself."""
        return self.functions

    def sparing(self, pieces: Collection[str]) -> BodiesParams:
        """The same with these functions left where they are."""
        out = set(pieces)
        return replace(self, functions=tuple(name for name in self.functions if name not in out))

    def work(self) -> CutBodies:
        """What makes the file of what comes later."""
        return CutBodies(self.functions)


@dataclass(frozen=True, slots=True)
class Withhold:
    """Makes a script fetch the bodies of functions from `file`, of this digest."""

    functions: frozenset[str]
    file: str
    digest: str

    @classmethod
    def of(cls, script: Exchange, rest: Exchange, params: BodiesParams) -> Withhold:
        """For a script and what was made of it, beside it."""
        return cls(frozenset(params.functions), link_to(rest.url, script.url), rest.digest)

    def __call__(self, chars: str) -> str:
        return without_bodies(chars, self.functions, self.file, self.digest)


def rest_beside(capture: Capture, script: Exchange, made: Outcome) -> Exchange:
    """The exchange of the file of bodies, in the folder of the script."""
    return made_file(capture.base_url, beside(capture.base_url, script, made.digest, ".rest.json"), made)


def why_not(texts: SiteTexts, script: Exchange, pages: Collection[str]) -> str:
    """Why a script's functions cannot come later on these pages, "" if they can.

    They must be loaded by a tag of the page itself, where they can tell their own address, and may evaluate text there.
    """
    for path in pages:
        page = texts.capture.page(path)
        document = texts.document(page)
        if document is None:
            return f"{path} cannot be read"
        # Permissions Policy: `sync-xhr` is the request that a call waits for.
        if policies_of(page, document) or "sync-xhr" in page.header("permissions-policy"):
            return f"{path} has a policy on what may run there"
        base = texts.base(page)
        tags = [e for e in document.elements if e.tag == "script" and e.attrs.get("src")]
        mine = [
            e for e in tags if (result := resolve(base, e.attrs["src"])) and texts.capture.lookup(result) == script
        ]
        if not mine:
            return f"{path} loads it in a roundabout way"
        if any(e.attrs.get("type", "").lower() == "module" for e in mine):
            return f"{path} loads it as a module"
    return ""


def apply(change: Change[BodiesParams], draft: Draft) -> None:
    """Cut the targets for the pages in scope."""
    for path, script in draft.targets(change):
        users = draft.texts.users().get(script.url, set()).intersection(change.pages)
        if not users:
            draft.notice(path, "is used by none of these pages any more")
            continue
        if reason := why_not(draft.texts, script, sorted(users)):
            draft.notice(path, f"keeps its functions, since {reason}")
            continue
        made = draft.work_cache.outcome(script.digest, change.params.work())
        if made.refused:
            draft.notice(path, made.refused)
            continue
        draft.work_cache.hand_over(made)
        rest = rest_beside(draft.capture, script, made)
        if draft.edits.transform(change, script, Stage.BODIES, Withhold.of(script, rest, change.params)):
            draft.files.make(change, rest, frozenset(users))


REMEDY = Remedy(
    name="functions-when-called",
    phase="scripts",
    params=BodiesParams,
    title="Load on demand: script functions",
    defers=True,
    what="Functions that no page has called yet",
    detail=(
        "Moves functions that no walk has called into a second file. The first call to one of them loads that file "
        "and waits for it. Skipped for modules and on pages with a script policy."
    ),
    apply=apply,
    least_effort="bold",
    needs_new_names=True,
)
