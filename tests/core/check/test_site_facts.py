"""What a difference points at, and two versions of a site brought to one address."""

from __future__ import annotations

import json
from typing import Any

from tests.sites import FolderCase, page, photo
from unladen.check.between import at_the_same_address, check_document
from unladen.check.compare import lead
from unladen.check.difference_types import KINDS, ordered
from unladen.check.evidence import Evidence, pieces_named, pointed_at
from unladen.check.pairs import Difference, PageCheck
from unladen.check.probes import Observation
from unladen.check.snapshot import Snapshot
from unladen.plan import Unit
from unladen.remedies import Journal
from unladen.remedies.journal import Replaced

HERO, ICON = "html > body > img", "html > body > nav > img"
A, B, C = (Unit(f"webp:/{name}.jpg", f"/{name}.jpg") for name in "abc")


def look(**files: str) -> Snapshot:
    """A look at a page that shows these files: the hero and the icon by place."""
    places = {"hero": HERO, "icon": ICON}
    images = [[places[name], 0, [0, 0, 9, 9], f"https://site.example/{file}"] for name, file in files.items()]
    return Snapshot(True, {"picture": Observation({"images": images})})


class Pointing(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        files: dict[str, bytes] = {"index.html": page(""), **{f"{n}.jpg": photo(9, 9) for n in "abc"}}
        self.site = self.capture(files)
        self.journal = Journal()

    def point(
        self, *differences: Difference, before: Snapshot | None = None, after: Snapshot | None = None
    ) -> Evidence:
        old, new = before or look(hero="a.jpg", icon="b.jpg"), after or look(hero="a.jpg", icon="b.jpg")
        late = {B.change}
        return pointed_at([C, B, A], differences, self.site, "/index.html", self.journal, old, new, late)

    def test_a_picture_points_at_the_file_that_is_shown_there(self) -> None:
        found = self.point(Difference("picture", "", places=(HERO,)))
        self.assertEqual((list(found.direct), found.near, found.rest), ([A], [], [C, B]))
        self.assertEqual(found.ranked, [A, C, B])

    def test_so_does_the_file_that_stands_there_after_the_change(self) -> None:
        new = "https://site.example/a.webp"
        self.journal.write(
            Replaced(A.change, "https://site.example/a.jpg", new, 900, 300, frozenset({"/index.html"}))
        )
        found = self.point(Difference("picture", "", places=(HERO,)), after=look(hero="a.webp", icon="b.jpg"))
        self.assertEqual(list(found.direct), [A])

    def test_rules_that_are_missed_name_the_pieces_of_a_trim(self) -> None:
        pieces = (".open", "#menu", ".opener", ".nav .item:hover", "[hidden]")
        self.assertEqual(pieces_named(pieces, [".nav.open > ul"]), [".open", ".nav .item:hover"])
        self.assertEqual(pieces_named(pieces, ["#menu"]), ["#menu"])
        self.assertEqual(pieces_named(pieces, ["li[hidden]"]), ["[hidden]"])
        self.assertEqual(pieces_named(pieces, []), [])

    def test_a_missing_file_points_at_who_took_it(self) -> None:
        found = self.point(Difference("missing", "", files=("https://site.example/c.jpg",)))
        self.assertEqual(list(found.direct), [C])

    def test_what_moves_points_at_what_is_shown_in_and_around_it_and_at_nobody_for_sure(self) -> None:
        found = self.point(Difference("moved", "", places=("html > body > nav",)))
        self.assertEqual(found.direct, {})
        self.assertEqual(set(found.near), {A, B})
        self.assertEqual(found.rest, [C])

    def test_what_is_not_there_yet_points_at_who_puts_things_off(self) -> None:
        found = self.point(Difference("arrival", "", places=(HERO,)))
        self.assertEqual((found.direct, found.near, found.rest), ({}, [B], [C, A]))

    def test_where_nothing_points_anywhere_all_are_left(self) -> None:
        found = self.point(Difference("error", "x is not defined"))
        self.assertEqual((found.direct, found.near, found.rest), ({}, [], [C, B, A]))


class Ordering(FolderCase):
    def test_the_most_visible_comes_first_and_what_is_unknown_last(self) -> None:
        some = [Difference(what, "") for what in ("toy", "meaning", "gone", "dead", "picture")]
        self.assertEqual([d.what for d in ordered(some)], ["dead", "gone", "picture", "meaning", "toy"])
        self.assertEqual(next(iter(KINDS)), "dead")

    def test_what_is_done_says_more_than_what_looks_different(self) -> None:
        some = [
            Difference("picture", "", places=("p",)),
            Difference("error", "e"),
            Difference("walk", "w", places=("b",)),
        ]
        self.assertEqual(lead(some).what, "walk")

    def test_a_page_that_could_not_be_compared_is_not_the_same(self) -> None:
        pairs = [PageCheck("/a.html", "phone"), PageCheck("/b.html", "phone", cannot="the page keeps changing")]
        document = check_document(pairs, "Chromium 1", quick=True)
        self.assertEqual([document["same"], *(p["same"] for p in document["pages"])], [False, True, False])

    def test_another_version_is_brought_to_the_address_of_the_first(self) -> None:
        one = self.capture({"index.html": page("<img src=a.jpg>"), "a.jpg": photo(9, 9)})
        index = one.to_index()
        moved: Any = json.loads(json.dumps(index).replace("https://site.example/", "https://staging.example/new/"))
        other = type(one).from_index(moved, self.store)
        same = at_the_same_address(other, one)
        self.assertEqual((same.base_url, sorted(same.exchanges)), (one.base_url, sorted(one.exchanges)))
        self.assertEqual(same.page("/index.html").url, one.page("/index.html").url)
        self.assertIs(at_the_same_address(one, one), one)
