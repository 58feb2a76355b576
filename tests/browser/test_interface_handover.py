"""From a checked run to somebody else: report, client's review, what is put in by hand, and what pages may weigh."""

from __future__ import annotations

import json
import os
import tempfile
import threading
import zipfile
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer

from playwright.sync_api import Page, expect

from tests.browser.test_interface import STYLE, WAIT, InterfaceCase
from tests.sites import page as page_of
from tests.sites import photo, registry_package, run_cli

RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]

FILES = {
    "index.html": page_of("<img src=mill.jpg width=300 height=197><p>Open daily", STYLE, "The tide mill"),
    "mill.jpg": photo(1400, 920, grain=4),
}


class Quiet(SimpleHTTPRequestHandler):
    def log_message(self, format: str, *args: object) -> None:
        """Says nothing."""


class HandedOver(InterfaceCase):
    root: str

    @classmethod
    def setUpClass(cls) -> None:
        # The live site, which is empty until something is put in.
        cls.root = cls.enterClassContext(tempfile.TemporaryDirectory(prefix="mule-live-"))
        server = ThreadingHTTPServer(("127.0.0.1", 0), partial(Quiet, directory=cls.root))
        cls.addClassCleanup(server.server_close)
        cls.addClassCleanup(server.shutdown)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        os.environ["MULE_VISIT"] = f"live.example=127.0.0.1:{server.server_port}"
        cls.addClassCleanup(os.environ.pop, "MULE_VISIT")
        super().setUpClass()

    def part(self, name: str) -> None:
        self.page.locator(".parts").get_by_text(name, exact=True).click()

    def expect_for_everybody(self, page: Page) -> None:
        """WCAG 2.2 AA as far as axe-core can tell."""
        page.wait_for_load_state("networkidle")
        page.evaluate((registry_package("axe-core", "4.10.3") / "axe.min.js").read_text())
        found = page.evaluate(f"axe.run(document, {{runOnly: {RULES}}})")
        told = [(row["id"], [node["target"] for node in row["nodes"]][:3]) for row in found["violations"]]
        self.assertEqual(told, [], page.url)

    def test_from_a_checked_run_to_the_live_site(self) -> None:
        page = self.weighed(FILES)
        page.get_by_role("button", name="Try steady").click()
        expect(page.locator(".trail")).to_contain_text("no difference", timeout=WAIT)
        page.keyboard.press("5")
        expect(page.locator(".stairs li").first).to_contain_text("As found")
        self.expect_for_everybody(page)
        page.get_by_text("Loaded by", exact=True).click()
        expect(page.locator(".stairs li").nth(1)).to_contain_text("The site itself")
        page.locator(".parts ~ .head").get_by_text("Remedy", exact=True).click()
        page.locator(".stairs button").first.click()
        expect(page.locator(".ledger th").first).to_have_text("Change")
        self.send_for_review(page)
        self.report(page)
        self.allowances(page)
        self.by_hand(page)
        self.other_pages(page)
        self.share(page)
        self.assertEqual((self.trouble, self.elsewhere), ([], []))

    def send_for_review(self, page: Page) -> None:
        self.part("Client's review")
        page.get_by_label("For", exact=True).fill("Ida")
        page.get_by_label("Password").fill("a mill by the sea")
        page.get_by_role("button", name="Create link").click()
        address = page.get_by_label("Link").input_value()
        client = self.browser.new_context(viewport={"width": 390, "height": 844}).new_page()
        client.goto(address)
        client.get_by_label("Enter the password that came").fill("a mill by the sea")
        client.get_by_role("button", name="Open").click()
        expect(client.get_by_role("heading", name="The tide mill, made lighter")).to_be_visible()
        self.assertFalse(client.evaluate("document.documentElement.scrollWidth > innerWidth"))
        client.get_by_text("Blink").click()
        client.get_by_role("button", name="Now; press to show the page as found").click()
        client.get_by_label("Your name").fill("Ida")
        first = client.locator(".topic").first
        first.get_by_role("button", name="Refuse").click()
        first.get_by_label("Why do you refuse it?").fill("too soft")
        first.get_by_role("button", name="Send answer").click()
        expect(first).to_contain_text("Ida refused")
        for topic in client.locator(".topic").all()[1:]:
            topic.get_by_role("button", name="Accept").click()
            expect(topic).to_contain_text("Ida accepted")
        expect(client.get_by_text("All changes answered.")).to_be_visible(timeout=WAIT)
        self.expect_for_everybody(client)
        client.context.close()
        page.reload()
        expect(page.locator(".reviews article")).to_contain_text("Ida refused “too soft”")
        expect(page.locator(".facts")).to_contain_text("The plan has changed since")
        page.get_by_role("button", name="Withdraw link").click()
        page.get_by_role("tooltip").get_by_role("button", name="Withdraw link").click()
        expect(page.locator(".reviews article")).to_contain_text("withdrawn")
        self.expect_for_everybody(page)

    def report(self, page: Page) -> None:
        self.part("Report")
        page.get_by_label("Your name").fill("Weir & Sons")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Saved")).to_be_visible()
        with page.expect_download() as html:
            page.get_by_role("link", name="Download HTML").click()
        text = html.value.path().read_text()
        self.assertIn("by Weir &amp; Sons", text)
        self.assertIn("Ida did not want it: too soft", text)
        with page.expect_download() as pdf:
            page.get_by_role("link", name="Download PDF").click()
        self.assertTrue(pdf.value.path().read_bytes().startswith(b"%PDF-"))

    def allowances(self, page: Page) -> None:
        page.keyboard.press("1")
        self.part("Allowances")
        expect(page.get_by_text("2 limits met")).to_be_visible()
        page.get_by_role("button", name="Add a limit").click()
        page.get_by_label("Limit 2: bytes").fill("1000")
        page.get_by_role("button", name="Save").click()
        expect(page.locator(".allowances .ledger").first).to_contain_text("bytes of images")
        expect(page.get_by_text("1 limit exceeded, 2 met")).to_be_visible()
        self.expect_for_everybody(page)
        with page.expect_download() as document:
            page.get_by_role("link", name="Download limits for the gate (JSON)").click()
        allowance = self.folder / "allowance.json"
        allowance.write_bytes(document.value.path().read_bytes())
        self.assertEqual(len(json.loads(allowance.read_text())["limits"]), 2)
        code, out, _ = run_cli("gate", self.folder / "site.zip", "--allow", allowance, "--device", "phone")
        self.assertEqual(code, 1)
        self.assertIn("over: /index.html on phone: bytes of images", out)

    def by_hand(self, page: Page) -> None:
        page.keyboard.press("5")
        self.part("By hand")
        with page.expect_download() as lighter:
            page.get_by_role("link", name="Download the lighter ZIP").click()
        with zipfile.ZipFile(lighter.value.path()) as archive:
            archive.extractall(self.root)
        first = page.locator(".steps > li").first
        first.get_by_role("checkbox").click()
        expect(first.get_by_role("checkbox")).to_be_checked()
        expect(page.locator(".by-hand .head")).to_contain_text("1 of")
        self.expect_for_everybody(page)
        page.get_by_label("Live site").fill("http://live.example/index.html")
        page.get_by_role("button", name="Compare with live site").click()
        expect(page.locator(".by-hand")).to_contain_text("Visited", timeout=WAIT)
        expect(first).to_contain_text("live")
        expect(page.locator(".by-hand")).to_contain_text("less than as found")
        for name in ("Download a diff with new files", "Download the originals"):
            with page.expect_download() as taken:
                page.get_by_role("link", name=name).click()
            self.assertTrue(zipfile.is_zipfile(taken.value.path()))

    def other_pages(self, page: Page) -> None:
        page.keyboard.press("1")
        self.part("Pages")
        page.get_by_role("button", name="weigh-in").hover()
        expect(page.get_by_role("tooltip")).to_contain_text("One measurement of a page")
        page.get_by_role("button", name="Choose pages to weigh").click()
        page.get_by_label("Pages to include").fill("/shop/*")
        page.get_by_role("button", name="Weigh pages").click()
        expect(page.locator(".chosen-pages [role=alert]")).to_contain_text("/shop/*: matches no page of the site")
        self.expect_for_everybody(page)
        page.get_by_label("Pages to include").fill("/*.html")
        page.get_by_role("button", name="Weigh pages").click()
        expect(page.locator(".chosen-pages")).to_contain_text("Pages included: /*.html", timeout=WAIT)

    def share(self, page: Page) -> None:
        page.goto(page.url.partition("/sites/")[0] + "/")
        page.get_by_role("button", name="Share: access to").click()
        people = page.get_by_role("dialog")
        people.get_by_label("User name").fill("nobody")
        people.get_by_role("button", name="Give access").click()
        expect(people.get_by_role("alert")).to_contain_text("No active user is called nobody")
        expect(people.locator(".done")).to_contain_text("created a review link")
        self.expect_for_everybody(page)
