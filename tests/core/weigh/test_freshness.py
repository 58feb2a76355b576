"""How long an answer may be kept, as RFC 9111 has it, and what a repeat visit asks for again."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from unladen.weigh.link.freshness import asked_again, freshness
from unladen.weigh.records.model import Request

DATE = ("date", "Tue, 10 Mar 2026 12:00:00 GMT")


class Lifetimes(unittest.TestCase):
    def test_max_age_goes_before_expires(self) -> None:
        # RFC 9111, 4.2.1.
        both = [DATE, ("cache-control", "public, max-age=60"), ("expires", "Tue, 10 Mar 2026 13:00:00 GMT")]
        self.assertEqual(freshness(both).lifetime, 60)
        self.assertEqual(freshness([DATE, both[2]]).lifetime, 3600)
        self.assertEqual(freshness([DATE, ("expires", "0")]).lifetime, 0)

    def test_without_a_stated_lifetime_a_tenth_of_the_age(self) -> None:
        # RFC 9111, 4.2.2.
        modified = ("last-modified", "Sat, 28 Feb 2026 12:00:00 GMT")
        found = freshness([DATE, modified])
        self.assertEqual((found.lifetime, found.stated), (86_400, False))

    def test_reasons_to_ask_again(self) -> None:
        for headers, reason in (
            ([("cache-control", "no-store")], "must not be cached (no-store)"),
            ([("cache-control", "max-age=0"), ("etag", "x")], "must be revalidated on every visit"),
            ([("cache-control", "no-cache"), ("etag", "x")], "must be revalidated on every visit"),
            ([("etag", "x")], "has no lifetime: the browser asks on every visit"),
            ([], "has neither lifetime nor validator: loads in full on every visit"),
            ([("cache-control", "max-age=9")], ""),
            ([("cache-control", "s-maxage=9")], "has neither lifetime nor validator: loads in full on every visit"),
        ):
            self.assertEqual(freshness(headers).reason, reason, headers)

    @given(st.dictionaries(st.sampled_from(["cache-control", "expires", "date", "last-modified", "etag"]), st.text()))
    def test_nonsense_gives_no_lifetime_below_zero(self, fields: dict[str, str]) -> None:
        self.assertGreaterEqual(freshness(fields.items()).lifetime, 0)


class AskedAgain(unittest.TestCase):
    FIRST = [
        Request("https://a.example/app.js?v=1", "scripts", 200, response_headers=[("cache-control", "max-age=99")]),
        Request("https://a.example/b.js", "scripts", 200, response_headers=[("etag", "1")]),
    ]

    def test_why_a_request_went_out_again(self) -> None:
        for url, facts, words in (
            ("https://a.example/app.js?v=2", {}, "address changes"),
            ("https://a.example/b.js", {}, "has no lifetime"),
            ("https://a.example/c.js", {}, "was not requested"),
            ("https://a.example/b.js", {"cached": True}, ""),
            ("https://a.example/app.js?v=1", {"method": "POST"}, "sent each time"),
        ):
            found = asked_again(Request(url, "scripts", **facts), self.FIRST)  # type: ignore[arg-type]
            self.assertTrue(words in found and bool(words) == bool(found), (url, found))
