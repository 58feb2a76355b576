"""The account: to the byte and to the request, and honest about what it cannot explain."""

from __future__ import annotations

from tests.sites import FolderCase, page, photo
from unladen.ledger.account import NotComparable, account
from unladen.remedies import Edited, Journal, Replaced, Spared
from unladen.weigh.records.conditions import DEVICES, HEADER_BYTES, Conditions
from unladen.weigh.records.model import Request, Visit, WeighIn

HOST = "https://site.example/"
PHONE = Conditions(DEVICES["phone"])


def weigh_in(*requests: tuple[str, int], conditions: Conditions = PHONE) -> WeighIn:
    found = [
        Request(HOST + path, "images" if path.endswith(("jpg", "webp")) else "documents", 200, size)
        for path, size in requests
    ]
    return WeighIn("/index.html", conditions, Visit(requests=found))


class Accounting(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.capture({"index.html": page(""), "a.jpg": photo(20, 20), "b.jpg": photo(20, 20, 2)})
        pages = frozenset({"/index.html"})
        self.journal = Journal()
        for entry in (
            Replaced("shrink:/a.jpg", HOST + "a.jpg", HOST + "a-9w.jpg", 1000, 600, pages),
            Replaced("webp:/a.jpg", HOST + "a-9w.jpg", HOST + "a-9w.webp", 600, 250, pages),
            Edited("lazy", HOST + "index.html", 500, 510),
            Spared("lazy", HOST + "b.jpg", "/index.html"),
            Spared("lazy", HOST + "a.jpg", "/index.html"),
        ):
            self.journal.write(entry)

    def test_every_step_gets_its_share(self) -> None:
        before = weigh_in(("index.html", 500), ("a.jpg", 1000), ("b.jpg", 700))
        after = weigh_in(("index.html", 510), ("a-9w.webp", 250))
        result = account(self.site, self.journal, [before], [after])
        self.assertTrue(result.adds_up())
        self.assertEqual(result.saved_by("shrink:/a.jpg").bytes, 400)
        self.assertEqual(result.saved_by("webp:/a.jpg").bytes, 350)
        lazy = result.saved_by("lazy")
        self.assertEqual((lazy.bytes, lazy.requests), (700 + HEADER_BYTES - 10, 1))

    def test_a_shrunk_picture_that_is_put_off_is_shared_between_the_changes(self) -> None:
        result = account(
            self.site, self.journal, [weigh_in(("index.html", 500), ("a.jpg", 1000))], [weigh_in(("index.html", 510))]
        )
        self.assertTrue(result.adds_up())
        self.assertEqual(result.saved_by("shrink:/a.jpg").bytes, 400)
        self.assertEqual(result.saved_by("lazy").bytes, 250 + HEADER_BYTES - 10)

    def test_what_nobody_explains_stands_on_its_own_line(self) -> None:
        before = weigh_in(("index.html", 500), ("b.jpg", 700))
        after = weigh_in(("index.html", 510), ("b.jpg", 690), ("new.jpg", 30))
        result = account(self.site, self.journal, [before], [after])
        self.assertFalse(result.adds_up())
        self.assertEqual((result.unexplained.bytes, result.unexplained.requests), (10 - 30 - HEADER_BYTES, -1))

    def test_other_conditions_are_refused(self) -> None:
        desktop = weigh_in(("index.html", 500), conditions=Conditions(DEVICES["desktop"]))
        with self.assertRaises(NotComparable):
            account(self.site, self.journal, [weigh_in(("index.html", 500))], [desktop])
