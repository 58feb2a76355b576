"""What a job changes, stored as a whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from server.sites import plans, runs
from server.sites.models import PlanVersion, Run, Site, StoredWalk, StoredWeighIn
from unladen.plan import Command, Plan


@dataclass(slots=True)
class Outcome:
    """What a job changes: fields of its site, rows that come with them, edits of the plan as it is by then, a run.

    All of it is stored or nothing. `begins` is the plan of a site that has none; `base` and `plan` say what the run
    carried out: a plan made of that version. A run that stands `instead` of another one is shown where that one is.
    """

    fields: dict[str, Any] = field(default_factory=dict)
    weigh_ins: list[StoredWeighIn] = field(default_factory=list)
    walks: list[StoredWalk] = field(default_factory=list)
    begins: Plan | None = None
    commands: Sequence[Command] = ()
    run: Run | None = None
    base: PlanVersion | None = None
    plan: Plan | None = None
    instead: Run | None = None
    outdates: bool = False

    def store(self, site: Site) -> None:
        """Write it; must run in a transaction."""
        if self.begins is not None and site.baseline is None:
            site.weigh_ins.all().delete()
        StoredWeighIn.objects.bulk_create(self.weigh_ins)
        for walk in self.walks:
            site.walks.filter(page=walk.page, device=walk.device).delete()
        StoredWalk.objects.bulk_create(self.walks)
        if self.outdates:
            site.runs.update(state=Run.State.OUTDATED)
            self.fields |= {"run": None}
        if self.fields:
            Site.objects.filter(pk=site.pk).update(**self.fields)
        fresh = Site.objects.get(pk=site.pk)
        if fresh.head_id is None and self.begins is not None:
            plans.begin(fresh, self.begins)
        elif fresh.head_id is not None and self.commands:
            plans.edit(fresh, None, self.commands)
        if self.run is not None:
            self._store_run(self.run, site)

    def _store_run(self, run: Run, site: Site) -> None:
        assert self.base is not None and self.plan is not None
        fresh = Site.objects.select_related("head").get(pk=site.pk)
        # Where somebody edited the plan meanwhile, that edit stays, and the run stands on a version of its own.
        version = next(
            (v for v in (self.base, fresh.head) if v is not None and plans.plan_of(v) == self.plan), None
        ) or plans.apart(fresh, self.plan)
        run.version = version
        run.save()
        if self.instead is None or fresh.run_id == self.instead.pk:
            Site.objects.filter(pk=site.pk).update(run=run)
            fresh.run = run
        runs.tidy(fresh)
