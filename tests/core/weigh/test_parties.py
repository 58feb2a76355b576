"""Who brought a file: by the chain of requests, by frames, by what the user says."""

from __future__ import annotations

import unittest

from unladen.errors import BadInput
from unladen.weigh.records.model import Request
from unladen.weigh.records.parties import Causes, Party, Rule, rules_from

BASE = "https://mill.example/"
PAGE = BASE + "index.html"


def asked(url: str, by: str = PAGE, kind: str = "scripts", frame: str = PAGE, **facts: object) -> Request:
    url = url if "://" in url else BASE + url
    return Request(url, kind, 200, 100, frame=frame, initiator=by, **facts)  # type: ignore[arg-type]


REQUESTS = [
    asked(PAGE, "", "documents"),
    asked("theme/a.css", kind="styles"),
    asked("theme/a.woff2", BASE + "theme/a.css", "fonts"),
    asked("img/a.jpg", BASE + "theme/a.css", "images"),
    asked("https://tags.example/t.js"),
    asked("https://chat.example/c.js", "https://tags.example/t.js"),
    asked("img/from-tag.jpg", "https://chat.example/c.js", "images"),
    asked("https://film.example/embed", kind="documents", frame="https://film.example/embed"),
    asked("https://film.example/core.js", "https://film.example/embed", frame="https://film.example/embed"),
    asked("https://cdn.other.example/x.js", "https://film.example/core.js", frame="https://film.example/embed"),
    asked("https://media.mill.example/b.jpg", kind="images"),
]


class Bringing(unittest.TestCase):
    def bringers(self, *rules: Rule) -> dict[str, Party]:
        causes = Causes(REQUESTS, BASE, rules)
        return {request.url.rsplit("/", 1)[-1]: b for request, b in zip(REQUESTS, causes.bringers, strict=True)}

    def test_by_chain_and_not_by_host_alone(self) -> None:
        found = self.bringers()
        self.assertEqual(found["index.html"], Party("site"))
        self.assertEqual(found["a.css"], Party("platform"))
        self.assertEqual(found["a.woff2"], Party("platform"))
        self.assertEqual(found["a.jpg"], Party("platform"))
        # A tag loader brings what it loads, wherever that comes from.
        for name in ("t.js", "c.js", "from-tag.jpg"):
            self.assertEqual(found[name], Party("third party", "tags.example"), name)
        for name in ("embed", "core.js", "x.js"):
            self.assertEqual(found[name], Party("embed", "film.example"), name)
        self.assertEqual(found["b.jpg"], Party("site"))

    def test_a_document_that_stands_in_the_page_is_the_pages(self) -> None:
        requests = [REQUESTS[0], asked("still.jpg", "about:srcdoc", "images", frame="about:srcdoc")]
        self.assertEqual(Causes(requests, BASE).bringers[1], Party("site"))

    def test_the_chain_leads_from_the_page(self) -> None:
        causes = Causes(REQUESTS, BASE)
        self.assertEqual(causes.chain(6), [0, 4, 5, 6])
        self.assertEqual(causes.chain(9), [0, 7, 8, 9])
        self.assertEqual(causes.chain(0), [0])

    def test_what_the_user_says_goes_first_and_down_the_chain(self) -> None:
        found = self.bringers(Rule("tags.example", "site"), Rule("mill.example/img/*", "third party", "the agency"))
        self.assertEqual(found["t.js"], Party("site"))
        self.assertEqual(found["c.js"], Party("third party", "chat.example"))
        self.assertEqual(found["a.jpg"], Party("third party", "the agency"))

    def test_a_third_party_that_calls_the_sites_own_library_is_the_cause(self) -> None:
        requests = [
            REQUESTS[0],
            asked("lib/load.js"),
            asked("https://tags.example/t.js"),
            asked("more.js", BASE + "lib/load.js", stack=[BASE + "lib/load.js", "https://tags.example/t.js"]),
        ]
        self.assertEqual(Causes(requests, BASE).bringers[3], Party("third party", "tags.example"))

    def test_redirects_hand_the_cause_on(self) -> None:
        requests = [
            REQUESTS[0],
            asked("https://a.example/x", redirect="https://b.example/y"),
            asked("https://b.example/y"),
        ]
        causes = Causes(requests, BASE)
        self.assertEqual((causes.chain(2), causes.bringers[2].name), ([0, 1, 2], "a.example"))

    def test_rules_that_say_nothing_are_refused(self) -> None:
        for row in (
            {"pattern": "", "kind": "site"},
            {"pattern": "a", "kind": "x"},
            {"pattern": "http://a", "kind": "site"},
        ):
            with self.assertRaises(BadInput):
                rules_from([row])
        with self.assertRaises(BadInput):
            rules_from([{"pattern": "a", "kind": "site"}] * 201)
