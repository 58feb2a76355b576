"""The plan as a list to decide on: keys, marks, scopes, order, plans from files, versions side by side, presets."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from playwright.sync_api import expect

from server.sites import plans
from tests.browser.test_interface import STYLE, WAIT, InterfaceCase, StoredCase
from tests.sites import page as page_of
from tests.sites import photo


class Deciding(StoredCase):
    def wanted(self) -> list[str]:
        self.site.refresh_from_db()
        return [change.targets[0] for change in plans.plan_of(plans.head_of(self.site)).changes if change.on]

    def test_by_keys_alone(self) -> None:
        page = self.bench(stage="lighten")
        rows = page.locator(".plan tbody tr[data-row-key]")
        switch = page.get_by_role("switch", name="Turn on /1.jpg")
        expect(rows).to_have_count(6)
        for key in "nn":
            page.keyboard.press(key)
        expect(rows.nth(1)).to_have_class("ant-table-row ant-table-row-level-0 sel")
        page.keyboard.press("t")
        expect(switch).to_be_checked()
        expect(page.get_by_role("button", name="Undo")).to_be_enabled()
        page.keyboard.press("u")
        expect(switch).not_to_be_checked()
        expect(page.get_by_role("button", name="Redo")).to_be_enabled()
        page.keyboard.press("r")
        expect(switch).to_be_checked()
        # Several at once.
        expect(switch).to_be_enabled()
        for key in "xnx":
            page.keyboard.press(key)
        expect(page.get_by_text("2 marked")).to_be_visible()
        page.get_by_role("button", name="Turn off").click()
        expect(switch).not_to_be_checked()
        expect(page.get_by_role("switch", name="Turn on /2.jpg")).not_to_be_checked()
        self.assertEqual(self.wanted(), ["/0.jpg", "/4.jpg"])
        self.assertEqual(self.trouble, [])

    def test_the_keys_reach_rows_on_the_next_page_of_a_long_list(self) -> None:
        page = self.bench(images=60, stage="lighten")
        expect(page.locator(".plan tbody tr[data-row-key]")).to_have_count(50)
        for _ in range(51):
            page.keyboard.press("n")
        expect(page.get_by_role("switch", name="Turn on /50.jpg")).to_be_visible()
        expect(page.locator(".plan tr.sel")).to_contain_text("/50.jpg")

    def test_the_largest_saving_first(self) -> None:
        page = self.bench(stage="lighten")
        page.get_by_label("Order").click()
        page.get_by_text("Largest saving first").last.click()
        expect(page.locator(".plan tbody tr[data-row-key]").first).to_contain_text("about 18 kB")

    def test_a_change_counts_on_the_pages_that_are_ticked_or_fit_a_pattern(self) -> None:
        page = self.bench(stage="lighten")
        page.locator(".scope").first.click()
        expect(page.get_by_role("button", name="Apply pattern")).to_be_disabled()
        page.get_by_role("checkbox", name="/page0.html").uncheck()
        page.get_by_role("button", name="Apply", exact=True).click()
        expect(page.locator(".scope").first).to_have_text("no page")
        expect(page.get_by_role("button", name="Apply pattern")).to_have_count(0)
        page.locator(".scope").first.click()
        page.get_by_label("Pages that match").fill("/page*")
        page.get_by_role("button", name="Apply pattern").click()
        expect(page.locator(".scope").first).to_have_text("/page0.html")


class OtherPlans(StoredCase):
    def file(self, edit: Any) -> Path:
        self.site.refresh_from_db()
        data = json.loads(json.dumps(plans.document_of(plans.head_of(self.site))))
        edit(data)
        path = self.folder / "theirs.json"
        path.write_text(json.dumps(data))
        return path

    def test_a_plan_from_a_file_shows_what_fits_and_what_differs_before_it_is_taken(self) -> None:
        page = self.bench(stage="lighten")

        def edit(data: dict[str, Any]) -> None:
            data["changes"][0]["on"] = False
            data["changes"][1] |= {"on": True, "targets": ["/gone.jpg"]}
            data["changes"][3]["on"] = True

        page.get_by_label("Plan file").set_input_files(self.file(edit))
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("Of 4 changes of the plan 3 fit this site, 0 in part, 1 not at all.")
        rows = dialog.locator("tbody tr[data-row-key]")
        expect(rows).to_have_count(3)
        expect(page.get_by_role("switch", name="Turn on /0.jpg")).to_be_checked()
        rows.filter(has_text="/3.jpg").get_by_role("checkbox").check()
        dialog.get_by_role("button", name="Take 1 of 3").click()
        expect(dialog).to_have_count(0)
        expect(page.get_by_role("switch", name="Turn on /3.jpg")).to_be_checked()
        expect(page.get_by_role("switch", name="Turn on /0.jpg")).to_be_checked()

    def test_a_file_that_is_no_plan_says_so_and_changes_nothing(self) -> None:
        page = self.bench(stage="lighten")
        path = self.folder / "list.json"
        path.write_text("[1, 2]")
        page.get_by_label("Plan file").set_input_files(path)
        expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("list.json")
        page.get_by_role("button", name="Keep the current plan").click()
        expect(page.get_by_role("dialog")).to_have_count(0)

    def test_a_version_beside_the_plan_and_all_of_it_taken(self) -> None:
        page = self.bench(stage="lighten")
        switch = page.get_by_role("switch", name="Turn on /0.jpg")
        switch.click()
        expect(switch).not_to_be_checked()
        page.get_by_role("button", name="Versions").click()
        page.get_by_role("button", name="Compare").click()
        dialog = page.get_by_role("dialog", name="compared with the current plan")
        expect(dialog.locator("tbody tr[data-row-key]")).to_have_count(1)
        expect(dialog).to_contain_text("off")
        dialog.get_by_role("button", name="Take all changes").click()
        expect(switch).to_be_checked()

    def test_a_preset_is_kept_and_stands_beside_the_efforts(self) -> None:
        page = self.bench(stage="lighten")
        page.get_by_role("button", name="Files and presets").click()
        page.get_by_text("Save as preset").click()
        page.get_by_label("Preset name").fill("Our shops")
        page.get_by_role("button", name="Save preset").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("2")
        page.get_by_role("button", name="Presets", exact=True).click()
        expect(page.get_by_text("Try Our shops")).to_be_visible()
        page.get_by_role("button", name="Delete preset Our shops").click()
        expect(page.get_by_role("button", name="Presets", exact=True)).to_have_count(0)
        self.assertEqual(self.trouble, [])


class ByItself(InterfaceCase):
    def test_an_edited_plan_is_carried_out_after_a_pause_unless_told_not_to(self) -> None:
        page = self.weighed(
            {"index.html": page_of("<img src=a.jpg width=300 height=200>", STYLE), "a.jpg": photo(1200, 800)}
        )
        page.get_by_role("button", name="Try steady").click()
        expect(page.locator(".trail")).to_contain_text("no difference", timeout=WAIT)
        page.keyboard.press("3")
        page.locator(".plan").get_by_role("switch").first.click()
        itself = page.get_by_role("switch", name="Build automatically after a pause")
        expect(itself).not_to_be_checked()
        itself.click()
        expect(page.get_by_role("status")).to_be_visible()
        expect(page.get_by_role("status")).not_to_be_visible(timeout=WAIT)
        expect(page.get_by_role("button", name="Build, check and weigh")).to_have_count(0)
        self.assertEqual(self.trouble, [])
