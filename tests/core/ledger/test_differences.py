"""A run as a diff that other programs take, the way back, and the list of what to put in by hand."""

from __future__ import annotations

import subprocess
from pathlib import Path
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.sites import FolderCase, page, photo
from unladen.capture import Capture
from unladen.ledger.by_hand import hand_steps, put_in, snippets_of
from unladen.ledger.differences import file_diff, site_diff, way_back

BEFORE = {
    "index.html": page("<p>one\n<img src=a.jpg width=30>\n<p>two\r\nthree"),
    "deep/über uns.html": b"<p>caf\xe9\n<p>last line without an end",
    "s.css": b"a{}\n" * 40,
    "a.jpg": photo(30, 20),
    "same.txt": b"as it was",
}
AFTER = BEFORE | {
    "index.html": page("<p>one\n<picture><source srcset=a.webp><img src=a.jpg width=30></picture>\n<p>two\r\nthree"),
    "deep/über uns.html": b"<p>caf\xe9!\n<p>last line without an end, changed",
    "s.css": b"a{}\n" * 20 + b"b{}\n" + b"a{}\n" * 19,
    "a.webp": photo(30, 20, 1, "WEBP"),
}


def lines(most: int) -> Any:
    return st.lists(st.sampled_from([b"a", b"b", b"", b"caf\xe9", b"x y\r"]), max_size=most).map(b"\n".join)


class Diffs(FolderCase):
    def apply(self, command: list[str], files: dict[str, bytes], diff: bytes) -> Path:
        folder = self.folder / command[0]
        for name, body in files.items():
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            (folder / name).write_bytes(body)
        (self.folder / "it.diff").write_bytes(diff)
        done = subprocess.run([*command, self.folder / "it.diff"], cwd=folder, capture_output=True)
        self.assertEqual(done.returncode, 0, (done.stdout, done.stderr, diff))
        return folder

    def test_git_and_patch_take_it(self) -> None:
        found, lighter = self.capture(BEFORE), self.capture(AFTER)
        diff, beside = site_diff(found, lighter)
        self.assertEqual([file.path for file in beside], ["a.webp"])
        for command in (["git", "apply", "--check"], ["git", "apply"], ["patch", "-p1", "--binary", "-s", "-i"]):
            folder = self.apply(command, BEFORE, diff)
        for name in ("index.html", "deep/über uns.html", "s.css"):
            for tool in ("git", "patch"):
                self.assertEqual((self.folder / tool / name).read_bytes(), AFTER[name])
        self.assertTrue(folder.exists())
        originals, extra = way_back(found, lighter)
        self.assertEqual({file.path for file in originals}, {"index.html", "deep/über uns.html", "s.css"})
        self.assertEqual(extra, ["a.webp"])

    def test_names_with_quotes_and_long_files(self) -> None:
        long = b"".join(b"%d\n" % n for n in range(9_000))
        for name, before, after in (
            ('a "quoted" name.css', b"a\n", b"b\n"),
            ("long.css", long, long.replace(b"4000\n", b"x\n").replace(b"4010\n", b"")),
            ("emptied.css", b"a\nb", b""),
            ("filled.css", b"", b"a\nb"),
        ):
            folder = self.apply(["git", "apply", "--unsafe-paths"], {name: before}, file_diff(name, before, after))
            self.assertEqual((folder / name).read_bytes() if (folder / name).exists() else b"", after)

    @settings(max_examples=40)
    @given(lines(12), lines(12))
    def test_any_two_texts(self, before: bytes, after: bytes) -> None:
        diff = file_diff("f", before, after)
        self.assertEqual(diff == b"", before == after)
        if diff and before and after:
            folder = self.apply(["patch", "-p1", "--binary", "-s", "-i"], {"f": before}, diff)
            self.assertEqual((folder / "f").read_bytes(), after)


