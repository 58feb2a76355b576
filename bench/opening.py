"""What opening a large site, and switching one change in its plan, costs the server.

Its own time on the processor, since that of its neighbours says nothing of it.
"""

from __future__ import annotations

import importlib
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
        importlib.import_module("server.wsgi")  # what a server does when it starts
        from django.contrib.auth.models import User
        from django.core.management import call_command

        from tests.stored import stored_site

        call_command("migrate", verbosity=0)
        owner = User.objects.create_user("ada")
        sites = (stored_site(owner, *size) for size in ((1, 1), (IMAGES, EXCESS)))
        small, large = [_answers(site) for site in sites]
    opening, switching = large
    words = ", ".join(
        f"{what} {1000 * median:.0f} ms ({median / small_median:.1f} times a small site; the first time "
        f"{1000 * first:.0f} ms)"
        for what, (first, median), (_, small_median) in zip(("opening", "a switch"), large, small, strict=True)
    )
    # The first switch after a start reads the plan, which is told and not counted.
    return words, f"each under {1000 * LIMIT:.0f} ms", max(*opening, switching[1]) < LIMIT


def _answers(site: Any) -> tuple[tuple[float, float], tuple[float, float]]:
    """For opening and for a switch: the first time and the median of the others, in s."""
    from django.test import Client

    from server.sites import plans

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
    plans._latest = plans._Latest()  # as after a start
    return _first_and_median(read), _first_and_median(switch)


def _first_and_median(what: Callable[[], None]) -> tuple[float, float]:
    """The first time stands apart, since then the plan has to be read."""
    times = []
    for _ in range(ROUNDS):
        begin = time.process_time()
        what()
        times.append(time.process_time() - begin)
    return times[0], statistics.median(times[1:])
