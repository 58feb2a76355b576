"""Embeds: what stands in for them until they are wanted."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Field, File, Form, Router, Schema, UploadedFile
from ninja.errors import HttpError

from server.api.schemas import JobOut
from server.api.sites import ERRORS, carry_out, site_of
from server.sites import storage
from server.sites.encoding import encoded
from server.sites.models import Job, Site
from unladen.plan import EmbedChoice, Plan, pictures_for, with_embed, with_picture
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.recode import STILL

router = Router(tags=["embeds"])

_LARGEST = 20_000_000  # bytes of an uploaded picture


class EmbedIn(Schema):
    """How to treat an embed, by the id of its change."""

    id: str
    way: Literal["still", "link", "lazy", "leave", "near", "click", "act"]
    title: str = Field("", max_length=200)
    start: str = Field("", max_length=200)
    picture: Literal["seen", "poster", "own"] = "seen"
    below: int = Field(0, ge=0, le=4000)


def _plan_of(site: Site) -> Plan:
    if not site.plan:
        raise HttpError(409, "The site has not been weighed yet.")
    return Plan.from_json(site.plan)


def _changed(site: Site, edit: Callable[[Plan], Plan]) -> Job | None:
    plan = _plan_of(site)
    try:
        new = edit(plan)
    except ValueError as error:
        raise HttpError(422, str(error)) from None
    return carry_out(site, new, plan)


@router.post("sites/{site_id}/embeds/choose", response={200: JobOut | None, **ERRORS})
def choose(request: HttpRequest, site_id: UUID, body: EmbedIn) -> Job | None:
    """Treat an embed as chosen and carry the plan out; the answer is empty when that makes no difference."""
    site = site_of(request, site_id)
    return _changed(site, lambda plan: with_embed(plan, body.id, EmbedChoice(**body.dict(exclude={"id"}))))


@router.post("sites/{site_id}/embeds/picture", response={200: JobOut | None, **ERRORS})
def upload(request: HttpRequest, site_id: UUID, picture: File[UploadedFile], id: Form[str]) -> Job | None:
    """Take a picture of the user's own for an embed's still."""
    site, name = site_of(request, site_id), picture.name or "the picture"
    if (picture.size or 0) > _LARGEST:
        raise HttpError(422, f"{name}: is larger than {_LARGEST // 10**6} MB")
    data = picture.read()
    try:
        info = probe(data)
    except ImageRefused as refused:
        raise HttpError(422, f"{name}: {refused}") from None
    store = storage.store(site.pk)
    digest = store.put(data)
    if refused_ := encoded(store, digest, STILL).refused:
        raise HttpError(422, f"{name}: {refused_}")
    return _changed(site, lambda plan: with_picture(plan, id, digest, info.width, info.height))


@router.get("sites/{site_id}/embeds/picture", response=ERRORS)
def picture(request: HttpRequest, site_id: UUID, id: str, which: Literal["seen", "poster", "own"]) -> HttpResponse:
    """A picture of an embed as its still would show it, coded by us."""
    site = site_of(request, site_id)
    change = next((c for c in _plan_of(site).changes if c.id == id and c.remedy in ("embed", "hold")), None)
    pictures = pictures_for(change.params, which) if change else []
    store = storage.store(site.pk)
    if not pictures or pictures[-1]["digest"] not in store:
        raise HttpError(404, "There is no such picture.")
    made = encoded(store, pictures[-1]["digest"], STILL)
    if made.refused:
        raise HttpError(404, "There is no such picture.")
    headers = {"Cache-Control": "private, no-cache", "X-Content-Type-Options": "nosniff"}
    return HttpResponse(store.get(made.digest), content_type="image/webp", headers=headers)
