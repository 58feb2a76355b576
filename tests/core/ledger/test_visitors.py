"""Who brings what was saved, journeys over several pages from one cache, and what came and went between two runs."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from unladen.ledger.between_runs import between_runs
from unladen.ledger.visitors import by_bringer, journey, journeys, second_visit
from unladen.weigh.records.conditions import DEVICES, HEADER_BYTES, Conditions
from unladen.weigh.records.model import Headers, Request, Visit, WeighIn
from unladen.weigh.records.parties import EMBED, SITE, THIRD_PARTY, Party, Rule

HOST = "https://mill.example/"
LASTING: Headers = [("cache-control", "max-age=3600")]
ASKED: Headers = [("cache-control", "no-cache"), ("etag", '"1"')]
NEVER: Headers = [("cache-control", "no-store")]


def request(path: str, body: int, headers: Headers = ASKED, kind: str = "images", **more: Any) -> Request:
    url = path if "://" in path else HOST + path
    return Request(url, kind, 200, body, body, response_headers=headers, initiator=HOST, **more)


def weigh_in(page: str, *requests: Request, device: str = "phone") -> WeighIn:
    document = request(page, 1000, kind="documents")
    return WeighIn(f"/{page}", Conditions(DEVICES[device]), Visit([document, *requests]))


class Journeys(unittest.TestCase):
    def test_what_an_earlier_page_brought(self) -> None:
        """RFC 9111: 4.2 fresh answers are used, 4.3 others asked for, 5.2.2.5 no-store is not kept."""
        shared = [request("a.css", 5000, LASTING), request("b.js", 7000, ASKED), request("c.png", 9000, NEVER)]
        first, second = journey([weigh_in("", *shared), weigh_in("two.html", *shared, request("d.jpg", 400))])
        self.assertEqual((first.bytes, first.requests), (22_000 + 4 * HEADER_BYTES, 4))
        # The page itself and a picture are new; the script costs a question, what may not be kept comes whole.
        self.assertEqual(second.bytes, (1000 + 400 + 9000) + 3 * HEADER_BYTES + HEADER_BYTES)
        self.assertEqual(second.requests, 4)

    def test_the_same_page_again(self) -> None:
        stop = second_visit(weigh_in("", request("a.css", 5000, LASTING), request("p", 10, ASKED, method="POST")))
        self.assertEqual((stop.bytes, stop.requests), (HEADER_BYTES + 10 + HEADER_BYTES, 2))

    @given(st.lists(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 2)), max_size=8), min_size=1, max_size=5))
    def test_never_more_than_first_visits(self, pages: list[list[tuple[int, int]]]) -> None:
        kinds = (LASTING, ASKED, NEVER)
        found = [
            weigh_in(f"{n}.html", *(request(f"{name}.png", 100 * name, kinds[kept]) for name, kept in page))
            for n, page in enumerate(pages)
        ]
        for stop, whole in zip(journey(found), found, strict=True):
            self.assertLessEqual(stop.bytes, whole.visit.transferred)
            self.assertLessEqual(stop.requests, len(whole.visit.requests))

    def test_as_found_and_now_by_device(self) -> None:
        before = [weigh_in("", request("a.jpg", 900), device=device) for device in ("phone", "desktop")]
        after = [weigh_in("", request("a.jpg", 100), device=device) for device in ("phone", "desktop")]
        rows = journeys(before, after)
        self.assertEqual([row["device"] for row in rows], ["phone", "desktop"])
        (stop,) = rows[0]["pages"]
        self.assertEqual(stop["found"]["bytes"] - stop["now"]["bytes"], 800)
        self.assertEqual(rows[0]["again"]["now"], {"bytes": 2 * HEADER_BYTES, "requests": 2})


class Bringers(unittest.TestCase):
    def test_the_sum_is_what_was_saved(self) -> None:
        widget = [
            request("https://chat.example/c.js", 8000, kind="scripts"),
            request("https://maps.example/m", 500, kind="documents"),
        ]
        frame = request("https://maps.example/t.png", 600, frame="https://maps.example/m")
        before = [weigh_in("", request("a.jpg", 900), *widget, frame)]
        after = [weigh_in("", request("a.webp", 100))]
        found = by_bringer(before, after, HOST)
        self.assertEqual(found[Party(SITE)].bytes, 800)
        self.assertEqual(found[Party(THIRD_PARTY, "chat.example")].bytes, 8000 + HEADER_BYTES)
        self.assertIn(EMBED, {bringer.kind for bringer in found})
        saved = before[0].visit.transferred - after[0].visit.transferred
        self.assertEqual(sum(each.bytes for each in found.values()), saved)
        named = by_bringer(before, after, HOST, [Rule("chat.example", SITE)])
        self.assertEqual(named[Party(SITE)].bytes, 8800 + HEADER_BYTES)


class BetweenRuns(unittest.TestCase):
    def row(self, id: str, saved: int, **more: Any) -> dict[str, Any]:
        known = {"id": id, "remedy": "webp", "targets": [id], "on": True, "standing": "passed", "reason": ""}
        return known | {"saved": {"bytes": saved, "requests": 0}} | more

    def test_what_came_what_went_and_what_saves_another_amount(self) -> None:
        then = {
            "changes": [self.row("/same", 5), self.row("/gone", 70), self.row("/more", 10), self.row("/broke", 30)]
        }
        broke = self.row("/broke", 0, standing="set aside", reason="/a on phone: moved by 3 px")
        now = {
            "changes": [
                self.row("/same", 5),
                self.row("/gone", 0, on=False),
                self.row("/more", 15),
                broke,
                self.row("/new", 40),
            ]
        }
        found = [(each.change, each.then, each.now, each.difference) for each in between_runs(then, now)]
        self.assertEqual(
            found,
            [
                ("/gone", "in", "off", -70),
                ("/new", "off", "in", 40),
                ("/broke", "in", "/a on phone: moved by 3 px", -30),
                ("/more", "in", "in", 5),
            ],
        )
        total = [sum(row["saved"]["bytes"] for row in side["changes"]) for side in (then, now)]
        self.assertEqual(sum(row[3] for row in found), total[1] - total[0])
