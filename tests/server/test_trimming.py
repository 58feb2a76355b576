"""Trimming through the API: what goes is shown, a rule is kept, a file is left out of a page and comes back."""

from __future__ import annotations

from typing import Any

from server.sites.models import Site
from tests.server.cases import ServerCase
from tests.sites import page

DEAD = "".join(f".theme-{n} > a {{ color: rgb({n}, {n}, {n}); margin: {n}px }}\n" for n in range(150))
LINK = "<link rel=stylesheet href=s.css><script src=s.js></script>"
FILES = {
    "index.html": page("<p class=used>x<a href=other.html>y</a>", LINK),
    "other.html": page("<p>y", LINK),
    "s.css": (DEAD + ".used, .unused { color: red } .menu-open { top: 0 }").encode(),
    "s.js": b"void 'nothing that anybody sees';",
}
TRIM = "trim-styles:/s.css"


class Trimming(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.prepare_once(self.weigh)
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"

    def weigh(self) -> None:
        self.upload(self.archive(FILES))
        self.work()

    def rules(self, words: str = "") -> dict[str, Any]:
        found: dict[str, Any] = self.get(f"{self.path}/plan/rules?id={TRIM}&words={words}")
        return found

    def test_what_goes_is_shown_with_why_and_can_be_kept(self) -> None:
        found = self.rules()
        self.assertEqual((found["total"], found["keep"]), (152, []))
        row = self.rules("theme-77")["gone"][0]
        self.assertEqual(
            (row["sort"], row["why"], row["selectors"]), ("rule", "no page has .theme-77", [".theme-77 > a"])
        )
        self.edit(self.path, {"do": "keep rules", "id": TRIM, "patterns": [".theme-1*", " .menu-open ", ""]})
        self.assertEqual(self.rules()["keep"], [".theme-1*", ".menu-open"])
        self.assertEqual(self.rules("theme-77")["total"], 1)
        self.assertEqual(self.rules("theme-14")["total"], 0)
        for id in ("precompress", "webp:/a.jpg", "nothing"):
            self.assertEqual(self.client.get(f"{self.path}/plan/rules?id={id}").status_code, 404)
        self.edit(self.path, {"do": "keep rules", "id": "precompress", "patterns": []}, status=422)
        self.edit(self.path, {"do": "keep rules", "id": TRIM, "patterns": ["x" * 2000]}, status=422)
        self.edit(self.path, {"do": "switch", "ids": [TRIM], "on": True})
        run = self.carry_out(self.path)
        self.assertIn(TRIM, {o["change"] for o in run["outcomes"] if o["standing"] == "passed"})
        sheet = self.client.get(f"{self.path}/lighter.zip")
        self.assertEqual(sheet.status_code, 200)

    def test_what_stays_is_shown_with_what_keeps_it(self) -> None:
        def why(word: str) -> list[str]:
            found = self.get(f"{self.path}/plan/staying?id={TRIM}&words={word}")
            self.assertEqual(found["total"], len(found["rules"]))
            return [row["why"] for row in found["rules"]]

        self.edit(self.path, {"do": "keep rules", "id": TRIM, "patterns": [".theme-14"]})
        self.assertEqual(why("theme-14"), ["you keep .theme-14"])
        reasons = {row["what"]: row["why"] for row in self.get(f"{self.path}/plan/staying?id={TRIM}")["rules"]}
        self.assertTrue(
            any(reason.startswith("/") and " has it, on " in reason for reason in reasons.values()), reasons
        )
        gone = {name for row in self.rules()["gone"] for name in row["selectors"]}
        self.assertFalse(gone & set(reasons))
        self.assertEqual(self.client.get(f"{self.path}/plan/staying?id=precompress").status_code, 404)

    def test_parameters_are_set_one_by_one_and_others_refused(self) -> None:
        def settings() -> Any:
            changes = self.get(f"{self.path}/plan")["changes"]
            return next(change["settings"] for change in changes if change["id"] == "next-page")

        self.assertEqual(settings(), {"way": "prefetch", "never": ""})
        self.edit(self.path, {"do": "set", "id": "next-page", "values": {"way": "prerender", "never": "/till*"}})
        self.assertEqual(settings(), {"way": "prerender", "never": "/till*"})
        self.edit(self.path, {"do": "set", "id": "next-page", "values": {"way": "at once"}}, status=422)
        self.assertEqual(settings()["way"], "prerender")
        self.edit(self.path, {"do": "set", "id": "precompress", "values": {"level": 1}}, status=422)
        self.edit(self.path, {"do": "set", "id": "nothing", "values": {}}, status=422)

    def test_a_file_is_left_out_of_pages_one_by_one(self) -> None:
        def scope() -> list[str] | None:
            changes = self.get(f"{self.path}/plan")["changes"]
            return next((change["pages"] for change in changes if change["id"] == "leave-out:/s.js"), None)

        out = {"do": "leave out", "file": "/s.js"}
        self.edit(self.path, {**out, "pages": ["/other.html"]})
        self.edit(self.path, {**out, "pages": ["/index.html", "/other.html"]})
        self.assertEqual(scope(), ["/other.html", "/index.html"])
        self.edit(self.path, {**out, "pages": ["/other.html"], "out": False})
        self.assertEqual(scope(), ["/index.html"])
        run = self.carry_out(self.path)
        self.assertIn("leave-out:/s.js", {o["change"] for o in run["outcomes"] if o["standing"] == "passed"})
        self.edit(self.path, {**out, "pages": ["/index.html"], "out": False})
        self.assertIsNone(scope())
        self.edit(self.path, {**out, "pages": ["/nowhere.html"]}, status=422)
        self.edit(self.path, {**out, "pages": []}, status=422)