class ByHand(FolderCase):
    def steps(self) -> tuple[Capture, Capture, list[Any]]:
        found, lighter = self.capture(BEFORE), self.capture(AFTER)
        saved = {"bytes": 900, "requests": 0}
        row = {
            "id": "webp:/a.jpg",
            "remedy": "webp",
            "targets": ["/a.jpg"],
            "on": True,
            "standing": "passed",
            "saved": saved,
        }
        excess = {
            "changes": ["webp:/a.jpg"],
            "title": "a.jpg: a photograph",
            "why": "As WebP.",
            "pages": ["/index.html"],
        }
        return found, lighter, hand_steps(found, lighter, {"changes": [row]}, [excess])

    def test_the_file_the_snippet_and_the_page_to_look_at(self) -> None:
        _, _, steps = self.steps()
        first = steps[0]
        self.assertEqual((first.title, first.bytes, first.files), ("a.jpg: a photograph", 900, ("/a.webp",)))
        (snippet,) = first.snippets
        self.assertEqual(snippet.old, "<img src=a.jpg width=30>")
        self.assertEqual(snippet.new, "<picture><source srcset=a.webp><img src=a.jpg width=30></picture>")
        self.assertEqual(first.pages, ("/index.html",))
        self.assertEqual(
            [step.title for step in steps[1:]], ["The other files", "The rest of /deep/%C3%BCber%20uns.html"]
        )

    def test_what_is_put_in_is_recognised_on_the_live_site(self) -> None:
        found, lighter, steps = self.steps()
        self.assertEqual([put_in(step, lighter, lighter)[0] for step in steps], [True] * 3)
        self.assertEqual(put_in(steps[0], lighter, found), (False, "/index.html does not hold the new text"))
        half = self.capture(AFTER | {"a.webp": photo(30, 20, 5, "WEBP")})
        self.assertEqual(put_in(steps[0], lighter, half), (False, "/a.webp is not there, or is another file"))

    @given(st.text("<>ab /='\n!-", max_size=60), st.text("<>ab /='\n!-", max_size=60))
    def test_snippets_of_anything(self, before: str, after: str) -> None:
        found = snippets_of("/", before, after)
        if before == after:
            self.assertEqual(found, [])
        for snippet in found:
            self.assertIn(snippet.old, before)
            self.assertIn(snippet.new, after)
            self.assertIn(snippet.after, before)

    def test_two_snippets_put_into_the_page_make_it_the_new_one(self) -> None:
        before = "<ul><li>one<li>two</ul><p>between</p><b>words</b><i>and</i><u>more</u><img src=a.jpg>"
        after = before.replace("<li>one", "<li>eins").replace("<img src=a.jpg>", "<img src=a.webp>")
        for snippet in snippets_of("/", before, after):
            before = before.replace(snippet.old, snippet.new)
        self.assertEqual(before, after)

    def test_a_name_within_another_is_not_that_file(self) -> None:
        found = self.capture(
            {"index.html": page("<img src=data.jpg>"), "a.jpg": photo(9, 9), "data.jpg": photo(9, 9)}
        )
        lighter = self.capture({"index.html": page("<img src=data.webp>"), "data.webp": photo(9, 9)})
        row = {"id": "webp:/a.jpg", "remedy": "webp", "targets": ["/a.jpg"], "on": True, "standing": "passed"}
        steps = hand_steps(found, lighter, {"changes": [row | {"saved": {"bytes": 5, "requests": 0}}]}, [])
        self.assertNotIn("/index.html", [s.page for step in steps if step.bytes for s in step.snippets])

    def test_a_page_of_thousands_of_equal_tags_comes_to_an_end(self) -> None:
        row = "<div class=row><span>x</span></div>\n"
        before = row * 9_000 + "<img src=a.jpg>" + row * 500
        (snippet,) = snippets_of("/", before, before.replace("a.jpg", "a.webp"))
        self.assertEqual((snippet.old, snippet.new), ("<img src=a.jpg>", "<img src=a.webp>"))

    def test_a_page_that_is_too_long_for_pieces_is_handed_over_whole(self) -> None:
        pages = [page(f"<p>{end}" + "<p>x" * 21_000 + end) for end in ("one", "two")]
        found, lighter = (self.capture({"index.html": body}) for body in pages)
        (step,) = hand_steps(found, lighter, {"changes": []}, [])
        self.assertEqual((step.files, step.snippets), (("/index.html",), ()))
        self.assertEqual([put_in(step, lighter, live)[0] for live in (lighter, found)], [True, False])
