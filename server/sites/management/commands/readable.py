"""`manage.py readable`: brings a database up to date and reads each row of it, before it takes the place of another."""

from __future__ import annotations

from typing import Any

from django.apps import apps
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import DatabaseError, connection


class Command(BaseCommand):
    """Ends with an error that names the table where one cannot be read."""

    help = "Bring a database up to date and read each row of it."

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            call_command("migrate", "--no-input", verbosity=0)
            connection.check_constraints()
        except Exception as error:  # whatever a strange database makes a migration raise
            raise CommandError(f"it cannot be brought up to date: {error}") from error
        for model in apps.get_models(include_auto_created=True):
            try:
                for _ in model._base_manager.iterator(chunk_size=200):
                    pass
            except (DatabaseError, ValueError, TypeError, KeyError) as error:
                raise CommandError(f"{model._meta.db_table}: {error}") from error
