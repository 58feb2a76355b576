"""The log of deeds becomes the audit log."""

from django.db import migrations


class Migration(migrations.Migration):
    """A table under another name, its rows as they were."""

    dependencies = [("sites", "0012_proofs_and_closer_looks")]
    operations = [migrations.RenameModel("Deed", "AuditEntry")]
