"""Ready-made plans of one's own, beside the efforts: a way to treat any site, taken from the plan of one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from unladen.errors import BadInput
from unladen.plan.document import Plan
from unladen.plan.efforts import EFFORTS
from unladen.remedies import Delivery, ImageSettings, remedies
from unladen.remedies.fields import FieldRefused

FORMAT = "unladen/preset/1"


@dataclass(frozen=True, slots=True)
class Preset:
    """An effort, the settings that it is taken under, and the remedies that it does without."""

    effort: str
    images: ImageSettings
    delivery: Delivery
    without: tuple[str, ...] = ()

    @classmethod
    def of(cls, plan: Plan) -> Preset:
        """The way in which a plan treats its site: a remedy of which it has changes and wants none is left out."""
        there = {change.remedy for change in plan.changes}
        wanted = {change.remedy for change in plan.changes if change.on}
        without = tuple(remedy.name for remedy in remedies() if remedy.name in there - wanted)
        # A plan that wants nothing yet says nothing of remedies.
        return cls(plan.effort, plan.images, plan.delivery, without if wanted else ())

    def applied_to(self, proposal: Plan) -> Plan:
        """A proposal, made under this effort and these settings, without what is left out: that is off."""
        off = [change.id for change in proposal.changes if change.remedy in self.without]
        return proposal.without(off)

    def as_json(self) -> dict[str, Any]:
        """Plain values, for `from_json`."""
        return {
            "format": FORMAT,
            "effort": self.effort,
            "images": self.images.as_json(),
            "delivery": self.delivery.as_json(),
            "without": list(self.without),
        }

    @classmethod
    def from_json(cls, data: Any, name: str = "preset") -> Preset:
        """Raises `BadInput`. A remedy that is not known any more is left out of what is left out."""
        if not isinstance(data, Mapping) or data.get("format") != FORMAT:
            raise BadInput(name, f"is not a preset in the format {FORMAT}")
        if data.get("effort") not in EFFORTS:
            raise BadInput(name, f"has an effort other than {', '.join(EFFORTS)}")
        known = [remedy.name for remedy in remedies()]
        without = data.get("without", [])
        if not isinstance(without, list):
            raise BadInput(name, "has no list of remedies to do without")
        try:
            settings = ImageSettings.from_json(data.get("images", {})), Delivery.from_json(data.get("delivery", {}))
        except FieldRefused as refused:
            raise BadInput(name, str(refused)) from None
        return cls(data["effort"], *settings, tuple(word for word in known if word in without))
