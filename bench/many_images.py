"""10,000 images in one job: its memory, how the interface answers meanwhile, and how long one toggle takes."""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

IMAGES = 10_000
MEMORY, ANSWER, TOGGLE = 800_000_000, 1.0, 1.0
_PAGES = 50


def _make(folder: Path) -> None:
    from tests.sites import page, photo

    bodies = [photo(240, 160, seed, grain=4) for seed in range(40)]
    for number in range(IMAGES):
        # What follows the end of a JPEG is no part of the picture, but makes it a file of its own.
        (folder / f"{number}.jpg").write_bytes(bodies[number % 40] + str(number).encode())
    each = IMAGES // _PAGES
    for number in range(_PAGES):
        images = "".join(f"<img src={number * each + n}.jpg width=120 height=80>" for n in range(each))
        (folder / f"page{number}.html").write_bytes(page(images))


def child(source: str, target: str) -> None:
    """The job, in a process of its own.

    Take the site in, try out WebP for all, build; print the peak of this process and its workers, and toggles.
    """
    from tests.plans import change as made
    from unladen.build import build
    from unladen.capture import BodyStore, read_folder
    from unladen.plan import Plan
    from unladen.progress import Progress
    from unladen.raster.recode import Recipe
    from unladen.work_cache import WorkCache

    store = BodyStore(Path(target) / "bodies")
    capture = read_folder(Path(source), store)
    work_cache = WorkCache(Path(target) / "memo", store)
    images = [e for e in capture if e.media_type == "image/jpeg"]
    work_cache.outcomes([(e.digest, Recipe(0, "WEBP", 0.9)) for e in images], Progress(), "survey")
    pages = tuple("/" + page.path for page in capture.pages())
    changes = tuple(made(f"webp:/{e.path}", "webp", (f"/{e.path}",), pages, {"similarity": 0.9}) for e in images)
    plan = Plan("steady", changes)
    build(capture, plan, work_cache)
    times = []
    for change in changes[:3]:
        begin = time.perf_counter()
        without = plan.changed(lambda c, off=change: replace(c, on=c.id != off.id))  # type: ignore[misc]
        build(capture, without, work_cache)
        times.append(time.perf_counter() - begin)
    own = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    worker = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    print((own + 2 * worker) * 1024, sorted(times)[1])


def _answers(job: subprocess.Popen[str]) -> list[float]:
    """Seconds that the sheet of 10,000 rows takes to be answered, again and again while the job runs."""
    import django

    os.environ["DJANGO_SETTINGS_MODULE"] = "server.settings"
    django.setup()
    from django.contrib.auth.models import User
    from django.core.management import call_command
    from django.test import Client

    from tests.stored import stored_site

    call_command("migrate", verbosity=0)
    site = stored_site(User.objects.create_user("ada"), IMAGES, excess=0)
    client = Client(SERVER_NAME="localhost")
    client.force_login(site.owner)
    times = []
    while job.poll() is None:
        begin = time.perf_counter()
        assert client.get(f"/api/sites/{site.pk}/images").status_code == 200
        times.append(time.perf_counter() - begin)
        time.sleep(1)
    return sorted(times)


def measure() -> tuple[str, str, bool]:
    """The job in a process of its own, as the worker is; the answers in this one."""
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder) / "site", Path(folder) / "work"
        source.mkdir()
        target.mkdir()
        _make(source)
        os.environ["MULE_DATA"] = str(target)
        code = (
            f"from bench.many_images import child\nif __name__ == '__main__': child({str(source)!r}, {str(target)!r})"
        )
        job = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
        times = _answers(job)
        assert job.stdout is not None
        peak, toggle = job.stdout.read().split()
    middle = times[len(times) // 2]
    told = f"{int(peak) / 1e6:.0f} MB; the sheet answers in {middle:.2f} s; a toggle takes {float(toggle):.2f} s"
    wanted = f"under {MEMORY / 1e6:.0f} MB, {ANSWER:.0f} s and {TOGGLE:.0f} s"
    return told, wanted, int(peak) < MEMORY and middle < ANSWER and float(toggle) < TOGGLE
