"""The command line with bad input: one line that names file and reason, whatever comes, and never where our files
lie.
"""

from __future__ import annotations

import os
import zipfile
from pathlib import Path
from unittest import mock

from tests.sites import FolderCase, page, run_cli
from unladen import cli
from unladen.cli import command

ROOT = Path(cli.__file__).resolve().parents[2]


class CommandLine(FolderCase):
    def named(self, name: str, data: bytes) -> Path:
        path = self.folder / name
        path.write_bytes(data)
        return path

    def test_what_cannot_be_used_is_named_in_one_line(self) -> None:
        site = self.named("site.zip", b"")
        with zipfile.ZipFile(site, "w") as archive:
            archive.writestr("index.html", page("<p>x"))
        plain = self.named("plain.txt", b"hello")
        deep = self.named("deep.json", b"[" * 200_000)
        lone = self.named("lone.json", b'{"format": "unladen/plan/2", "effort": "\\ud800"}')
        numbers = self.named("numbers.json", b'{"format": ' + b"9" * 5_000 + b"}")
        out = self.folder / "out.zip"
        for arguments, words in (
            (("weigh", self.folder / "nowhere"), "does not exist"),
            (("weigh", plain), "plain.txt: is not a ZIP file"),
            (("weigh", self.named("cut.har", b'{"log": {"entries": [')), "cut.har: is not a HAR file"),
            (("weigh", self.named("cut.warc.gz", b"\x1f\x8b\x08\x00")), "cut.warc.gz: "),
            (("weigh", site, "--device", "teapot"), "teapot"),
            (("weigh", site, "--page", "/none.html"), "/none.html"),
            (("lighten", site, "--plan", deep, "--out", out), "deep.json: "),
            (("lighten", site, "--plan", lone, "--out", out), "lone.json: "),
            (("lighten", site, "--plan", numbers, "--out", out), "numbers.json: "),
            (
                ("lighten", site, "--effort", "bold", "--out", self.folder / "no" / "out.zip"),
                "its folder does not exist",
            ),
            (("check", site, plain), "plain.txt: is not a ZIP file"),
            (("check", site, site, "--tolerance", deep), "deep.json: "),
            (("check", site, site, "--steps", self.named("steps.json", b"[]")), "steps.json: "),
            (("check", site, site, "--steps", self.named("s2.json", b'{"/": 5}')), "s2.json: walk must be"),
            (("check", site, site, "--steps", self.named("s3.json", b'{"/": {"own": ["x"]}}')), "s3.json: walk has"),
            (("check", site, site, "--steps", self.named("s4.json", b'{"/": {"off": [{}]}}')), "s4.json: walk names"),
            (("compare", plain, plain), "plain.txt: "),
            (("compare", self.folder, plain), str(self.folder)),
            (("memo", plain), "is not a folder"),
        ):
            code, _, told = run_cli(*arguments)
            self.assertEqual((code, told.count("\n")), (2, 1), told)
            self.assertIn(words, told)
            self.assertNotIn("Traceback", told)
            self.assertNotIn(str(ROOT / "unladen"), told)
        self.assertFalse(out.exists())

    def test_a_fault_of_ours_is_told_as_such_without_our_paths(self) -> None:
        fault = RuntimeError(f"{ROOT}/unladen/x.py broke\nand more")
        with mock.patch.object(command, "read_site", side_effect=fault):
            code, _, told = run_cli("weigh", self.named("x.zip", b""))
            self.assertEqual((code, told.count("\n"), str(ROOT) in told), (70, 1, False))
            self.assertIn("internal error: RuntimeError", told)
            with mock.patch.dict(os.environ, {"MULE_TRACE": "1"}), self.assertRaises(RuntimeError):
                run_cli("weigh", self.folder / "x.zip")
