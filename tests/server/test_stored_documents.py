"""Documents in rows: what versions before wrote is read, and the database holds plain JSON."""

from __future__ import annotations

import json

from django.db import connection

from server.sites.documents import Baseline, Hand, Visited, Watched
from server.sites.models import Site
from tests.server.cases import ServerCase


class StoredDocuments(ServerCase):
    def column(self, name: str) -> object:
        """A column as the database holds it."""
        with connection.cursor() as cursor:
            cursor.execute(f"SELECT {name} FROM sites_site")
            return json.loads(cursor.fetchone()[0])

    def write(self, name: str, value: object) -> None:
        with connection.cursor() as cursor:
            cursor.execute(f"UPDATE sites_site SET {name} = %s", [json.dumps(value)])

    def test_rows_of_a_version_before_are_read(self) -> None:
        Site.objects.create(owner=self.user, name="mill", index={})
        # As they were written before "kin", "chosen" and "most" were known, with a name that is gone since.
        old = {"weigh_ins": ["a"], "excess": [{"id": "x"}], "notices": [], "taken": "2026-01-01T00:00:00Z", "gone": 1}
        self.write("baseline", old)
        self.write("hand", {})
        self.write("watched", {"at": "2026-01-02T00:00:00Z", "error": "is away"})
        site = Site.objects.get()
        self.assertEqual(site.baseline, Baseline(["a"], [{"id": "x"}], taken="2026-01-01T00:00:00Z"))
        self.assertEqual((site.hand, site.watched), (Hand(), Watched("2026-01-02T00:00:00Z", "is away")))
        self.write("hand", {"ticks": {"k": "t"}, "visited": {"at": "t", "address": "a", "steps": {"k": [True, ""]}}})
        hand = Site.objects.values_list("hand", flat=True).get()
        self.assertEqual(hand, Hand({"k": "t"}, Visited("t", "a", {"k": [True, ""]})))  # type: ignore[dict-item]

    def test_the_database_holds_plain_json_and_parts_of_it_stay_plain(self) -> None:
        site = Site.objects.create(owner=self.user, name="mill", index={}, baseline=Baseline(["a"], kin={"/b": "/a"}))
        self.assertEqual(Baseline.from_json(self.column("baseline")), site.baseline)  # type: ignore[arg-type]
        self.assertEqual(self.column("hand"), {"ticks": {}, "visited": None})
        self.assertEqual(Site.objects.values_list("baseline__kin", flat=True).get(), {"/b": "/a"})
        Site.objects.update(baseline=None)
        site = Site.objects.get()
        self.assertEqual((site.baseline, site.known), (None, Baseline()))
