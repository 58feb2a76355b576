"""A version says how many changes are on, without being read."""

from django.db import migrations, models


def forward(apps, schema_editor):
    """Count those that there are."""
    PlanVersion = apps.get_model("sites", "PlanVersion")
    for row in PlanVersion.objects.iterator():
        row.wanted = sum(bool(change.get("on", True)) for change in row.document["changes"])
        row.save(update_fields=["wanted"])


class Migration(migrations.Migration):
    dependencies = [("sites", "0005_what_is_shown")]

    operations = [
        migrations.AddField("planversion", "wanted", models.PositiveIntegerField(default=0)),
        migrations.RunPython(forward, migrations.RunPython.noop),
    ]
