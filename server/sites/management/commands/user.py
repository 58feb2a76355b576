"""`manage.py user NAME`: a user who may sign in. There is no open registration."""

from __future__ import annotations

import getpass
import sys
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser


class Command(BaseCommand):
    """Creates a user or gives one a new password, read from the terminal or from standard input."""

    help = "Create a user, or set a user's password."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--admin", action="store_true", help="an administrator, who can change all users")

    def handle(self, *args: Any, **options: Any) -> None:
        password = getpass.getpass("Password: ") if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
        user, created = get_user_model().objects.get_or_create(username=options["name"])
        try:
            validate_password(password, user)
        except ValidationError as error:
            if created:
                user.delete()
            raise CommandError(" ".join(error.messages)) from error
        user.set_password(password)
        user.is_staff = user.is_staff or options["admin"]
        user.save()
        self.stdout.write(f"{user.get_username()} {'can sign in now' if created else 'has a new password'}")
