"""What a page shows is called so in the summaries of weigh-ins."""

from django.db import migrations


def forward(apps, schema_editor):
    """Give the entry its name of now."""
    WeighIn = apps.get_model("sites", "StoredWeighIn")
    for row in WeighIn.objects.only("summary").iterator():
        if "spots" in row.summary:
            row.summary["shown"] = row.summary.pop("spots")
            row.save(update_fields=["summary"])


class Migration(migrations.Migration):
    dependencies = [("sites", "0004_versions_and_runs")]

    operations = [migrations.RunPython(forward, migrations.RunPython.noop)]
