"""Presets: a way of working under a name, for all sites of a user."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja.errors import HttpError

from server.api.reading import ERRORS, owner_of, site_of
from server.api.routing import ApiRouter
from server.api.schemas.common import Problem
from server.api.schemas.presets import PresetIn, PresetOut
from server.api.schemas.sites import EffortName, RemedyName
from server.audit import audited
from server.sites import plans
from server.sites.models import StoredPreset
from unladen.plan.presets import Preset

router = ApiRouter(tags=["presets"])

_MOST_PRESETS = 50


@router.get("presets", response={200: list[PresetOut], 401: Problem})
def presets(request: HttpRequest) -> list[PresetOut]:
    """The caller's own ready-made plans."""
    return [_preset(row) for row in StoredPreset.objects.filter(owner=owner_of(request))]


def _preset(row: StoredPreset) -> PresetOut:
    read = Preset.from_json(row.document)
    return PresetOut(
        id=row.pk, name=row.name, effort=EffortName(read.effort), without=[RemedyName(name) for name in read.without]
    )


@router.post("sites/{site_id}/plan/preset", response={200: list[PresetOut], **ERRORS})
@audited("saved a preset")
def keep_preset(request: HttpRequest, site_id: UUID, body: PresetIn) -> list[PresetOut]:
    """Keep the way in which the plan treats its site, for any site; one of the same name is replaced."""
    site, owner = site_of(request, site_id), owner_of(request)
    name = body.name.strip()
    if not name:
        raise HttpError(422, "Enter a name for the preset.")
    mine = StoredPreset.objects.filter(owner=owner)
    if mine.exclude(name=name).count() >= _MOST_PRESETS:
        raise HttpError(422, f"The limit of {_MOST_PRESETS} presets is reached. Delete a preset first.")
    document = Preset.of(plans.plan_of(plans.head_of(site))).as_json()
    StoredPreset.objects.update_or_create(owner=owner, name=name, defaults={"document": document})
    return presets(request)


@router.delete("presets/{preset_id}", response={200: list[PresetOut], **ERRORS})
@audited("deleted a preset")
def delete_preset(request: HttpRequest, preset_id: UUID) -> list[PresetOut]:
    """Forget one; what was made with it stays."""
    get_object_or_404(StoredPreset, pk=preset_id, owner=owner_of(request)).delete()
    return presets(request)
