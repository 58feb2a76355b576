"""Every command of the documentation is run as it stands there."""

from __future__ import annotations

import json
import re
import shlex
from contextlib import chdir
from pathlib import Path

from tests.browser.cases import BrowserCase
from tests.browser.test_lighten import FILES
from tests.sites import run_cli
from unladen.ledger.allowance import usual_allowance

DOCS = Path(__file__).resolve().parent.parent.parent / "docs"


class Documented(BrowserCase):
    def test_the_lines_of_the_command_line(self) -> None:
        lines = re.findall(
            r"^\./mule (.+)$", "\n".join(re.findall(r"```sh\n(.*?)```", (DOCS / "cli.md").read_text(), re.S)), re.M
        )
        commands = {line.split()[0] for line in lines}
        self.assertEqual(commands, {"weigh", "lighten", "compare", "check", "report", "memo", "gate"})
        (self.folder / "site").mkdir()
        for name, body in FILES.items():
            (self.folder / "site" / name).write_bytes(body)
        allowance = usual_allowance().as_json()
        allowance["limits"] = [row for row in allowance["limits"] if row["measure"] != "picture width"]
        (self.folder / "allowance.json").write_text(json.dumps(allowance))
        with chdir(self.folder):
            for line in lines:
                command, _, target = line.partition(" > ")
                code, out, errors = run_cli(*shlex.split(command))
                self.assertEqual((code, errors), (0, ""), line)
                if target:
                    Path(target).write_text(out)
        made = {path.name for path in self.folder.iterdir()}
        self.assertLessEqual(
            {"report.pdf", "report.html", "results.xml", "results.md", "ledger.csv", "plan.json"}, made
        )
