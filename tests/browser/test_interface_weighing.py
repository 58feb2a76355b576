"""Weighing in full, in the real interface: conditions, lanes, bringers, times, walks, history."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.test_interface import STYLE, WAIT, InterfaceCase
from tests.sites import page as page_of
from tests.sites import photo

_NEVER = "".join(
    f"{number * 7919 % 99991:x}" for number in range(1800)
).encode()  # long, and no packing makes it short
SCRIPT = b"function used() { return 1 }\nfunction unused() {\n  return '" + _NEVER + b"'\n}\nused();\n"
BODY = (
    "<nav><ul><li><a href=two.html>Two</a></li></ul></nav><button type=button id=more aria-expanded=false>More</button>"
    "<img src=a.jpg width=300 height=200><script src=vendor/lib.js></script><div style='height:2600px'></div>"
    "<img loading=lazy src=late.jpg width=30 height=20><input id=q><div style='display:none'><img src=hidden.jpg></div>"
)
FILES = {
    "index.html": page_of(BODY, STYLE, "The ferry house"),
    "two.html": page_of("<script src=vendor/lib.js></script>", STYLE, "Two"),
    "vendor/lib.js": SCRIPT,
    "a.jpg": photo(1400, 920),
    "late.jpg": photo(300, 200, 3),
    "hidden.jpg": photo(300, 200, 5),
}
HAR = '{"log": {"version": "1.2", "entries": ['


class WeighingInFull(InterfaceCase):
    def part(self, name: str) -> None:
        """Turn to a part of the stage."""
        self.page.locator(".parts").get_by_text(name, exact=True).click()

    def test_requests_conditions_and_history(self) -> None:
        page = self.weighed(FILES)
        page.keyboard.press("1")
        lanes = page.get_by_label("Requests over time, a lane for each host")
        expect(lanes).to_be_visible()
        expect(lanes).to_contain_text("site.example")
        self.assertGreaterEqual(lanes.locator(".bar").count(), 3)
        # Every request hangs on a rope for as long as it waits, as a block as tall as it is heavy.
        tall = [float(bar.get_attribute("height") or 0) for bar in lanes.locator(".bar").all()]
        self.assertEqual(lanes.locator(".rope").count(), len(tall))
        self.assertGreater(max(tall), 2 * min(tall))
        # One request in full: why it is here, what may be kept, its header fields.
        page.get_by_label("Filter by address").fill("lib.js")
        expect(page.get_by_test_id("shown-sum")).to_contain_text("1 of ")
        page.locator(".ant-table-row").first.click()
        drawer = page.get_by_role("dialog")
        expect(drawer).to_contain_text("Loaded because")
        expect(drawer.locator(".chain li")).to_have_count(2)
        expect(drawer).to_contain_text("Loaded by platform or theme")
        expect(drawer).to_contain_text("max-age=3600")
        page.keyboard.press("Escape")
        page.get_by_label("Filter by address").fill("")

        # A repeat visit is not weighed yet; nothing is shown for it until it is.
        page.get_by_role("button", name=re.compile("^Phone 390")).click()
        page.get_by_role("radio", name="Repeat, filled cache").click()
        expect(page.get_by_role("radio", name="Repeat, filled cache")).to_be_checked()
        page.keyboard.press("Escape")
        expect(page.locator(".unweighed")).to_contain_text("under these conditions")
        page.get_by_role("button", name="Weigh with three loads").click()
        self.done()
        expect(page.locator(".unweighed")).to_have_count(0)
        expect(page.locator(".ant-table-row").get_by_text("from cache").first).to_be_visible()

        self.part("History")
        expect(page.locator("table.history tbody tr")).to_have_count(1)
        page.get_by_text("under all conditions").click()
        expect(page.locator("table.history tbody tr")).to_have_count(3)
        name = page.locator("table.history tbody tr").first.get_by_placeholder("Name", exact=True)
        name.fill("from the train")
        name.press("Enter")
        expect(page.locator("table.history input[value='from the train']")).to_have_count(1)
        boxes = page.locator("table.history tbody input[type=checkbox]")
        boxes.nth(0).check()
        boxes.nth(1).check()
        side = page.get_by_label("Comparison of two weigh-ins")
        expect(side.get_by_role("alert")).to_contain_text("conditions differ")
        row = page.locator("table.history tbody tr").first
        row.get_by_role("button", name="Pin", exact=True).click()
        expect(row.get_by_role("button", name="Delete")).to_be_disabled()
        row.get_by_role("button", name="Unpin").click()
        row.get_by_role("button", name="Delete").click()
        page.get_by_role("button", name="Delete", exact=True).last.click()
        expect(page.locator("table.history tbody tr")).to_have_count(2)
        self.assertEqual((self.trouble, self.elsewhere), ([], []))

    def test_who_brings_it_how_long_it_takes_and_how_it_is_built(self) -> None:
        page = self.weighed(FILES)
        page.keyboard.press("1")
        self.part("Loaded by")
        expect(page.locator(".bringers tbody tr")).to_have_count(2)
        page.get_by_role("button", name="Add rule", exact=True).click()
        page.get_by_label("Host or path").fill("site.example/vendor/*")
        page.get_by_label("Name").fill("the agency")
        page.get_by_role("button", name="Save rules", exact=True).click()
        expect(page.locator(".bringers")).to_contain_text("the agency", timeout=WAIT)
        page.locator(".bringers tr").filter(has_text="the agency").get_by_role("button", name="Rows").click()
        expect(page.locator(".ant-table-row")).to_have_count(1)

        self.part("Times")
        expect(page.get_by_text("The page stays blank until then.")).to_be_visible()
        expect(page.locator(".timings")).to_contain_text("Layout shift")
        expect(page.get_by_text("1.6 Mbit/s, 150 ms")).to_be_visible()
        expect(page.get_by_text("scrolling loads nothing more")).to_be_visible()
        self.part("Fonts and structure")
        expect(page.get_by_text("No font files")).to_be_visible()
        expect(page.get_by_role("heading", name="Fonts and structure")).to_be_visible()
        # Sections have names, and a press shows where they are on the picture of the page.
        sections = page.locator(".built table .part-name")
        expect(sections.first).not_to_contain_text("html>")
        sections.first.click()
        expect(page.locator(".placed .ring")).to_be_in_viewport()
        self.part("Pages")
        expect(page.locator(".weigh-ins tbody tr")).to_have_count(4)
        self.assertEqual((self.trouble, self.elsewhere), ([], []))

    def test_a_walk_its_steps_and_the_use_map(self) -> None:
        page = self.weighed(FILES)
        self.part("Use map")
        page.get_by_role("button", name="Walk through all pages").click()
        self.done()
        grid = page.get_by_role("grid", name="Use of files by page")
        expect(grid.get_by_role("gridcell")).to_have_count(3)
        self.assertEqual(grid.locator("[tabindex='0']").count(), 1)
        grid.get_by_role("gridcell").first.focus()
        page.keyboard.press("ArrowRight")
        expect(grid.get_by_role("gridcell").nth(1)).to_be_focused()
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("Enter")
        text = page.get_by_label("Text of /vendor/lib.js")
        expect(text.locator(".used").first).to_contain_text("function used()")
        expect(text.locator(".unused").first).to_be_visible()
        text.get_by_role("button", name="Close text").click()

        page.get_by_role("button", name="Show walk steps").click()
        drawer = page.get_by_role("dialog")
        expect(drawer.locator(".steps")).to_contain_text("open More")
        drawer.get_by_label("Include step:  open #more").click()
        drawer.get_by_label("Selector of the element").fill("#not-there")
        drawer.get_by_role("button", name="Add step", exact=True).click()
        drawer.get_by_role("button", name="Pick on the picture").click()
        drawer.locator(".picker button[title*='#q']").click()
        expect(drawer.locator(".own-steps li")).to_have_count(2)
        drawer.get_by_role("button", name="Walk through this page again").click()
        self.done()
        page.get_by_role("button", name="Show walk steps").click()
        expect(drawer.locator(".steps")).to_contain_text("there is no such element")
        expect(drawer.locator(".steps")).to_contain_text("switched off")
        page.keyboard.press("Escape")
        # What no walk used is worth doing, as advice without a button.
        self.part("Findings")
        expect(self.rows().filter(has_text="advice").first).to_be_visible()
        self.assertEqual((self.trouble, self.elsewhere), ([], []))

    def test_addresses_and_recordings_that_bring_nothing(self) -> None:
        page = self.sign_in()
        page.get_by_label("Or record your live site").fill("ftp://mill.example/")
        page.locator(".by-address button[type=submit]").click()
        expect(page.get_by_role("alert")).to_contain_text("use http or https")
        page.get_by_label("Or record your live site").fill("http://localhost/")
        page.locator(".by-address button[type=submit]").click()
        expect(page.get_by_text("private or local address").first).to_be_visible(timeout=WAIT)
        expect(page.get_by_role("heading", name="Nothing was recorded")).to_be_visible()
        page.get_by_role("link", name="Unladen Mule").click()
        har = self.folder / "cut off.har"
        har.write_text(HAR)
        self.drop(har)
        expect(page.get_by_role("alert").first).to_contain_text(
            "cut off.har: is not a HAR file: it is not a JSON document or is truncated"
        )
