"""Scripts written shorter in their place."""

from __future__ import annotations

from dataclasses import dataclass, field

from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.spec import Remedy
from unladen.scripts.minify import MinifyScript
from unladen.work_cache import WorkCache


@dataclass(frozen=True, slots=True, kw_only=True)
class MinifyParams(Params):
    """`names`: also those that only the script's own functions know."""

    names: bool = fields.flag()

    def work(self) -> MinifyScript:
        """What is to be done to each."""
        return MinifyScript(self.names)


@dataclass(frozen=True, slots=True)
class _Minify:
    work: MinifyScript
    work_cache: WorkCache = field(compare=False)

    def __call__(self, chars: str) -> str:
        outcome = self.work_cache.outcome_of(chars.encode(), self.work)
        if outcome.refused:
            raise ValueError(outcome.refused)
        return self.work_cache.body(outcome).decode()


def apply(change: Change[MinifyParams], draft: Draft) -> None:
    """Write the targets shorter."""
    for _, exchange in draft.targets(change):
        draft.edits.transform(change, exchange, Stage.MINIFY, _Minify(change.params.work(), draft.work_cache))


REMEDY = Remedy(
    name="minify-scripts",
    phase="scripts",
    params=MinifyParams,
    title="Minify JavaScript",
    what="Removes comments and white space, shortens names",
    detail=(
        "Removes comments, white space and long-winded syntax. Licences stay. From steady on, it also shortens names "
        "that only functions of the script know. Names that other scripts could use stay. The file keeps its name."
    ),
    apply=apply,
)
