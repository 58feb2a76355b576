"""The gate, from a site to an exit code."""

from __future__ import annotations

import json
from typing import Any

from tests.browser.cases import BrowserCase
from tests.browser.test_lighten import FILES
from tests.sites import run_cli, zip_of
from unladen.ledger.allowance import FORMAT


class Gated(BrowserCase):
    def gate(self, limits: list[dict[str, Any]], *more: object) -> tuple[int, str, str]:
        allowance = self.folder / "allowance.json"
        document = {"format": FORMAT, "limits": limits}
        allowance.write_text(json.dumps(document))
        site = zip_of(FILES | {"about.html": FILES["about.html"] + b"<img src=gone.png>"}, self.folder / "site.zip")
        return run_cli("gate", site, "--allow", allowance, "--page", "/about.html", *more)

    def test_within_over_and_bad_input(self) -> None:
        code, out, errors = self.gate([{"measure": "bytes", "most": 1_000_000}])
        self.assertEqual((code, errors), (0, ""))
        self.assertIn("1 missing file counts nothing: /gone.png", out)
        results, table = self.folder / "out.xml", self.folder / "out.md"
        pinned = self.folder / "a.json"
        pinned.write_text(
            run_cli("weigh", self.folder / "site.zip", "--page", "/about.html", "--runs", 1, "--json")[1]
        )
        limits = [{"measure": "bytes", "most": 1000, "kind": "images"}, {"measure": "growth", "most": 0}]
        more = ("--device", "phone", "--against", pinned, "--junit", results, "--markdown", table, "--json")
        code, out, errors = self.gate(limits, *more)
        self.assertEqual((code, errors), (1, ""))
        found = json.loads(out)
        self.assertEqual([row["over"] > 0 for row in found["limits"]], [True, False])
        self.assertEqual(found["limits"][0]["culprits"][0]["name"], "/hero.jpg")
        self.assertIn(b"<failure", results.read_bytes())
        self.assertIn("| /about.html | phone | bytes of images | **", table.read_text())
        for wrong, words in (
            ([{"measure": "growth", "most": 0}], "limits growth, which needs earlier weigh-ins"),
            ([{"measure": "bytes", "most": 5, "pages": ["/x*"]}], "has no limit for a weighed page"),
            ([{"measure": "grams", "most": 5}], "limit 1: measure should be one of"),
        ):
            code, out, errors = self.gate(wrong, "--device", "phone")
            self.assertEqual((code, out, errors.count("\n")), (2, "", 1))
            self.assertIn(words, errors)
