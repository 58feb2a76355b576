"""PageGroups of page, and which pages stand for all."""

from __future__ import annotations

from collections import Counter

from tests.sites import FolderCase, page, registry_package
from unladen.capture import read_folder
from unladen.markup.page_groups import page_kinds, standing_for_all

HEAD = "<link rel=stylesheet href=/s.css><script src=/s.js></script>"


def post(number: int) -> bytes:
    paragraphs = "".join(f"<p>Words {n} of {number}" for n in range(number % 7 + 1))
    return page(
        f"<article class=post><h1>{number}</h1>{paragraphs}<img src=a.jpg></article><aside><ul><li>x</ul></aside>",
        HEAD,
    )


def product(number: int) -> bytes:
    return page(
        f"<main class=product><table><tr><td>{number}</table><form><input><button>Buy</button></form></main>", HEAD
    )


class PageGroups(FolderCase):
    def files(self, posts: int, products: int) -> dict[str, bytes]:
        files = {
            "index.html": page("<header><nav><a href=x>x</a></nav></header><section class=hero></section>", HEAD)
        }
        files |= {f"blog/{n}.html": post(n) for n in range(posts)} | {
            f"shop/{n}.html": product(n) for n in range(products)
        }
        return files

    def test_pages_built_alike_are_one_kind(self) -> None:
        kinds = page_kinds(self.capture(self.files(40, 20)))
        told = [(kind.pages[0].path.split("/")[0], len(kind.pages)) for kind in kinds]
        self.assertEqual(told, [("index.html", 1), ("blog", 40), ("shop", 20)])

    def test_other_scripts_are_another_kind(self) -> None:
        files = self.files(3, 0) | {"blog/odd.html": post(1).replace(b"/s.js", b"/other.js")}
        self.assertEqual([len(kind.pages) for kind in page_kinds(self.capture(files))], [1, 3, 1])

    def test_some_stand_for_all(self) -> None:
        capture = self.capture(self.files(40, 20))
        for most, wanted in ((2, [39]), (3, [19, 39]), (5, [18, 38]), (100, [])):
            pages, kin = standing_for_all(capture, most)
            self.assertEqual(len(pages), min(most, 61))
            self.assertEqual(pages[0].path, "index.html")
            self.assertEqual(sorted(Counter(kin.values()).values()), wanted)
            self.assertLessEqual({*kin.values()}, {f"/{page.path}" for page in pages})
            self.assertTrue(all(path.split("/")[1] == first.split("/")[1] for path, first in kin.items()))

    def test_two_pages_with_one_content_are_two_pages_of_one_kind(self) -> None:
        capture = self.capture({"a.html": post(1), "b.html": post(1)})
        self.assertEqual([[page.path for page in kind.pages] for kind in page_kinds(capture)], [["a.html", "b.html"]])
        self.assertEqual(standing_for_all(capture, 1)[1], {"/b.html": "/a.html"})

    def test_among_some(self) -> None:
        capture = self.capture(self.files(9, 4))
        shop = [page for page in capture.pages() if page.path.startswith("shop")]
        pages, kin = standing_for_all(capture, 1, shop)
        self.assertEqual(([page.path for page in pages], len(kin)), (["shop/0.html"], 3))

    def test_a_real_site_of_fourteen_pages(self) -> None:
        package = registry_package("startbootstrap-sb-admin-2", "4.1.4")
        capture = read_folder(package, self.store)
        kinds = page_kinds(capture)
        self.assertEqual(sum(len(kind.pages) for kind in kinds), len(capture.pages()))
        self.assertLess(len(kinds), len(capture.pages()))
