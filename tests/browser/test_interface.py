"""The real interface in a real browser, with a worker beside it."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connection
from django.test import override_settings
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

from tests.sites import page as page_of
from tests.sites import photo, zip_of
from tests.stored import stored_site
from unladen.weigh.chromium.browser import find_chromium

ROOT = Path(__file__).resolve().parent.parent.parent
STYLE = "<style>body{margin:0}img{max-width:100%;height:auto;display:block}</style>"
LONG = "a-very-long-name-as-cameras-and-exports-like-to-give-them-" * 2 + "photo.jpg"
FILES = {
    "shop/index.html": page_of(f"<img src={LONG} width=300 height=197><img src=b.png>", STYLE, "The corner shop"),
    f"shop/{LONG}": photo(1400, 920),
    "shop/b.png": photo(300, 200, 2, "PNG"),
}
WAIT = 120_000  # ms
expect.set_options(timeout=20_000)


def figure(place: Locator) -> int:
    """The number that stands there."""
    return int(place.inner_text().replace(",", ""))


class InterfaceCase(StaticLiveServerTestCase):
    """Signed-in pages against a live server; jobs run in a worker process on the same database."""

    worker: subprocess.Popen[bytes]
    folder: Path
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        cls.addClassCleanup(os.environ.pop, "DJANGO_ALLOW_ASYNC_UNSAFE")
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory(prefix="mule-web-")))
        cls.enterClassContext(override_settings(SITES_DIR=cls.folder / "sites"))
        super().setUpClass()
        environment = os.environ | {
            "MULE_DATABASE": str(connection.settings_dict["NAME"]),
            "MULE_SITES": str(cls.folder / "sites"),
            "MULE_RUNS": "1",
            "MULE_GLANCES": "0",
            "MULE_REFINES": "0",
            "DJANGO_SETTINGS_MODULE": "server.settings",
        }
        command = [sys.executable, "manage.py", "work"]
        cls.worker = subprocess.Popen(command, cwd=ROOT, env=environment, stderr=subprocess.DEVNULL)
        cls.addClassCleanup(cls.worker.wait)
        cls.addClassCleanup(cls.worker.terminate)
        playwright = cls.enterClassContext(sync_playwright())
        cls.browser = playwright.chromium.launch(executable_path=find_chromium(), chromium_sandbox=os.geteuid() != 0)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        super().setUp()
        User.objects.create_user("ada", password="a long enough one")
        context = self.browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        self.addCleanup(context.close)
        # What starts by itself has a test of its own.
        context.add_init_script(
            "if (self === top) localStorage.setItem('unladen.by-itself', "
            "localStorage.getItem('unladen.by-itself') ?? 'off')"
        )
        self.page = context.new_page()
        self.trouble: list[str] = []
        self.elsewhere: list[str] = []
        self.page.on("pageerror", lambda error: self.trouble.append(error.message))
        self.page.on("request", self._watch)

    def _watch(self, request: Any) -> None:
        if not request.url.startswith((self.live_server_url, "data:", "blob:")):
            self.elsewhere.append(request.url)

    def sign_in(self) -> Page:
        """The page with the sites."""
        self.page.goto(self.live_server_url)
        self.page.get_by_label("User name").fill("ada")
        self.page.get_by_label("Password").fill("a long enough one")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("heading", name="Drop a website here")).to_be_visible()
        return self.page

    def drop(self, path: Path) -> None:
        """Let go of a file over the page."""
        data = list(path.read_bytes())
        handle = self.page.evaluate_handle(
            "([name, data]) => { const t = new DataTransfer(); t.items.add(new File([new Uint8Array(data)], "
            "name)); return t; }",
            [path.name, data],
        )
        self.page.dispatch_event(".drop .ant-upload-btn", "drop", {"dataTransfer": handle})

    def rows(self) -> Locator:
        """The things worth doing."""
        return self.page.get_by_role("grid", name="Findings, largest first").get_by_role("row")

    def await_figures(self) -> None:
        """Wait until a new site has been weighed and surveyed; its first page shows before that."""
        expect(self.page.get_by_label("Weight of the page as found and now")).to_be_visible(timeout=WAIT)
        expect(self.page.get_by_role("status")).not_to_be_visible(timeout=WAIT)

    def weighed(self, files: dict[str, bytes]) -> Page:
        """The bench of these files, weighed."""
        page = self.sign_in()
        self.drop(zip_of(files, self.folder / "site.zip"))
        self.await_figures()
        return page

    def done(self) -> None:
        """Wait until the work under way has ended."""
        expect(self.page.get_by_role("status")).to_be_visible()
        expect(self.page.get_by_role("status")).not_to_be_visible(timeout=WAIT)


class StoredCase(InterfaceCase):
    """The bench of a site that was weighed and surveyed, without weighing any."""

    def bench(self, images: int = 6, excess: int = 5, stage: str = "sort") -> Page:
        """A stage of it."""
        page = self.sign_in()
        self.site = stored_site(User.objects.get(username="ada"), images, excess)
        page.goto(f"{self.live_server_url}/sites/{self.site.pk}/{stage}")
        expect(page.get_by_label("Weight of the page as found and now")).to_be_visible()
        return page


class FromDropToHandover(InterfaceCase):
    def test_the_whole_way(self) -> None:
        page = self.sign_in()
        self.drop(zip_of(FILES, self.folder / "shop.zip"))
        expect(page).to_have_url(re.compile(r"/sites/[0-9a-f-]{36}/sort"))
        self.await_figures()
        expect(page.get_by_text("The corner shop")).to_be_visible()
        rows = self.rows()
        expect(rows.first).to_contain_text("a-very-long-name")
        # n and p move through the rows; the facts follow.
        page.keyboard.press("n")
        expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
        page.keyboard.press("p")
        expect(rows.first).to_have_attribute("aria-selected", "true")
        expect(page.locator(".picture .tag.sel")).to_be_visible()

        page.get_by_role("button", name="Try steady").click()
        expect(page.get_by_role("status")).to_be_visible()
        expect(page.locator(".trail")).to_contain_text("no difference", timeout=WAIT)
        expect(page.get_by_test_id("beam-now")).not_to_contain_text("nothing")
        page.keyboard.press("5")
        expect(page.get_by_role("heading", name="The ledger")).to_be_visible()
        row = page.locator("tr.unexplained td.n")
        self.assertEqual(row.all_inner_texts(), ["0", "0"])
        # However the saving is split up, the rows are those of that view alone and add up to the same.
        saved = figure(page.get_by_test_id("ledger-saved"))
        for view in ("Remedy", "File type", "Page and device", "Change"):
            page.locator(".hand-over").get_by_text(view, exact=True).first.click()
            expect(page.locator(".ledger th").first).to_have_text(view)
            rows_of_it = page.get_by_test_id("ledger-row").locator("td:nth-of-type(2)").all_inner_texts()
            self.assertEqual(sum(int(text.replace(",", "")) for text in rows_of_it), saved, view)
            self.assertEqual(figure(page.get_by_test_id("ledger-saved")), saved, view)
        now = figure(page.get_by_test_id("ledger-now"))
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Download the lighter ZIP").click()
        out = self.folder / "out"
        with zipfile.ZipFile(waiting.value.path()) as archive:
            archive.extractall(out)
        weighed = subprocess.run(
            [sys.executable, "-m", "unladen.cli", "weigh", str(out), "--json"],
            cwd=ROOT,
            capture_output=True,
            check=True,
        )
        self.assertEqual(sum(w["transferred"] for w in json.loads(weighed.stdout)["weigh_ins"]), now)

        for key, words in (("1", "/index.html"), ("3", "Resize to shown size"), ("4", "Is it still the same page?")):
            page.keyboard.press(key)
            expect(page.get_by_role("heading", name=words)).to_be_visible()
        page.keyboard.press("1")
        page.locator(".parts").get_by_text("Times", exact=True).click()
        heads = page.locator(".timings th")
        expect(heads).to_have_text(["Measured", "As found", "Range", "Now", "Range", "What it means"])
        # A change is taken back, and the figures follow.
        page.keyboard.press("2")
        self.rows().first.get_by_role("button", name="Turn off").click()
        expect(page.get_by_role("status")).to_be_visible()
        expect(page.get_by_role("status")).not_to_be_visible(timeout=WAIT)
        expect(self.rows().first.get_by_role("button", name="Turn on")).to_be_visible()
        # Both runs are kept; the first one can be had back with its plan and its figures, and nothing is done twice.
        page.keyboard.press("5")
        expect(page.get_by_test_id("ledger-saved")).not_to_have_text(f"{saved:,}")
        page.locator(".parts").get_by_text("All runs", exact=True).click()
        runs = page.locator(".runs tbody tr")
        expect(runs).to_have_count(2)
        runs.nth(1).get_by_role("button", name="Show this run").click()
        expect(runs.nth(1)).to_contain_text("shown")
        page.locator(".parts").get_by_text("Ledger", exact=True).click()
        expect(page.get_by_test_id("ledger-saved")).to_have_text(f"{saved:,}")
        page.keyboard.press("2")
        expect(self.rows().first.get_by_role("button", name="Turn off")).to_be_visible()
        self.assertEqual((self.trouble, self.elsewhere), ([], []))

    def test_what_is_wrong_is_said_and_nothing_is_lost(self) -> None:
        page = self.sign_in()
        bad = self.folder / "not a zip.zip"
        bad.write_bytes(b"hello")
        self.drop(bad)
        expect(page.get_by_role("alert")).to_contain_text("not a zip.zip: is not a ZIP file")
        self.drop(zip_of({"readme.txt": b"x"}, self.folder / "text.zip"))
        expect(page.get_by_role("alert")).to_contain_text("text.zip: holds no HTML page")
        expect(page.locator("table.sites")).to_have_count(0)
        page.goto(self.live_server_url + "/sites/00000000-0000-0000-0000-000000000000/sort")
        expect(page.get_by_role("alert")).to_contain_text("Not Found")

    def test_a_change_that_breaks_the_page_is_set_aside_and_shown(self) -> None:
        touchy = (
            "<img id=i src=a.jpg width=300 height=200><p id=p>text</p>"
            "<script>if(!i.src.endsWith('a'+'.jpg'))p.style.marginTop='90px'</script>"
        )
        page = self.weighed({"index.html": page_of(touchy, STYLE, "Touchy"), "a.jpg": photo(1400, 920)})
        page.get_by_role("button", name="Try bold").click()
        self.done()
        row = self.rows().first
        expect(row).to_contain_text("Set aside by the check")
        moved = "the paragraph “text” moved by"
        expect(page.locator(".facts .standing")).to_contain_text(moved)
        # In the plan the change opens to what it is for, its files, and the evidence.
        page.keyboard.press("3")
        page.locator(".plan tr", has_text="set aside: ").first.get_by_role("button", name="Expand row").click()
        details = page.locator(".plan .details")
        expect(details).to_contain_text(moved)
        expect(details.get_by_role("button", name="Keep this file")).to_be_visible()
        details.get_by_role("link", name="Show the difference").first.click()
        expect(page.locator(".pairs .sel")).to_contain_text(moved)
        first = page.locator(".pairs button").first
        expect(first).to_contain_text(moved)
        expect(first).to_contain_text("set aside")
        expect(page.locator(".told")).to_contain_text("Culprit")
        expect(page.locator(".differences")).to_contain_text(moved)
        # Changes have names, not ids; selectors stand behind a fold.
        expect(page.locator(".pairs")).not_to_contain_text("webp:")
        expect(page.locator(".pairs")).not_to_contain_text("shrink:")
        expect(page.get_by_text("html > body > p").first).not_to_be_visible()
        expect(page.locator(".cut-out img")).to_have_count(2)
        page.get_by_text("Split", exact=True).click()
        expect(page.get_by_role("slider", name="Share of the page as found")).to_be_visible()
        page.get_by_text("Side by side", exact=True).click()
        page.get_by_text("Whole page", exact=True).click()
        expect(page.locator(".sides img")).to_have_count(2)
        # The first difference is in sight, where it is in the picture.
        outline, picture = page.locator(".outline").first, page.locator(".outlined img")
        expect(outline).to_be_in_viewport()
        spot, frame = outline.bounding_box(), picture.bounding_box()
        assert spot and frame
        self.assertGreaterEqual(spot["x"], frame["x"] - 1)
        self.assertLessEqual(spot["x"] + spot["width"], frame["x"] + frame["width"] + 1)
        # It may be like this, says somebody, and says why; that can be taken back, and then the change is out again.
        page.get_by_role("button", name="Accept difference").click()
        page.get_by_label("Reason for accepting").fill("more air")
        page.get_by_role("button", name="Confirm").click()
        self.done()
        phone = page.locator(".pairs button", has_text="phone: no difference")
        phone.click()
        expect(page.locator(".tolerated")).to_contain_text("more air")
        expect(page.locator(".pairs")).not_to_contain_text("/index.html, phone: Resize to shown size")
        # A region that is drawn on the picture is left out from then on.
        page.get_by_role("button", name="Ignore a region").click()
        frame = page.locator(".outlined img").bounding_box()
        assert frame
        page.mouse.move(frame["x"] + 20, frame["y"] + 30)
        page.mouse.down()
        page.mouse.move(frame["x"] + frame["width"] / 2, frame["y"] + 90, steps=4)
        page.mouse.up()
        self.done()
        expect(page.locator(".tolerated")).to_contain_text("Ignored: ")
        expect(page.locator(".outlined .mask")).to_have_count(1)
        page.get_by_role("button", name="Undo").or_(page.get_by_role("button", name="Stop accepting")).first.click()
        self.done()
        first.click()
        expect(first).to_contain_text("set aside")
        # The user may have it all the same.
        page.get_by_role("button", name="Override check").click()
        self.done()
        page.keyboard.press("3")
        expect(page.get_by_text("on: override, not checked").first).to_be_visible()
        self.assertEqual(self.trouble, [])

    def test_conditions_filters_and_the_keep_list(self) -> None:
        page = self.weighed(FILES)
        beam = page.get_by_label("Weight of the page as found and now")
        page.get_by_role("button", name=re.compile("^Phone 390")).click()
        page.get_by_role("radio", name="Desktop 1280 at 1x").click()
        expect(page.get_by_role("radio", name="Desktop 1280 at 1x")).to_be_checked()
        page.get_by_label("Page limit").fill("50")
        page.get_by_role("button", name="Set limit", exact=True).click()
        expect(beam).to_contain_text("allowance 50 kB")
        page.keyboard.press("Escape")
        expect(page).to_have_url(re.compile("device=desktop"))
        page.mouse.click(640, 700)
        beam.get_by_role("button", name="Documents", exact=True).click()
        expect(self.rows()).to_have_count(1)
        page.goto(re.sub(r"kind=\w+", "kind=fonts", page.url))
        expect(page.get_by_text("Nothing of this kind is worth doing.")).to_be_visible()
        page.goto(page.url.replace("kind=fonts", ""))
        page.get_by_role("button", name="Add to keep list").click()
        expect(page.locator(".facts .standing")).to_contain_text("On the keep list")
        page.keyboard.press("1")
        expect(page.get_by_label("Filter by address")).to_be_visible()
        page.keyboard.press("/")
        page.keyboard.type("b.png")
        expect(page.locator(".ant-table-row")).to_have_count(1)
        self.assertEqual((self.trouble, self.elsewhere), ([], []))

    def test_work_can_be_stopped_and_a_site_deleted(self) -> None:
        page = self.sign_in()
        many = {f"p{n}.html": page_of(f"<p>{n}", "", "Many") for n in range(8)}
        self.drop(zip_of(many, self.folder / "many.zip"))
        page.get_by_role("button", name="Stop").click()
        expect(page.get_by_role("heading", name="Not weighed yet")).to_be_visible(timeout=WAIT)
        expect(page.get_by_role("button", name="Weigh the site")).to_be_visible()
        page.get_by_role("link", name="Unladen Mule").click()
        page.get_by_role("button", name="Delete Many").click()
        page.get_by_role("button", name="Delete", exact=True).last.click()
        expect(page.locator("table.sites")).to_have_count(0)

    def test_a_narrow_window_shows_everything_without_scrolling_sideways(self) -> None:
        page = self.weighed(FILES)
        page.set_viewport_size({"width": 390, "height": 844})
        for key in "12345":
            page.keyboard.press(key)
            page.wait_for_timeout(300)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390, key)

    def test_the_bar_keeps_to_one_line_and_missing_files_are_said_once(self) -> None:
        story = "magazine/2026/a-long-story-of-the-mill.html"
        page = self.weighed(
            FILES | {f"shop/{story}": page_of("<h1>Story</h1><img src=https://pictures.example/far.jpg>")}
        )
        page.goto(f"{page.url.partition('?')[0]}?page=/{story}&device=desktop")
        for width in (1280, 1100):
            page.set_viewport_size({"width": width, "height": 800})
            expect(page.locator(".path .ant-select")).to_contain_text("…")
            bar = page.locator(".bar").bounding_box()
            assert bar is not None
            self.assertLess(bar["height"], 60, width)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), width)
        told = page.get_by_role("alert").filter(
            has_text="Missing from this site: 1 requested file (pictures.example)"
        )
        for key in "123":
            page.keyboard.press(key)
            expect(told).to_be_visible()
        told.get_by_role("button").click()
        expect(told).to_be_hidden()
        page.reload()
        expect(page.locator(".trail")).to_be_visible()
        expect(told).to_be_hidden()

    def test_a_wrong_password(self) -> None:
        self.page.goto(self.live_server_url)
        self.page.get_by_label("User name").fill("ada")
        self.page.get_by_label("Password").fill("wrong")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("alert")).to_contain_text("Wrong user name or password")

    def test_the_first_screen_is_light(self) -> None:
        sizes: list[int] = []
        session = self.page.context.new_cdp_session(self.page)
        session.send("Network.enable")
        session.on("Network.loadingFinished", lambda event: sizes.append(event["encodedDataLength"]))
        self.page.goto(self.live_server_url)
        expect(self.page.get_by_role("heading", name="Sign in")).to_be_visible()
        self.assertLess(sum(sizes), 300_000)
