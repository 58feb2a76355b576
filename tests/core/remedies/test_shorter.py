"""Scripts written shorter, and texts packed ahead of time."""

from __future__ import annotations

import gzip
import subprocess
import zipfile

import brotli

from tests.sites import FolderCase, page
from unladen.build import build
from unladen.capture import Capture, read_zip, write_zip
from unladen.capture.files import write_folder
from unladen.capture.packing import PackText
from unladen.errors import Refused
from unladen.plan import Plan
from unladen.remedies import Change
from unladen.remedies.change import Params
from unladen.remedies.journal import Edited
from unladen.remedies.scripts.minify_scripts import MinifyParams
from unladen.scripts.minify import MinifyScript
from unladen.work_cache import WorkCache

SCRIPT = b"""/*! Mill 1.0, free for all */
// what turns
function turn(wheel, times) {
  var result = [];
  for (var count = 0; count < times; count++) { result.push(wheel + count); }
  return result.join(", ");
}
var shown = turn("w", 3);
console.log(shown, typeof turn, turn.length);
"""


class Shorter(FolderCase):
    def test_a_script_does_the_same_and_its_licence_stays(self) -> None:
        for names in (False, True):
            made = MinifyScript(names).run(SCRIPT).data
            self.assertLess(len(made), len(SCRIPT) * 0.8)
            self.assertIn(b"/*! Mill 1.0, free for all */", made)
            self.assertNotIn(b"what turns", made)
            self.assertEqual(b"wheel" in made, not names)
            self.assertIn(b"function turn(", made)  # other scripts may call it
            told = [
                subprocess.run(["node", "-e", code], capture_output=True, check=True).stdout
                for code in (SCRIPT, made)
            ]
            self.assertEqual(*told)

    def test_what_is_no_script_is_refused_with_the_place(self) -> None:
        for data in (b"let a = ;", b"<p>404</p>", b"\xff\xfe\x00"):
            with self.assertRaisesRegex(Refused, "cannot be read as a script"):
                MinifyScript().run(data)
        with self.assertRaisesRegex(Refused, "not become smaller"):
            MinifyScript().run(b"let a=1;")

    def test_in_a_site_what_cannot_be_shortened_stays_and_is_named(self) -> None:
        capture = self.capture({
            "index.html": page("<script src=a.js></script><script src=b.js></script><script src=c.js "
                               "integrity=sha256-x></script>"),
            "a.js": SCRIPT,
            "b.js": b"let a = ;  // no script",
            "c.js": SCRIPT,
        })  # fmt: skip
        change = Change(
            "minify", "minify-scripts", ("/a.js", "/b.js", "/c.js"), ("/index.html",), MinifyParams(names=True)
        )
        lighter, journal = build(capture, Plan("steady", (change,)), WorkCache(self.folder / "memo", self.store))
        self.assertLess(lighter.exchanges["https://site.example/a.js"].size, len(SCRIPT))
        for name in ("b.js", "c.js"):
            url = f"https://site.example/{name}"
            self.assertEqual(lighter.exchanges[url].digest, capture.exchanges[url].digest)
        told = "\n".join(map(str, journal.notices))
        self.assertRegex(told, "/b.js: cannot be read as a script")
        self.assertRegex(told, "/c.js: is protected by an integrity attribute")


class Packed(FolderCase):
    FILES = {
        "index.html": page("<p>The wheel turns.</p>" * 90),
        "s.css": b"a { b: c }\n" * 90,
        "s.css.br": b"another's",
    }

    def packed(self) -> tuple[Capture, Capture, list[Edited]]:
        capture = self.capture(self.FILES)
        change: Change[Params] = Change("pack", "precompress", ("/index.html", "/s.css"), ("/index.html",))
        lighter, journal = build(capture, Plan("steady", (change,)), WorkCache(self.folder / "memo", self.store))
        return capture, lighter, [entry for entry in journal.entries if isinstance(entry, Edited)]

    def test_sizes_are_those_of_what_is_sent(self) -> None:
        capture, lighter, entries = self.packed()
        self.assertEqual(len(entries), 2)
        for entry in entries:
            found, now = capture.exchanges[entry.url], lighter.exchanges[entry.url]
            self.assertEqual(
                (entry.before_bytes, entry.after_bytes), (capture.sent_size(found), lighter.sent_size(now))
            )
            body, encoding = lighter.sent(now)
            self.assertEqual(
                (encoding, len(body), brotli.decompress(body)), ("br", entry.after_bytes, capture.body(found))
            )
            self.assertLess(entry.after_bytes, entry.before_bytes)

    def test_they_lie_beside_the_files_that_are_handed_over(self) -> None:
        _, lighter, _ = self.packed()
        write_zip(lighter, self.folder / "out.zip")
        with zipfile.ZipFile(self.folder / "out.zip") as archive:
            names = archive.namelist()
            self.assertEqual(len(names), len(set(names)))
            self.assertEqual(brotli.decompress(archive.read("index.html.br")), self.FILES["index.html"])
            self.assertEqual(gzip.decompress(archive.read("index.html.gz")), self.FILES["index.html"])
            self.assertEqual(archive.read("s.css.br"), b"another's")  # a file of the site's own
        write_folder(lighter, self.folder / "out")
        self.assertEqual(gzip.decompress((self.folder / "out/s.css.gz").read_bytes()), self.FILES["s.css"])
        again = read_zip(self.folder / "out.zip", self.store)
        self.assertEqual([e.path for e in again.files()], ["index.html", "s.css", "s.css.br", "s.css.gz"])
        index = again.exchanges["https://site.example/index.html"]
        self.assertEqual(again.sent(index), lighter.sent(lighter.exchanges[index.url]))

    def test_what_came_packed_is_packed_anew_once_it_is_edited(self) -> None:
        packed = brotli.compress(self.FILES["index.html"], quality=9)
        capture = self.capture(
            {
                "index.html": self.FILES["index.html"],
                "index.html.br": packed,
                "old.css": b"a" * 900,
                "old.css.br": b"?",
            }
        )
        index = capture.exchanges["https://site.example/index.html"]
        self.assertEqual((index.packed_size, len(capture.files())), (len(packed), 3))
        change: Change[Params] = Change("tidy", "tidy-markup", ("/index.html",), ("/index.html",))
        draft = self.FILES["index.html"].replace(b"<p>", b"<p><!-- idle -->  \n  <b></b>", 1)
        capture = self.capture({"index.html": draft, "index.html.br": brotli.compress(draft, quality=4)})
        lighter, journal = build(capture, Plan("steady", (change,)), WorkCache(self.folder / "memo", self.store))
        now = lighter.exchanges[index.url]
        (entry,) = journal.entries
        assert isinstance(entry, Edited)
        sizes = capture.sent_size(capture.exchanges[index.url]), lighter.sent_size(now)
        self.assertEqual((entry.before_bytes, entry.after_bytes), sizes)
        body, encoding = lighter.sent(now)
        self.assertEqual((encoding, brotli.decompress(body)), ("br", lighter.body(now)))
        self.assertNotEqual(lighter.body(now), draft)

    def test_what_would_not_shrink_is_left(self) -> None:
        with self.assertRaises(Refused):
            PackText().run(b"x")
