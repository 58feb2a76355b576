"""Plans and results get rows of their own, so that both have a history."""

import uuid

import django.db.models.deletion
import django.utils.timezone
from django.db import migrations, models

# Names of remedies at the time of this change.
RENAMED = {
    "hold": "delay-scripts",
    "endless": "animations-as-films",
    "lazy": "lazy-images",
    "late": "lazy-backgrounds",
    "wait": "lazy-films",
}


def new_id(old):
    """The id of a change as documents of version 1 are read now."""
    for name, now in RENAMED.items():
        if old.startswith((f"{name}:", f"{name}-")):
            return now + old.removeprefix(name)
    return old


def new_excess(row):
    """An excess with facts that are told apart by their kind, and with the changes that cure it."""
    where = row["facts"].get("where", [])
    facts = {"about": "places", "where": where if isinstance(where, list) else []}
    rest = {name: value for name, value in row.items() if name not in ("facts", "curable")}
    kind = "animated-picture" if row["excess"] == "endless-picture" else row["excess"]
    changes = [new_id(row["id"])] if row.get("curable") else []
    return {**rest, "id": new_id(row["id"]), "excess": kind, "facts": facts, "changes": changes}


def new_pair(pair):
    """A pair with the width of its pictures."""
    widths = {"phone": 390, "tablet": 820, "desktop": 1280}
    device = pair["device"]
    own = device.partition("x")[0]
    return {**pair, "width": widths.get(device) or (int(own) if own.isdigit() else 0)}


def outcomes_of(plan, result):
    """What the latest result found of each change."""
    evidence = {pair.get("change"): new_pair(pair) for pair in result.get("evidence", [])}
    found = []
    for change in plan["changes"]:
        aside = change.get("set_aside", "")
        if aside:
            standing = "set aside"
        elif not change.get("on", True):
            continue
        else:
            standing = "kept all the same" if change.get("insist") else "passed"
        found.append(
            {
                "change": new_id(change["id"]),
                "standing": standing,
                "reason": aside,
                "pair": evidence.get(change["id"]),
                "judged": {},
            }
        )
    return found


def forward(apps, schema_editor):
    """Turn the plan of each site into a version and its result into a run."""
    Site, PlanVersion, Run = (apps.get_model("sites", name) for name in ("Site", "PlanVersion", "Run"))
    for site in Site.objects.all():
        if site.baseline:
            site.baseline["excess"] = [new_excess(row) for row in site.baseline["excess"]]
            site.baseline["surveyed"] = site.baseline["taken"]
        if site.plan:
            site.head = PlanVersion.objects.create(site=site, document=site.plan)
        result = site.result
        if result and site.head:
            # What was carried out is told by the result; the plan may have been edited since.
            carried = {**site.plan, "changes": result.get("plan", [])} if "plan" in result else site.plan
            same = [c for c in site.plan["changes"] if c.get("on") and not c.get("set_aside")] == carried["changes"]
            version = site.head if same else PlanVersion.objects.create(site=site, document=carried)
            site.run = Run.objects.create(
                site=site,
                version=version,
                ledger=result["ledger"],
                evidence={
                    "pairs": [new_pair(pair) for pair in result["pairs"]],
                    "outcomes": outcomes_of(site.plan, result),
                    "changed": result.get("changed", []),
                },
                index=result["index"],
                weighed={"before": site.baseline["weigh_ins"], "after": result["weigh_ins"]},
                archive={
                    "folder": ".",
                    "bytes": result["archive_bytes"],
                    "changed_bytes": result.get("changed_bytes", 0),
                },
                made=django.utils.timezone.datetime.fromisoformat(result["taken"]),
            )
        site.save()


class Migration(migrations.Migration):
    dependencies = [("sites", "0003_images")]

    operations = [
        migrations.CreateModel(
            name="PlanVersion",
            fields=[
                ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                ("name", models.CharField(blank=True, max_length=100)),
                ("document", models.JSONField()),
                ("made", models.DateTimeField(default=django.utils.timezone.now)),
                (
                    "parent",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="sites.planversion",
                    ),
                ),
                (
                    "site",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="versions", to="sites.site"
                    ),
                ),
            ],
            options={"ordering": ["made", "id"]},
        ),
        migrations.CreateModel(
            name="Run",
            fields=[
                ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                (
                    "state",
                    models.CharField(
                        choices=[("done", "Done"), ("outdated", "Outdated")], default="done", max_length=10
                    ),
                ),
                ("ledger", models.JSONField()),
                ("evidence", models.JSONField()),
                ("index", models.JSONField()),
                ("weighed", models.JSONField()),
                ("archive", models.JSONField()),
                ("made", models.DateTimeField(default=django.utils.timezone.now)),
                (
                    "site",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="runs", to="sites.site"
                    ),
                ),
                (
                    "version",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="runs", to="sites.planversion"
                    ),
                ),
            ],
            options={"ordering": ["-made", "id"]},
        ),
        migrations.AddField(
            model_name="site",
            name="head",
            field=models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to="sites.planversion",
            ),
        ),
        migrations.AddField(
            model_name="site",
            name="run",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="sites.run"
            ),
        ),
        migrations.RunPython(forward, migrations.RunPython.noop),
        migrations.RemoveField(model_name="site", name="plan"),
        migrations.RemoveField(model_name="site", name="result"),
    ]
