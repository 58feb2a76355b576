"""Sites in the database as a survey of a large one leaves them, without weighing any. Django must be set up before."""

from __future__ import annotations

from uuid import uuid4

from django.contrib.auth.models import User

from server.sites import plans, storage
from server.sites.documents import Baseline
from server.sites.models import Site
from tests.plans import change as made
from tests.sites import page
from unladen.capture import Capture, Exchange
from unladen.plan import Plan
from unladen.survey import SiteImage
from unladen.survey.findings import Finding, PlaceFacts
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.records.model import PageFacts, Request, Timings, Visit, WeighIn


def stored_site(owner: User, images: int, excess: int, changes: int = 0) -> Site:
    """A site in the database with so many images, rows of excess and changes, as a survey of a large one leaves it."""
    host = "https://site.example/"
    rows = [
        SiteImage(f"/{n}.jpg", f"{host}{n}.jpg", "0" * 64, "JPEG", 240, 160, 9000, 0, 1, ["/page0.html"], ["img"])
        for n in range(images)
    ]
    wanted = [
        made(f"webp:/{n}.jpg", "webp", (f"/{n}.jpg",), ("/page0.html",), {"similarity": 0.97}, on=n % 2 == 0)
        for n in range(changes or images)
    ]
    worth = [
        Finding(
            f"weight:/{n}.jpg",
            "weight",
            "images",
            f"{n}.jpg could be WebP",
            "The same picture in fewer bytes.",
            ("/page0.html",),
            9000 - n,
            9000,
            0,
            True,
            PlaceFacts(where=["html>body>img"]),
            (wanted[n],),
        )
        for n in range(excess)
    ]
    key = uuid4()
    store = storage.store(key)
    text = page("<img src=0.jpg>", "", "Many")
    html = Exchange(
        f"{host}page0.html",
        200,
        (("content-type", "text/html"),),
        "text/html",
        store.put(text),
        len(text),
        "",
        "page0.html",
    )
    files = [
        Exchange(row.url, 200, (("content-type", "image/jpeg"),), "image/jpeg", row.digest, 9000, "", row.path[1:])
        for row in rows
    ]
    exchanges = {exchange.url: exchange for exchange in (html, *files)}
    index = Capture(host, exchanges, store).to_index()
    site = Site.objects.create(pk=key, owner=owner, name="Many", index=index, images=[row.as_json() for row in rows])
    conditions = [Conditions(DEVICES[name]) for name in ("phone", "desktop")]
    stored = []
    for condition in conditions:
        request = Request(f"{host}page0.html", "documents", 200, 5000, 9000, ended=50, responded=40)
        visit = Visit([request] * 120, timings=Timings(200, 400, 300, 2600))
        weigh_in = WeighIn("/page0.html", condition, visit, PageFacts(), [visit.timings], "Chromium 1", "")
        row = storage.row_of(site, "found", weigh_in, host)
        row.save()
        stored.append(str(row.pk))
    moment = "2026-01-01T00:00:00Z"
    site.baseline = Baseline(stored, [row.as_json() for row in worth], taken=moment, surveyed=moment)
    site.save()
    plans.begin(site, Plan("steady", tuple(wanted)))
    site.refresh_from_db()
    return site
