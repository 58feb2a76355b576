"""How long the server takes to answer what opening a large site asks for, and switching one change in its plan."""

from __future__ import annotations

import json
import os
import statistics
import tempfile
import time
from collections.abc import Callable
from typing import Any

LIMIT = 0.1  # s
IMAGES, EXCESS = 5_000, 200
# What the front end reads when a site is opened.
READ = ("", "/job", "/plan", "/findings", "/run", "/weigh-ins")
ROUNDS = 9


def measure() -> tuple[str, str, bool]:
    """A site of 5,000 images, each with a change, and 200 rows, beside a site of one image, in one run."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ["MULE_DATA"] = folder
        os.environ["DJANGO_SETTINGS_MODULE"] = "server.settings"
        import django

        django.setup()
        from django.contrib.auth.models import User
        from django.core.management import call_command

        from tests.stored import stored_site

        call_command("migrate", verbosity=0)
        owner = User.objects.create_user("ada")
        small, large = (stored_site(owner, *size) for size in ((1, 1), (IMAGES, EXCESS)))
        (small_open, small_switch), (opening, switching) = (_answers(site) for site in (small, large))
    words = (
        f"opening {1000 * opening:.0f} ms ({opening / small_open:.1f} times a small site), "
        f"a switch {1000 * switching:.0f} ms ({switching / small_switch:.1f} times)"
    )
    return words, f"each under {1000 * LIMIT:.0f} ms", max(opening, switching) < LIMIT


def _answers(site: Any) -> tuple[float, float]:
    from django.test import Client

    client = Client(SERVER_NAME="localhost")
    client.force_login(site.owner)
    base = f"/api/sites/{site.pk}"

    def read() -> None:
        for path in READ:
            assert client.get(base + path).status_code == 200, path

    def switch() -> None:
        commands = [{"do": "switch", "ids": ["webp:/0.jpg"], "on": now["on"], "insist": False}]
        body = json.dumps({"version": now["version"], "commands": commands})
        answer = client.post(base + "/plan/commands", body, "application/json")
        assert answer.status_code == 200, answer.content
        now["version"], now["on"] = answer.json()["version"], not now["on"]

    now: dict[str, Any] = {"version": client.get(base + "/plan").json()["version"], "on": False}
    return _median(read), _median(switch)


def _median(what: Callable[[], None]) -> float:
    what()
    times = []
    for _ in range(ROUNDS):
        begin = time.perf_counter()
        what()
        times.append(time.perf_counter() - begin)
    return statistics.median(times)
