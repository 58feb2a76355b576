"""What stands in for an embed, as somebody chooses it."""

from __future__ import annotations

from playwright.sync_api import expect

from demo.services import filler
from tests.browser.test_interface import STYLE, WAIT, InterfaceCase
from tests.sites import page as page_of
from tests.sites import photo
from unladen.capture.recorded import Response
from unladen.capture.warc import write_warc

HOST, REEL = "https://site.example/", "https://reel.example/"
FRAME = f'<h1>Film</h1><iframe src="{REEL}1" title="The wheel turns" width=340 height=200></iframe>'


class Embeds(InterfaceCase):
    def test_from_the_tag_in_the_picture_to_a_still_and_back(self) -> None:
        answers = {
            HOST: ("text/html", page_of(FRAME, STYLE, "Film")),
            REEL + "1": ("text/html", page_of("<button>Play</button>", f"<script src={REEL}1.js></script>")),
            REEL + "1.js": ("text/javascript", filler("reel", 90_000, 1).encode()),
        }
        site = self.folder / "film.warc"
        write_warc(
            [Response(url, 200, (("content-type", kind),), body) for url, (kind, body) in answers.items()], site
        )
        page = self.sign_in()
        self.drop(site)
        self.await_figures()
        # The frame has a tag in the page's picture, which finds its row.
        page.locator(".picture .tag").first.click()
        facts = page.locator(".facts")
        expect(facts).to_contain_text("A player, The wheel turns, causes 2 requests")
        expect(facts).to_contain_text("reel.example")
        expect(facts.get_by_alt_text("Placeholder: The wheel turns")).to_be_visible()
        # What waits for a visitor is not counted among what goes.
        expect(page.locator(".sort .head").first).to_contain_text("could load on demand")
        # A file that is no picture is refused by name, and nothing else happens.
        broken = self.folder / "notes.png"
        broken.write_bytes(b"no picture at all")
        facts.locator("input[type=file]").set_input_files(broken)
        expect(facts.get_by_role("alert")).to_contain_text("notes.png: is not a readable image")
        own = self.folder / "wheel.png"
        own.write_bytes(photo(680, 400, 5, "PNG"))
        facts.locator("input[type=file]").set_input_files(own)
        expect(facts).to_contain_text("My own picture", timeout=WAIT)
        facts.get_by_label("Button label").fill("See the wheel")
        facts.get_by_role("button", name="Apply").click()
        expect(facts).to_contain_text("On and checked", timeout=WAIT)
        expect(page.locator(".picture .tag").first).to_contain_text("off")
        page.keyboard.press("3")
        expect(page.locator(".plan")).to_contain_text("See the wheel, reel.example")
        page.keyboard.press("5")
        expect(page.locator(".ledger")).to_contain_text("Load on demand: players and maps", timeout=WAIT)
        expect(page.locator(".ledger .unexplained")).to_have_text("Unexplained bytes that no change accounts for00")
        # Of scrolling both sides are told.
        page.keyboard.press("1")
        page.locator(".parts").get_by_text("Times", exact=True).click()
        expect(page.get_by_text("As found: ")).to_contain_text("Now: ")
        # Taken back, the page is as found.
        page.keyboard.press("2")
        page.locator(".picture .tag").first.click()
        facts.get_by_role("button", name="Turn off").click()
        expect(facts).to_contain_text("Off. No run yet", timeout=WAIT)
