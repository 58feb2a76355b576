"""A change opened in the plan: how it is to be done is set there, and a trim shows what goes and what keeps the
rest.
"""

from __future__ import annotations

import re

from playwright.sync_api import expect

from server.sites import plans
from server.sites.models import Site
from tests.browser.test_interface import WAIT, InterfaceCase
from tests.sites import page as page_of

DEAD = "".join(f".theme-{n} > a {{ color: rgb({n}, {n}, {n}); margin: {n}px }}\n" for n in range(150))
LINK = "<link rel=stylesheet href=s.css>"
FILES = {
    "index.html": page_of("<p class=used>x <a href=other.html>y</a>", LINK),
    "other.html": page_of("<p>y", LINK),
    "s.css": (DEAD + ".used { color: red }").encode(),
}


class Opened(InterfaceCase):
    def open(self, change: str) -> None:
        """Open a change, by its name in the plan."""
        self.page.locator(f'.plan tr[data-row-key="{change}"]').get_by_role("button", name="Expand row").click()

    def test_how_it_is_done_and_what_keeps_a_rule(self) -> None:
        page = self.weighed(FILES)
        page.keyboard.press("3")
        self.open("next-page")
        button = page.get_by_role("button", name="Apply")
        expect(button).to_be_disabled()
        page.get_by_label("The next page", exact=True).click()
        page.get_by_title("is built out of sight").click()
        page.get_by_label("Never these paths").fill("/till* /account*")
        with page.expect_response(re.compile("/plan/commands$"), timeout=WAIT):
            button.click()
        expect(button).to_be_disabled(timeout=WAIT)
        expect(page.get_by_label("Never these paths")).to_have_value("/till* /account*")
        site = Site.objects.get()
        params = next(c.params for c in plans.plan_of(plans.head_of(site)).changes if c.id == "next-page")
        self.assertEqual(params.as_json(), {"way": "prerender", "never": "/till* /account*"})
        page.get_by_role("button", name="Collapse row").click()
        self.open("trim-styles:/s.css")
        expect(page.get_by_text(".theme-0 > a")).to_be_visible(timeout=WAIT)
        page.get_by_text("Kept", exact=True).click()
        row = page.get_by_role("row").filter(has_text=".used").last  # that of the trim is around it
        expect(row).to_contain_text("/index.html has it, on", timeout=WAIT)
        expect(page.get_by_text(".theme-0 > a")).not_to_be_visible()
        page.get_by_label("Search rules").fill("nothing like it")
        expect(page.get_by_text("No kept rules match.")).to_be_visible(timeout=WAIT)
        self.assertEqual(self.trouble, [])
