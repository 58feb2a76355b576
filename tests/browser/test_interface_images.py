"""The contact sheet and the loupe, as somebody uses them."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.test_interface import STYLE, WAIT, InterfaceCase
from tests.sites import page as page_of
from tests.sites import photo, zip_of

LONG = "a-name-that-no-column-is-wide-enough-for-" * 3 + "b.png"
FILES = {
    "index.html": page_of(
        f'<img src=a.jpg width=300 height=200><img src="{LONG}" width=90 height=60>', STYLE, "Shop"
    ),
    "a.jpg": photo(1400, 920, grain=4),
    LONG: photo(300, 200, 2, "PNG", grain=4),
    "nobody.jpg": photo(300, 200, 3, grain=4),
}


class ContactSheet(InterfaceCase):
    def test_from_the_sheet_through_the_loupe_into_the_plan(self) -> None:
        page = self.sign_in()
        self.drop(zip_of(FILES, self.folder / "shop.zip"))
        expect(page).to_have_url(re.compile(r"/sites/[0-9a-f-]{36}/sort"))
        self.await_figures()
        page.keyboard.press("3")
        page.get_by_text("Contact sheet").click()
        rows = page.locator(".sheet .ant-table-row")
        expect(rows).to_have_count(3)
        expect(page.get_by_test_id("sheet-sum")).to_contain_text("3 images")
        expect(rows.filter(has_text="a.jpg").first).to_contain_text("1,400x920")
        expect(page.locator(".thumb img")).to_have_count(3)
        # Filters narrow it down, and the sum follows.
        page.get_by_label("Filter by name").fill("nobody")
        expect(rows).to_have_count(1)
        expect(rows.first).to_contain_text("not shown")
        expect(page.get_by_test_id("sheet-sum")).to_contain_text("1 of 3 images")
        page.get_by_label("Filter by name").fill("")
        # The loupe: steps are tried out one after the other, and one of them is taken.
        page.get_by_label("Open a.jpg in the loupe").click()
        loupe = page.get_by_role("dialog")
        expect(loupe.get_by_alt_text("as chosen")).to_be_visible(timeout=WAIT)
        steps = loupe.locator(".step")
        expect(steps.last).to_contain_text("kB", timeout=WAIT)
        figures = [float(t.split()[0]) for t in loupe.locator(".step .step-text:nth-of-type(2)").all_text_contents()]
        self.assertEqual(figures, sorted(figures))
        # The line can be moved without a mouse.
        line = loupe.get_by_role("slider", name="Edge of the image as found")
        line.focus()
        page.keyboard.press("ArrowLeft")
        self.assertLess(int(line.get_attribute("aria-valuenow") or 50), 50)
        loupe.get_by_text("Blink").click()
        # Holding b shows it as found, here too.
        chosen = loupe.get_by_alt_text("as chosen")
        expect(chosen).to_have_css("clip-path", "inset(0px 0px 0px 0%)")
        page.keyboard.down("b")
        expect(chosen).to_have_css("clip-path", "inset(0px 0px 0px 100%)")
        page.keyboard.up("b")
        expect(chosen).to_have_css("clip-path", "inset(0px 0px 0px 0%)")
        loupe.get_by_text("Dark background").click()
        loupe.get_by_text("4:1").click()
        expect(loupe.locator(".loupe-view.dark .crisp").first).to_be_visible()
        steps.filter(has_text=re.compile(r"^60")).click()
        expect(loupe.get_by_text("Quality 60")).to_be_visible()
        loupe.get_by_role("button", name="Add to plan").click()
        expect(loupe).not_to_be_visible()
        expect(rows.filter(has_text="a.jpg").first).to_contain_text("quality 60", timeout=WAIT)
        expect(page.get_by_text("No run yet.")).to_be_visible()
        # Many at once.
        page.get_by_label("Choose /nobody.jpg").check()
        page.get_by_label(f"Choose /{LONG}").check()
        bulk = page.get_by_role("region", name="Selected images")
        expect(bulk).to_contain_text("2 images")
        bulk.get_by_label("New format").click()
        page.get_by_title("Leave unchanged").click()
        bulk.get_by_role("button", name="Add to plan").click()
        expect(rows.filter(has_text="left unchanged")).to_have_count(2, timeout=WAIT)
        # Carried out, the ledger shows it.
        page.get_by_role("button", name="Build, check and weigh").click()
        self.done()
        expect(page.get_by_role("button", name="Build, check and weigh")).not_to_be_visible()
        page.keyboard.press("5")
        expect(page.locator(".ledger")).to_contain_text("WebP", timeout=WAIT)
        expect(page.locator(".ledger")).to_contain_text("Resize to shown size")
        expect(page.locator(".ledger .unexplained td").nth(1)).to_have_text("0")
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("Download changed files only")).click()
        self.assertTrue(download.value.suggested_filename.endswith("-changed.zip"))
        self.assertEqual(self.trouble, [])
