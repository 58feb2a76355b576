"""`manage.py demo`: the demo user with the made-up site, and the address that signs in."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from demo.generate import demo_archive
from server.pages import entry_token
from server.sites.site_import import take_in

USERNAME = "demo"
SITE_NAME = "Merrow Tide Mill"


class Command(BaseCommand):
    """Prepares the demo; a second run leaves what is there alone."""

    help = "Create the demo user and site, and print the token that signs in."

    def handle(self, *args: Any, **options: Any) -> None:
        users = get_user_model().objects
        user = users.filter(username=USERNAME).first() or users.create_user(USERNAME, is_staff=True)
        if not user.sites.filter(name=SITE_NAME).exists():
            archive = demo_archive()
            take_in(user, archive, archive.name, SITE_NAME)
        self.stdout.write(entry_token(user))
