"""A check with wishes: steps of one's own, controls to leave alone, differences and regions that may be."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from tests.browser.cases import CommandCase
from tests.sites import page, zip_of

# Only who knows the word gets in, and what comes after is what the change breaks.
GATE = (
    "<input id=word aria-label=Word><div id=in hidden><button id=more onclick=\"said.textContent = 'SAID'\">"
    "More</button>"
    "<p id=said>-</p></div><script>word.onchange = () => { if (word.value === 'wheel') document.getElementById('in')"
    ".hidden = false }</script>"
)
LATE = "<p id=p>-</p><button id=start onclick=\"setTimeout(() => { p.textContent = 'SAID' }, 9000)\">Start</button>"


class Wishes(CommandCase):
    def versions(self, body: str, old: str, new: str) -> tuple[str, str]:
        """The paths of a site before and after something is another."""
        files = [{"index.html": page(body.replace("SAID", said))} for said in (old, new)]
        before, after = (
            zip_of(some, self.folder / f"{name}.zip") for name, some in zip(("before", "after"), files, strict=True)
        )
        return str(before), str(after)

    def document(self, name: str, data: Any) -> str:
        path: Path = self.folder / name
        path.write_text(json.dumps(data))
        return str(path)

    def check(self, *arguments: str) -> tuple[int, dict[str, Any]]:
        code, said, errors = self.run_check(*arguments, "--device", "phone", "--json")
        self.assertLess(code, 2, errors)
        return code, json.loads(said)

    def test_a_step_of_ones_own_leads_where_no_walk_comes(self) -> None:
        sites = self.versions(GATE, "the door opens", "nothing")
        self.assertEqual(self.check(*sites)[0], 0)
        own = [{"action": "type", "selector": "#word", "text": "wheel"}, {"action": "click", "selector": "#gone"}]
        code, found = self.check(*sites, "--steps", self.document("steps.json", {"/index.html": {"own": own}}))
        self.assertEqual(code, 1)
        (told,) = found["pages"]
        self.assertIn("after pressing the button “More”", told["differences"][0]["text"])
        self.assertIn("your step “click #gone”: there is no such element", told["left_out"])

    def test_what_comes_after_a_wait(self) -> None:
        sites = self.versions(LATE, "one", "two")
        own = [{"action": "click", "selector": "#start"}, {"action": "wait", "ms": 10000}]
        code, found = self.check(*sites, "--steps", self.document("steps.json", {"/index.html": {"own": own}}))
        self.assertEqual(code, 1)
        self.assertIn("two", json.dumps(found["pages"][0]["differences"]))

    def test_a_control_that_is_off_is_left_alone(self) -> None:
        body = "<button id=a onclick=\"p.textContent = 'SAID'\">Say</button><p id=p>-</p>"
        sites = self.versions(body, "one", "two")
        self.assertEqual(self.check(*sites)[0], 1)
        off = {"/index.html": {"off": ["open #a"]}}
        self.assertEqual(self.check(*sites, "--steps", self.document("steps.json", off))[0], 0)

    def test_what_may_differ_is_accepted_by_its_key_or_lies_in_a_region(self) -> None:
        sites = self.versions("<p style='font:40px/50px serif;height:100px'>SAID</p><p>Steady</p>", "one", "two")
        code, found = self.check(*sites, "--quick")
        differences = found["pages"][0]["differences"]
        self.assertEqual((code, {d["what"] for d in differences}), (1, {"picture", "words"}))
        accepted = [{"page": "/index.html", "device": "", "key": d["key"], "why": "ours"} for d in differences]
        tolerance = self.document("all.json", {"accepted": accepted})
        self.assertEqual(self.check(*sites, "--quick", "--tolerance", tolerance)[0], 0)
        # A region is for pictures; what is read there is another matter.
        masks = [{"page": "/*", "device": "phone", "box": [0, 0, 390, 150], "why": "turns"}]
        plan = self.document("plan.json", {"format": "any", "tolerance": {"masks": masks, "accepted": accepted[1:]}})
        words = [d for d in differences if d["what"] == "words"]
        self.assertEqual(accepted[1:], [a for a in accepted if a["key"] == words[0]["key"]])
        self.assertEqual(self.check(*sites, "--quick", "--tolerance", plan)[0], 0)

    def test_wishes_that_cannot_be_read(self) -> None:
        site = str(zip_of({"index.html": page("x")}, self.folder / "a.zip"))
        for flag, data, words in (
            ("--steps", [], "must be an object"),
            ("--steps", {"/index.html": 3}, "must be an object"),
            ("--steps", {"/index.html": {"own": [{"action": "dance"}]}}, "dance"),
            ("--steps", {"/index.html": {"own": [{"selector": "a"}]}}, "wrong fields"),
            ("--tolerance", [], "must be an object"),
            ("--tolerance", {"masks": [{"page": 3}]}, "should be a text"),
        ):
            code, said, errors = self.run_check(site, site, flag, self.document("wish.json", data))
            self.assertEqual((code, said, errors.count("\n")), (2, "", 1), errors)
            self.assertIn(words, errors)
