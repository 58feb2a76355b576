"""The plan: edited by commands, with a history; carried out by a call of its own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, replace
from uuid import UUID

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, UploadedFile
from ninja.errors import HttpError

from server.api import present
from server.api.reading import ERRORS, FILE, READ, archive, as_it_is, json_file, owner_of, run_of, site_of, unchanged
from server.api.routing import ApiRouter
from server.api.schemas.commands import AcceptIn, CommandIn, EditIn, EmbedIn, ImagesIn, command_of
from server.api.schemas.common import JobOut
from server.api.schemas.plans import (
    GoIn,
    GoneRule,
    LightenIn,
    PictureSort,
    PlanEdited,
    PlanOut,
    RulesOut,
    RunIn,
    RunOut,
    RunRow,
    RunStarted,
    StayingOut,
    StaysOut,
    VersionEdit,
    VersionOut,
)
from server.audit import audited
from server.sites import jobs, plans, runs, storage
from server.sites.encoding import encoded
from server.sites.models import Job, PlanVersion, Site, StoredPreset
from unladen.ledger import read_ledger
from unladen.plan import (
    Accept,
    Accepted,
    ChooseEmbed,
    ChooseImages,
    Command,
    EmbedChoice,
    ImageChoice,
    ImageScope,
    LeaveOut,
    SetPicture,
    choices_for,
)
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.recode import STILL
from unladen.remedies.embeds.stills import Shown
from unladen.remedies.styles.trim_styles import TrimParams

_MOST_RULES = 200
router = ApiRouter(tags=["plans"])


@router.get("sites/{site_id}/plan", response={200: PlanOut | None, **READ})
def plan(request: HttpRequest, response: HttpResponse, site_id: UUID) -> HttpResponse | tuple[int, None] | None:
    """The plan as it stands; none before the first weigh-in."""
    site = site_of(request, site_id)
    if unchanged(request, response, site.head_id, site.run_id, plans.steps(site)):
        return 304, None
    return as_it_is(present.plan(site), response) if site.head else None


@router.post("sites/{site_id}/plan/commands", response={200: PlanEdited, **ERRORS})
@audited("edited the plan")
def edit(request: HttpRequest, site_id: UUID, body: EditIn) -> HttpResponse:
    """Edit the plan, all of it or nothing. 409 when it was edited elsewhere since: load it and say it again."""
    site = site_of(request, site_id)
    return edited(request, site, body.version, [_command(site, command) for command in body.commands])


def edited(request: HttpRequest, site: Site, version: UUID, commands: Sequence[Command]) -> HttpResponse:
    """The answer to an edit: what became of the plan."""
    before = plans.document_of(plans.head_of(site))
    plans.edit(site, version, commands)
    return as_it_is(present.plan_after(site_of(request, site.pk), before))


def _command(site: Site, body: CommandIn) -> Command:
    match body:
        case AcceptIn():
            return Accept(Accepted(body.page, body.device, body.key, body.text, body.why), body.off)
        case ImagesIn():
            choice = ImageChoice(body.format, body.width, body.likeness, body.quality)
            choices = choices_for(storage.images_of(site), body.paths, choice, family=body.family)
            return ChooseImages(choices, _scope(site), body.on)
        case EmbedIn():
            return ChooseEmbed(body.id, EmbedChoice(body.way, body.title, body.start, body.picture, body.below))
    command = command_of(body)
    if isinstance(command, LeaveOut):
        known = {"/" + page.path for page in storage.capture_of(site).pages()}
        if unknown := set(command.pages) - known:
            raise HttpError(422, f"{min(unknown)}: the site has no such page")
    return command


def _scope(site: Site) -> ImageScope:
    rows = site.weigh_ins.filter(pk__in=site.known.weigh_ins).values_list("page", flat=True)
    pages = tuple("/" + page.path for page in storage.capture_of(site).pages())
    return ImageScope(tuple(dict.fromkeys(rows)), pages)


@router.post("sites/{site_id}/plan/picture", response={200: PlanEdited, **ERRORS})
@audited("uploaded a picture")
def upload_picture(
    request: HttpRequest, site_id: UUID, picture: File[UploadedFile], id: Form[str], version: Form[UUID]
) -> HttpResponse:
    """Take a picture of the user's own for an embed's still."""
    site, name = site_of(request, site_id), picture.name or "the picture"
    if (picture.size or 0) > settings.DOCUMENT_LIMIT:
        raise HttpError(422, f"{name}: is larger than {settings.DOCUMENT_LIMIT // 10**6} MB")
    data = picture.read()
    try:
        info = probe(data)
    except ImageRefused as refused:
        raise HttpError(422, f"{name}: {refused}") from None
    store = storage.store(site.pk)
    digest = store.put(data)
    if reason := encoded(store, digest, STILL).refused:
        raise HttpError(422, f"{name}: {reason}")
    return edited(request, site, version, [SetPicture(id, digest, info.width, info.height)])


@router.get("sites/{site_id}/plan/picture", response=ERRORS, openapi_extra=FILE)
def show_picture(request: HttpRequest, site_id: UUID, id: str, which: PictureSort) -> HttpResponse:
    """A picture of an embed as its still would show it, coded by us."""
    site = site_of(request, site_id)
    change = plans.plan_of(plans.head_of(site)).change(id)
    shown = change.params.pictures_of(which) if change and isinstance(change.params, Shown) else ()
    store = storage.store(site.pk)
    made = encoded(store, shown[-1].digest, STILL) if shown and shown[-1].digest in store else None
    if made is None or made.refused:
        raise HttpError(404, "This picture does not exist. Reload the page.")
    headers = {"Cache-Control": "private, no-cache", "X-Content-Type-Options": "nosniff"}
    body = storage.work_cache(site.pk).body(made)
    return HttpResponse(body, content_type="image/webp", headers=headers)


@router.get("sites/{site_id}/plan/staying", response={200: StayingOut, **ERRORS})
def staying(request: HttpRequest, site_id: UUID, id: str, words: str = "") -> StayingOut:
    """What a trim of style sheets leaves where it is, and what keeps it."""
    site = site_of(request, site_id)
    change = plans.plan_of(plans.head_of(site)).change(id)
    if change is None or not isinstance(change.params, TrimParams):
        raise HttpError(404, "The plan has no such trim. Reload the page.")
    rules = [rule for rule in plans.staying_in(site, change) if words.lower() in f"{rule.what} {rule.why}".lower()]
    rows = [StaysOut(what=rule.what, why=rule.why, start=rule.start) for rule in rules[:_MOST_RULES]]
    return StayingOut(rules=rows, total=len(rules))


@router.get("sites/{site_id}/plan/rules", response={200: RulesOut, **ERRORS})
def rules(request: HttpRequest, site_id: UUID, id: str, words: str = "") -> RulesOut:
    """What a trim of style sheets takes out, and why."""
    site = site_of(request, site_id)
    plan = plans.plan_of(plans.head_of(site))
    change = plan.change(id)
    if change is None or not isinstance(change.params, TrimParams):
        raise HttpError(404, "The plan has no such trim. Reload the page.")
    outcome = runs.outcomes_of(site.run).carried_forward(plan).by_change.get(id)
    missed = tuple(piece for part in (outcome.parts if outcome else ()) for piece in part.pieces)
    rules = plans.rules_of(site, replace(change, params=change.params.sparing(missed)))
    wanted = [rule for rule in rules.gone if words.lower() in f"{rule.what} {rule.why}".lower()]
    rows = [GoneRule(**asdict(rule) | {"selectors": list(rule.selectors)}) for rule in wanted[:_MOST_RULES]]
    return RulesOut(
        gone=rows,
        total=len(wanted),
        selectors=rules.selectors,
        keep=list(change.params.keep),
        missed=list(missed),
    )


@router.get("sites/{site_id}/plan/versions", response={200: list[VersionOut], **ERRORS})
def versions(request: HttpRequest, site_id: UUID) -> list[VersionOut]:
    """All versions of the plan, the latest first."""
    return present.versions(site_of(request, site_id))


@router.post("sites/{site_id}/plan/go", response={200: PlanEdited, **ERRORS})
@audited("restored a version of the plan")
def go(request: HttpRequest, site_id: UUID, body: GoIn) -> HttpResponse:
    """Undo, redo, or go to any version: it is the plan from now on."""
    site = site_of(request, site_id)
    get_object_or_404(PlanVersion.objects.defer("document"), pk=body.to, site=site)
    before = plans.document_of(plans.head_of(site))
    plans.go_to(site, body.version, body.to)
    return as_it_is(present.plan_after(site_of(request, site_id), before))


@router.patch("sites/{site_id}/plan/versions/{version_id}", response={200: list[VersionOut], **ERRORS})
@audited("named a version of the plan")
def name_version(request: HttpRequest, site_id: UUID, version_id: UUID, body: VersionEdit) -> list[VersionOut]:
    """Name a version; those with a name are kept."""
    site = site_of(request, site_id)
    version = get_object_or_404(PlanVersion, pk=version_id, site=site)
    version.name = body.name.strip()
    version.save(update_fields=["name"])
    return present.versions(site)


@router.post("sites/{site_id}/lighten", response={200: JobOut, **ERRORS})
@audited("tried an effort")
def lighten(request: HttpRequest, site_id: UUID, body: LightenIn) -> Job:
    """Take the ready-made plan of an effort and carry it out; what the user decided stays."""
    site = site_of(request, site_id)
    plans.head_of(site)
    if body.preset is None:
        params = {"effort": body.effort.value, "first": body.page}  # type: ignore[attr-defined]
        return jobs.start(site, Job.Kind.LIGHTEN, params)
    preset = get_object_or_404(StoredPreset, pk=body.preset, owner=owner_of(request))
    return jobs.start(site, Job.Kind.LIGHTEN, {"preset": preset.document, "first": body.page})


@router.post("sites/{site_id}/runs", response={200: RunStarted, **ERRORS})
@audited("built the plan")
def carry_out(request: HttpRequest, site_id: UUID, body: RunIn) -> RunStarted:
    """Build, check and weigh a version of the plan; where an earlier run of the same stands, show that one."""
    site = site_of(request, site_id)
    version = get_object_or_404(PlanVersion, pk=body.version, site=site)
    known = None if body.again else runs.standing_for(site, version)
    if known is None:
        params = {"version": str(version.pk), "again": body.again, "first": body.page}
        return RunStarted(job=JobOut.from_orm(jobs.start(site, Job.Kind.CARRY_OUT, params)))
    jobs.expect_idle(site)
    Site.objects.filter(pk=site.pk).update(run=known)
    return RunStarted(job=None)


@router.get("sites/{site_id}/runs", response={200: list[RunRow], **ERRORS})
def history(request: HttpRequest, site_id: UUID) -> list[RunRow]:
    """All runs, the latest first."""
    return present.run_rows(site_of(request, site_id))


@router.get("sites/{site_id}/run", response={200: RunOut | None, **READ})
def shown_run(request: HttpRequest, response: HttpResponse, site_id: UUID) -> RunOut | tuple[int, None] | None:
    """The run that is shown, with its proof."""
    site = site_of(request, site_id)
    if unchanged(request, response, site.run_id):
        return 304, None
    return present.run(site.run) if site.run else None


@router.get("sites/{site_id}/lighter.zip", response=ERRORS, openapi_extra=FILE)
@audited("downloaded the lighter site")
def download(request: HttpRequest, site_id: UUID) -> FileResponse:
    """The lighter site."""
    return archive(site_of(request, site_id), "lighter")


@router.get("sites/{site_id}/changed.zip", response=ERRORS, openapi_extra=FILE)
@audited("downloaded the changed files")
def download_changed(request: HttpRequest, site_id: UUID) -> FileResponse:
    """Only the files that are new or differ, with the list of what to replace where."""
    return archive(site_of(request, site_id), "changed")


@router.get("sites/{site_id}/ledger.json", response=ERRORS, openapi_extra=FILE)
@audited("downloaded a ledger")
def ledger(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """The ledger as its published document."""
    site = site_of(request, site_id)
    return json_file(site, "ledger", read_ledger(run_of(site).ledger))
