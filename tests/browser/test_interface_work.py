"""Work that ends while somebody looks, errors that go, keys, and parts that come late. Nothing is weighed here."""

from __future__ import annotations

import json
from typing import Any

from playwright.sync_api import Page, Route, expect

from server.sites import plans
from server.sites.models import Site
from tests.browser.test_interface import StoredCase
from unladen.plan import Switch

JOB: dict[str, Any] = {
    "id": "00000000-0000-0000-0000-000000000001", "kind": "carry_out", "state": "running", "stage": "check", "done": 1,
    "total": 5, "note": "", "error": "", "paused": False, "easy": False, "aside": False, "proofs": [],
}  # fmt: skip


class Watching(StoredCase):
    def at_work(self, stage: str, job: dict[str, Any]) -> tuple[Page, list[Any]]:
        """A stage of the bench while a job runs, and what is said of it: the last of a list from then on."""
        page = self.bench(stage=stage)
        answers: list[Any] = [job]
        page.route(
            "**/job", lambda route: route.fulfill(body=json.dumps(answers[-1]), content_type="application/json")
        )
        page.reload()
        expect(page.get_by_role("status")).to_be_visible()
        return page, answers

    def test_a_job_that_ends_between_two_reads_is_seen_to_its_end(self) -> None:
        page, answers = self.at_work("lighten", JOB)
        expect(page.locator(".trail")).to_contain_text("3 on")
        # The job stores what it found and ends; whatever was read a moment before is old.
        plans.edit(self.site, None, [Switch(("webp:/1.jpg",), True)])
        Site.objects.filter(pk=self.site.pk).update(allowance=2_000_000)
        answers.append(None)
        expect(page.get_by_role("status")).not_to_be_visible()
        expect(page.locator(".trail")).to_contain_text("4 on")
        expect(page.get_by_label("Weight of the page as found and now")).to_contain_text("the allowance of 2,000 kB")

    def test_a_job_that_another_one_follows_at_once_is_seen_to_its_end(self) -> None:
        page, answers = self.at_work("lighten", JOB)
        expect(page.locator(".trail")).to_contain_text("3 on")
        plans.edit(self.site, None, [Switch(("webp:/1.jpg",), True)])
        answers.append({**JOB, "id": JOB["id"][:-1] + "2", "kind": "refine", "aside": True})
        expect(page.get_by_role("note")).to_contain_text("In the background")
        expect(page.locator(".trail")).to_contain_text("4 on")
        answers.append({**answers[-1], "kind": "narrow"})
        expect(page.get_by_role("note")).to_contain_text("Checking again what was set aside")

    def test_pages_show_as_the_check_comes_to_them_and_stopped_work_goes_on(self) -> None:
        here, there = (
            {"page": name, "device": device, "proven": proven, "text": text}
            for name, device, proven, text in (
                ("/page0.html", "phone", "same", ""),
                ("/far.html", "phone", "differs", "the menu is gone"),
            )
        )
        waits = {**here, "device": "desktop", "proven": "same at rest"}
        page, answers = self.at_work("check", {**JOB, "proofs": [here, waits, there]})
        verdict = page.get_by_role("log", name="Verdict on this page")
        expect(verdict).to_contain_text("/page0.html")
        expect(verdict).to_contain_text("Phone: looks and works as found")
        expect(verdict).to_contain_text("Desktop: looks as found; walk under way")
        table = page.get_by_role("table", name="Pages checked so far")
        expect(table.get_by_role("row")).to_have_count(3)
        expect(table).to_contain_text("the menu is gone")
        asked: list[str] = []

        def go_on(route: Route) -> None:
            asked.append(route.request.url)
            answers.append({**JOB, "proofs": []})
            route.fulfill(body=json.dumps(answers[-1]), content_type="application/json")

        page.route("**/go-on", go_on)
        answers.append({**JOB, "state": "cancelled", "proofs": [here]})
        expect(page.get_by_text("Stopped. 1 of 1 pages are checked. You can continue the check")).to_be_visible()
        expect(table).to_contain_text("looks and works as found")
        page.get_by_role("button", name="Continue the check").click()
        expect(page.get_by_role("status")).to_be_visible()
        self.assertEqual([url.rsplit("/", 2)[1] for url in asked], [JOB["id"]])

    def test_two_windows_that_edit_the_same_plan_lose_nothing(self) -> None:
        page = self.bench(stage="lighten")
        other = page.context.new_page()
        other.goto(page.url)
        for window, name in ((other, "/0.jpg"), (page, "/2.jpg")):
            window.get_by_role("switch", name=f"Turn on {name}").click()
            expect(window.get_by_role("switch", name=f"Turn on {name}")).not_to_be_checked()
        # The second edit was made of an older plan; it was loaded and made again, so both are there.
        expect(page.get_by_role("switch", name="Turn on /0.jpg")).not_to_be_checked()
        self.assertEqual(sum(c.on for c in plans.plan_of(plans.head_of(Site.objects.get())).changes), 1)
        self.assertEqual(self.trouble, [])

    def test_undo_redo_and_a_named_version(self) -> None:
        page = self.bench(stage="lighten")
        switch = page.get_by_role("switch", name="Turn on /0.jpg")
        expect(page.get_by_role("button", name="Undo")).to_be_disabled()
        switch.click()
        expect(switch).not_to_be_checked()
        page.get_by_role("button", name="Undo").click()
        expect(switch).to_be_checked()
        page.get_by_role("button", name="Redo").click()
        expect(switch).not_to_be_checked()
        page.get_by_role("button", name="Versions").click()
        drawer = page.get_by_role("dialog")
        expect(drawer.locator("tbody tr")).to_have_count(2)
        name = drawer.get_by_placeholder("Name to keep it").last
        name.fill("as proposed")
        name.press("Enter")
        expect(drawer.locator("input[value='as proposed']")).to_have_count(1)
        drawer.get_by_role("button", name="Restore version").click()
        expect(switch).to_be_checked()
        self.assertEqual(self.trouble, [])

    def test_what_went_wrong_is_said_and_gone_with_the_next_action(self) -> None:
        page = self.bench(stage="lighten")

        def fails(route: Route) -> None:
            route.fulfill(status=422, json={"detail": "the plan: no more of this"})

        page.route("**/plan/commands", fails)
        page.get_by_role("switch", name="Turn on /0.jpg").click()
        alert = page.get_by_role("alert")
        expect(alert).to_contain_text("no more of this")
        page.unroute("**/plan/commands")
        page.get_by_role("switch", name="Turn on /2.jpg").click()
        expect(page.get_by_role("switch", name="Turn on /2.jpg")).not_to_be_checked()
        expect(alert).to_have_count(0)
        page.route("**/plan/commands", fails)
        page.get_by_role("switch", name="Turn on /0.jpg").click()
        alert.get_by_role("button").click()
        expect(alert).to_have_count(0)

    def test_while_an_action_is_on_its_way_nothing_else_can_be_pressed(self) -> None:
        page = self.bench(stage="lighten")
        held: list[Route] = []
        page.route("**/plan/commands", lambda route: held.append(route))
        page.get_by_role("switch", name="Turn on /0.jpg").click()
        expect(page.get_by_role("switch", name="Turn on /2.jpg")).to_be_disabled()
        expect(page.get_by_role("button", name="Undo")).to_be_disabled()
        held[0].continue_()
        expect(page.get_by_role("switch", name="Turn on /2.jpg")).to_be_enabled()
        expect(page.get_by_role("switch", name="Turn on /0.jpg")).not_to_be_checked()

    def test_a_screen_that_fails_is_not_a_white_page(self) -> None:
        page = self.bench()
        page.route("**/findings", lambda route: route.fulfill(json={"excess": [{"id": "x"}], "surveyed": None}))
        page.reload()
        expect(page.get_by_role("alert")).to_be_visible()
        expect(page.get_by_role("link", name="Unladen Mule")).to_be_visible()

    def test_the_foot_stays_at_the_foot_while_a_part_loads(self) -> None:
        page = self.bench()
        held: list[Route] = []
        page.route("**/assets/Lighten-*.js", lambda route: held.append(route))
        page.goto(page.url.replace("/sort", "/lighten"), wait_until="commit")
        expect(page.locator(".bench > .waiting")).to_be_visible()
        box = page.locator(".foot").bounding_box()
        assert box
        self.assertAlmostEqual(box["y"] + box["height"], 800, delta=1)
        for route in held:
            route.continue_()
        expect(page.get_by_role("button", name="Versions")).to_be_visible()

    def test_rows_by_arrow_keys_and_one_tab_stop(self) -> None:
        page = self.bench()
        rows = self.rows()
        rows.first.focus()
        page.keyboard.press("ArrowDown")
        expect(rows.nth(1)).to_be_focused()
        expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
        page.keyboard.press("End")
        expect(rows.last).to_be_focused()
        page.keyboard.press("Home")
        expect(rows.first).to_be_focused()
        page.keyboard.press("Tab")
        expect(rows.first.get_by_role("button")).to_be_focused()
        stops = page.evaluate("document.querySelectorAll('.rows [tabindex=\"0\"]').length")
        self.assertEqual(stops, 2)  # the row and its button

    def test_single_keys_can_be_switched_off(self) -> None:
        page = self.bench()
        page.keyboard.press("?")
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("switch").click()
        page.keyboard.press("Escape")
        expect(dialog).not_to_be_visible()
        page.keyboard.press("1")
        page.keyboard.press("n")
        expect(page).to_have_url(f"{self.live_server_url}/sites/{self.site.pk}/sort")
        page.get_by_role("button", name="all keys").click()
        dialog.get_by_role("switch").click()
        page.keyboard.press("Escape")
        expect(dialog).not_to_be_visible()
        page.keyboard.press("1")
        expect(page.get_by_label("Filter by address")).to_be_visible()

    def test_many_rows_are_there_and_long(self) -> None:
        page = self.bench(images=400, excess=200)
        expect(self.rows()).to_have_count(100)
        page.get_by_role("button", name="Show 100 more").click()
        expect(self.rows()).to_have_count(200)
        page.keyboard.press("3")
        expect(page.locator(".ant-pagination")).to_be_visible()
        self.assertEqual(self.trouble, [])
