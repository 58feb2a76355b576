"""From a site to a lighter one, checked, on sites made for the purpose."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

import jsonschema

from tests.browser.cases import DESKTOP, BrowserCase, counting, set_aside
from tests.sites import page, photo, run_cli, zip_of
from unladen.capture import BodyStore, Capture, Exchange, read_zip, write_zip
from unladen.capture.recorded import Response, capture_of_responses
from unladen.check.snapshot import Snapshot, SnapshotTaker
from unladen.errors import Cancelled
from unladen.lighten import carry_out, lighten, weigh_and_survey
from unladen.plan import KeepList
from unladen.progress import Progress
from unladen.weigh.records.conditions import DEVICES, Device
from unladen.weigh.session import Session
from unladen.weigh.visits import again

ROOT = Path(__file__).resolve().parent.parent.parent
STYLE = "<style>body{margin:0}img{max-width:100%;height:auto;display:block}.low{margin-top:2600px}</style>"
FILES = {
    "index.html": page(
        "<img src=hero.jpg style='width:100%;height:300px;object-fit:cover'><img class=low src=low.jpg>", STYLE
    ),
    "about.html": page("<img src=hero.jpg width=800 height=500><img src=sign.png>", STYLE),
    "hero.jpg": photo(800, 500),
    "low.jpg": photo(450, 300, 2),
    "sign.png": photo(300, 200, 3, "PNG"),
}
# A page that notices when its picture is exchanged, and moves its furniture about.
TOUCHY = page(
    "<img id=i src=hero.jpg width=400 height=250><img src=low.jpg width=300 height=200><p id=p>text</p>"
    "<script>if(!i.src.endsWith('hero'+'.jpg'))p.style.marginTop='80px'</script>",
    STYLE,
)


class Efforts(BrowserCase):
    def test_steady_is_lighter_passes_and_adds_up(self) -> None:
        result = self.lighten(FILES, devices=["desktop"])
        ledger = result.ledger()
        self.assertEqual(ledger["checks"], {"pairs": 2, "passed": 2, "set_aside": 0})
        self.assertLess(result.account.after.bytes, result.account.before.bytes * 0.7)
        self.assertLess(result.account.after.requests, result.account.before.requests)
        remedies = {change.remedy for change in counting(result)}
        self.assertEqual(remedies, {"webp", "reserve", "lazy-images", "precompress"})
        for weigh_in in result.after:
            self.assertEqual(weigh_in.as_json()["missing"], [])

    def test_gentle_keeps_every_pixel(self) -> None:
        result = self.lighten(FILES, "gentle", pages=["/about.html"], devices=["desktop"])
        changed = {change.id for change in counting(result)}
        self.assertLessEqual({"webp:/sign.png", "reserve:/about.html"}, changed)
        self.assertLessEqual({id.partition(":")[0] for id in changed}, {"webp", "reserve", "exact", "precompress"})

    def test_bold_saves_at_least_as_much_as_steady(self) -> None:
        one: dict[str, Any] = {"pages": ["/about.html"], "devices": ["phone"]}
        self.assertLessEqual(
            self.lighten(FILES, "bold", **one).account.after.bytes, self.lighten(FILES, **one).account.after.bytes
        )

    def test_a_second_pass_finds_nothing(self) -> None:
        once = self.lighten(FILES)
        again = lighten(once.capture, "steady", Progress(), devices=("phone",))
        self.assertEqual(again.account.before, again.account.after)
        self.assertEqual([c for c in counting(again) if c.remedy != "reserve"], [])

    def test_one_page_never_makes_another_worse(self) -> None:
        result = self.lighten(FILES, pages=["/about.html"])
        found = self.capture(FILES)
        for path in ("index.html", "hero.jpg", "low.jpg"):
            url = f"https://site.example/{path}"
            self.assertEqual(result.capture.exchanges[url].digest, found.exchanges[url].digest)

    def test_the_same_site_gives_the_same_archive(self) -> None:
        for number in (1, 2):
            self.store = BodyStore(self.folder / f"bodies {number}" / "bodies")  # nothing is remembered
            result = self.lighten(FILES, pages=["/index.html"], devices=["phone"])
            write_zip(result.capture, self.folder / f"{number}.zip")
        self.assertEqual((self.folder / "1.zip").read_bytes(), (self.folder / "2.zip").read_bytes())

    def test_cancelling_stops_at_once(self) -> None:
        stages: list[str] = []
        progress = Progress(lambda stage, *_: stages.append(stage), lambda: "survey" in stages)
        with self.assertRaises(Cancelled):
            lighten(self.capture(FILES), "steady", progress)
        self.assertNotIn("check", stages)


class Checks(BrowserCase):
    def test_the_change_to_blame_is_set_aside_and_the_others_stay(self) -> None:
        result = self.lighten(FILES | {"index.html": TOUCHY}, pages=["/index.html"])
        aside = set_aside(result)
        self.assertEqual({id.partition(":")[2] for id in aside}, {"/hero.jpg"})
        self.assertIn("the paragraph “text” moved by", next(iter(aside.values())))
        self.assertIn("/index.html on", next(iter(aside.values())))
        self.assertIn("webp:/low.jpg", [change.id for change in counting(result)])
        self.assertTrue(all(pair.passed for pair in result.pairs))
        pair = result.outcomes.by_change[next(iter(aside))].pair
        self.assertTrue(pair and pair.before and pair.after)
        index = result.capture.body(result.capture.page("/index.html")).decode()
        self.assertIn("src=hero.jpg", index)

    def test_what_the_user_insists_on_is_done_and_the_rest_is_compared_with_that(self) -> None:
        capture = self.capture(FILES | {"index.html": TOUCHY})
        browser = self.serve(capture)
        first = weigh_and_survey(
            Session.of(browser, capture, Progress()), [capture.page("/index.html")], [DESKTOP], "steady"
        )
        plan = first.plan.changed(lambda c: replace(c, insist=c.targets == ("/hero.jpg",)))
        result = carry_out(Session.of(browser, capture, Progress()), plan, first.weigh_ins)
        self.assertEqual(set_aside(result), {})
        self.assertIn(b"hero.webp", result.capture.body(result.capture.page("/index.html")))
        self.assertGreater(result.account.saved_by("webp:/low.jpg").bytes, 0)
        self.assertTrue(result.account.adds_up())

    def test_the_page_as_found_is_looked_at_once_for_many_checks(self) -> None:
        capture = self.capture(FILES | {"about.html": page("<img src=sign.png><p>Looked at once", STYLE)})
        snapshots: list[int] = []
        original = SnapshotTaker.look_all

        def counted(
            checker: SnapshotTaker, capture: Capture, places: Sequence[tuple[str, Device]], **how: Any
        ) -> list[Snapshot]:
            snapshots.append(len(places))
            return original(checker, capture, places, **how)

        with mock.patch.object(SnapshotTaker, "look_all", counted):
            for _ in range(2):
                lighten(capture, "gentle", Progress(), pages=["/about.html"], devices=["phone"])
        # Once as found, once as it would be; the second time nothing at all.
        self.assertEqual(sum(snapshots), 1 + 1)

    def test_pages_that_are_as_they_were_are_not_weighed_again(self) -> None:
        capture = self.capture(FILES | {"about.html": page("<img src=sign.png><p>Weighed once", STYLE)})
        weighed: list[str] = []
        original = again.weigh_lacking

        def counted(session: Session, pages: Sequence[Exchange], conditions: Any, known: Any, **named: Any) -> Any:
            there = {page for page, _ in known}
            names = (page.url.rpartition("/")[2] for page in pages)
            weighed.extend(name for name in names if f"/{name}" not in there)
            return original(session, pages, conditions, known, **named)

        with mock.patch.object(again, "weigh_lacking", counted):
            first = lighten(capture, "gentle", Progress(), devices=["phone"])
            once = list(weighed)
            second = lighten(capture, "gentle", Progress(), devices=["phone"])
        self.assertEqual(weighed, once)
        self.assertEqual([w.visit.transferred for w in first.after], [w.visit.transferred for w in second.after])
        self.assertTrue(second.account.adds_up())

    def test_what_the_keep_list_names_is_not_touched(self) -> None:
        result = self.lighten(FILES, keep=KeepList(files=("/hero.jpg",), pages=("/about.html",)))
        about = result.capture.body(result.capture.page("/about.html"))
        self.assertEqual(about, FILES["about.html"])
        self.assertNotIn(b"hero.webp", result.capture.body(result.capture.page("/index.html")))

    def test_a_page_that_moves_by_itself_is_not_held_against_a_change(self) -> None:
        restless = page(
            "<img src=low.jpg width=300 height=200><div id=d style='height:60px'></div><script>d.style.background="
            "`rgb(${crypto.getRandomValues(new Uint8Array(3))})`</script>",
            STYLE,
        )
        result = self.lighten(FILES | {"index.html": restless}, pages=["/index.html"], devices=["desktop"])
        self.assertEqual(set_aside(result), {})
        self.assertGreater(result.account.saved_by("webp:/low.jpg").bytes, 0)

    def test_two_looks_at_a_page_at_rest_are_the_same_picture(self) -> None:
        moving = page(
            "<style>@keyframes k{50%{opacity:.1}}p{animation:k 1s infinite}</style><p>moving</p><img src=low.jpg "
            "loading=lazy>"
            "<script>setInterval(()=>{document.title=Date.now()},50)</script>" + "<br>" * 200,
            STYLE,
        )
        capture = self.capture(FILES | {"index.html": moving})
        checker = SnapshotTaker(self.serve(capture))
        for device in DEVICES.values():
            places = [("https://site.example/index.html", device)]
            first, second = (checker.look_all(capture, places)[0] for _ in range(2))
            self.assertTrue(first.alive and first.strips)
            self.assertEqual(first, second)


class OddPages(BrowserCase):
    def test_odd_images_and_charsets_are_left_alone_with_a_reason(self) -> None:
        files = FILES | {
            "index.html": b"<meta charset=utf-8>caf\xe9 <img src=cut.jpg><img src=page.jpg><img src=hero.jpg><img "
            b"src='my sign.png'>",
            "cut.jpg": FILES["hero.jpg"][:9000],
            "page.jpg": b"<html>not a picture</html>",
            "my sign.png": FILES["sign.png"],
        }
        result = self.lighten(files, pages=["/index.html"], devices=["desktop"])
        reasons = {notice.name: notice.reason for notice in result.notices}
        self.assertIn("damaged", reasons["/cut.jpg"])
        self.assertIn("not a readable image", reasons["/page.jpg"])
        index = result.capture.body(result.capture.page("/index.html"))
        self.assertIn(b"caf\xe9", index)
        self.assertIn(b"hero.webp", index)
        self.assertIn(b"my%20sign.webp", index)

    def test_pages_at_odd_addresses_are_pages_as_any_other(self) -> None:
        html, text = (("content-type", "text/html"),), (("content-type", "text/css"),)
        body = page("<h1>Mill</h1>", "<link rel=stylesheet href=/m.css>")
        base = "https://mill.example/"
        odd = ("/etc/cron.d/evil", "x:y.html", "a%5Cb.html", "nul%00.html", "a%2F..%2Fb.html", "%E4.html")
        answers = [Response(base + path, 200, html, body) for path in ("", *odd)]
        answers.append(Response(base + "m.css", 200, text, b"h1 { color: red }\n\n" + b".unused { top: 0 }\n" * 400))
        site = capture_of_responses("mill.har", answers, self.store, [])
        phone = ("phone",)
        whole = lighten(site, "steady", Progress(), devices=phone)
        self.assertEqual({pair.page for pair in whole.pairs}, {"/", *(f"/{path}" for path in odd)})
        self.assertEqual([pair for pair in whole.pairs if not pair.passed or pair.cannot], [])
        self.assertLess(whole.account.after.bytes, whole.account.before.bytes)
        one = lighten(site, "steady", Progress(), pages=("//etc/cron.d/evil",), devices=phone)
        self.assertEqual([pair.page for pair in one.pairs], ["//etc/cron.d/evil"])


class CommandLine(BrowserCase):
    def run_mule(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "unladen.cli", *arguments], capture_output=True, text=True, cwd=ROOT
        )

    def test_lighten_then_weigh_gives_the_figures_of_the_ledger(self) -> None:
        site = zip_of({f"site/{name}": body for name, body in FILES.items()}, self.folder / "in.zip")
        out, plan = self.folder / "out.zip", self.folder / "plan.json"
        phone = ("--device", "phone")
        found = self.run_mule(
            "lighten", str(site), "--effort", "steady", "--out", str(out), "--save-plan", str(plan), "--json", *phone
        )
        self.assertEqual((found.returncode, found.stderr), (0, ""))
        ledger = json.loads(found.stdout)
        schemas = {
            name: json.loads((ROOT / "docs" / "schemas" / f"{name}.json").read_text())
            for name in ("ledger-2", "plan-2", "weigh-ins-1")
        }
        jsonschema.validate(ledger, schemas["ledger-2"])
        jsonschema.validate(json.loads(plan.read_text()), schemas["plan-2"])
        total = sum(change["saved"]["bytes"] for change in ledger["changes"]) + ledger["unexplained"]["bytes"]
        before, after = (sum(w["transferred"] for w in ledger[side]) for side in ("before", "after"))
        self.assertEqual(before - after, total)
        self.assertEqual(ledger["unexplained"], {"bytes": 0, "requests": 0})
        weighed = self.run_mule("weigh", str(out), "--json", "--runs", "1", *phone)
        document = json.loads(weighed.stdout)
        jsonschema.validate(document, schemas["weigh-ins-1"])
        self.assertEqual(
            [(w["page"], w["device"], w["transferred"], w["decoded"], w["requests"]) for w in document["weigh_ins"]],
            [(w["page"], w["device"], w["transferred"], w["decoded"], w["requests"]) for w in ledger["after"]],
        )
        self.assertEqual(read_zip(out, self.store).prefix, "site/")

    def test_errors_are_one_line_and_exit_code_two(self) -> None:
        not_zip = self.folder / "x.zip"
        not_zip.write_bytes(b"hello")
        site = str(zip_of(FILES, self.folder / "in.zip"))
        for arguments, words in (
            (("weigh", str(not_zip)), "x.zip: is not a ZIP file"),
            (("weigh", str(self.folder / "none")), "does not exist"),
            (("weigh", site, "--page", "/none.html"), "/none.html: the site has no such page"),
            (("weigh", site, "--device", "toaster"), "toaster: is not a device"),
            (("lighten", site, "--effort", "steady"), "required: --out"),
            (("lighten", site, "--effort", "steady", "--out", "/no/such/folder/o.zip"), "its folder does not exist"),
        ):
            if words.startswith("required") or arguments[1] == str(not_zip):
                found = self.run_mule(*arguments)  # as a program, of which the first takes seconds to begin
                code, out, told = found.returncode, found.stdout, found.stderr
            else:
                code, out, told = run_cli(*arguments)
            self.assertEqual((code, out), (2, ""), arguments)
            self.assertIn(words, told)
            self.assertEqual(told.count("\n"), 1, told)


class Galleries(BrowserCase):
    def test_a_script_that_finds_pictures_by_what_stands_around_them_keeps_their_smaller_files(self) -> None:
        """Nothing is put around these pictures, so what packs best goes into `src` itself, and stays."""
        script = (
            "<style>.g a{display:inline-block}.g img{display:none}.g img.on{display:block}</style><script>"
            "addEventListener('load',()=>document.querySelectorAll('.g a > img').forEach(i=>"
            "i.classList.add('on')))</script>"
        )
        body = "".join(f"<a href=p{n}.jpg><img src=p{n}.jpg width=160 height=120 alt='{n}'></a>" for n in range(4))
        files = {f"p{n}.jpg": photo(800, 600, n + 1, grain=4) for n in range(4)}
        result = self.lighten({"index.html": page(f"<div class=g>{body}</div>{script}")} | files)
        self.assertTrue(all(pair.passed for pair in result.pairs))
        self.assertFalse(set_aside(result))
        remedies = {change.remedy for change in result.plan.counting()}
        self.assertIn("webp", remedies)
        self.assertNotIn("avif", remedies)
        self.assertNotIn(b"<picture", result.capture.body(result.capture.page("/index.html")))
        images = [sum(w.kinds()["images"]["transferred"] for w in some) for some in (result.before, result.after)]
        self.assertLess(images[1], images[0] / 4)
