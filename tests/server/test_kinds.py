"""Large sites: some pages of each kind are weighed, changes are for all, and what is known is not weighed again."""

from __future__ import annotations

from server.sites import storage, work
from server.sites.models import Site
from tests.server.cases import ServerCase
from tests.sites import page, photo
from unladen.errors import Cancelled
from unladen.progress import Progress

HEAD = '<meta name=viewport content="width=device-width"><style>img{width:100px;height:67px;display:block}</style>'
POSTS = 3


def post(number: int) -> bytes:
    return page(f"<article><h1>{number}</h1><p>Words</p><img src=/img/{number}.jpg alt=x></article>", HEAD)


def files() -> dict[str, bytes]:
    found = {
        "index.html": page("<main><h1>Home</h1></main>", HEAD),
        "sitemap.xml": b"https://m.example/post/2.html\n",
    }
    for number in range(POSTS):
        found |= {f"post/{number}.html": post(number), f"img/{number}.jpg": photo(450, 300, number)}
    return found


class LargeSites(ServerCase):
    def test_changes_for_all_of_a_kind(self) -> None:
        site = self.weighed()
        path = f"/api/sites/{site.pk}"
        detail = self.get(path)
        self.assertEqual((detail["pages_left_out"], detail["alike"]), (2, {"/post/0.html": 2}))
        targets = {target for excess in self.get(f"{path}/findings")["excess"] for target in excess["targets"]}
        self.assertLessEqual({f"/img/{number}.jpg" for number in range(POSTS)}, targets)
        self.answered("post", f"{path}/lighten", {"effort": "steady"})
        self.work()
        site.refresh_from_db()
        assert site.run is not None
        found, now = storage.capture_of(site), storage.lightened_of(site)
        assert now is not None
        for number in range(POSTS):
            before, after = found.page(f"/post/{number}.html"), now.page(f"/post/{number}.html")
            self.assertNotEqual(found.body(before), now.body(after))
        told = {notice["name"]: notice["reason"] for notice in site.run.ledger["notices"]}
        self.assertIn("2 more pages of its group", told["/post/0.html"])
        # What nobody weighed is in no sum.
        self.assertEqual({row["page"] for row in site.run.ledger["before"]}, {"/index.html", "/post/0.html"})

        # By who brings it the sum is the same, to the byte; nothing moved since the very same run.
        gone, left = (sum(row["transferred"] for row in site.run.ledger[side]) for side in ("before", "after"))
        brought = self.get(f"{path}/brought")
        self.assertEqual(sum(row["saved"]["bytes"] for row in brought), gone - left)
        self.assertEqual(self.get(f"{path}/run")["journeys"][0]["device"], "phone")
        since = self.get(f"{path}/runs/{site.run.pk}/since")
        self.assertEqual((since["moved"], since["same_ground"]), ([], True))

    def test_other_pages_are_chosen_and_only_new_ones_weighed(self) -> None:
        site = self.weighed()
        path = f"/api/sites/{site.pk}"
        before = self.times(site)
        self.answered("post", f"{path}/pages", {"chosen": ["/post/*", "/index.html"], "most": 3})
        self.work()
        site.refresh_from_db()
        after = self.times(site)
        self.assertEqual({page for page, _ in after}, {"/index.html", "/post/0.html", "/post/1.html"})
        self.assertEqual({key: after[key] for key in before}, before)
        detail = self.get(path)
        self.assertEqual((detail["chosen"], detail["most"]), (["/post/*", "/index.html"], 3))
        self.answered("post", f"{path}/pages", {"chosen": ["sitemap"]})
        self.work()
        site.refresh_from_db()
        self.assertEqual({page for page, _ in self.times(site)}, {"/post/2.html"})
        # Its pictures come along, also for pages that were not weighed again.
        self.assertTrue(all(row.summary["picture"] for row in site.weigh_ins.all()))

    def test_pages_that_are_not_there(self) -> None:
        site = self.weighed()
        for chosen, words in ((["/shop/*"], "/shop/*: matches no page"), (["/gone.html"], "no such page")):
            answer = self.answered("post", f"/api/sites/{site.pk}/pages", {"chosen": chosen}, 422)
            self.assertIn(words, answer["detail"])
        self.client.force_login(self.other)
        self.answered("post", f"/api/sites/{site.pk}/pages", {"chosen": []}, 404)

    def test_an_attempt_goes_on_where_it_was_left(self) -> None:
        site = Site.objects.get(pk=self.new_site_of(files()).pk)
        seen: list[int] = []
        progress = Progress(lambda stage, done, *_: seen.append(done), lambda: bool(seen) and seen[-1] >= 2)
        with self.assertRaises(Cancelled):
            work.weigh(site, site.jobs.get().params, progress)
        left = {(row.page, row.device): row.record["visit"]["timings"] for row in site.weigh_ins.all()}
        self.assertTrue(left)
        self.work()
        site.refresh_from_db()
        self.assertEqual({key: self.times(site)[key] for key in left}, left)

    def new_site_of(self, some: dict[str, bytes]) -> Site:
        return self.read_site(self.archive(some))

    def weighed(self) -> Site:
        site = self.new_site_of(files())
        self.work()
        site.refresh_from_db()
        return site

    def times(self, site: Site) -> dict[tuple[str, str], object]:
        assert site.baseline is not None
        rows = site.weigh_ins.filter(pk__in=site.baseline.weigh_ins)
        return {(row.page, row.device): row.record["visit"]["timings"] for row in rows}
