"""The product's own face, cut to the characters of a report and ready to stand in its style sheet.

The files are the weights 400 and 600 of Hanken Grotesk, which the front end has as a variable font (SIL Open Font
License 1.1, see LICENSE beside them). Fixed weights, because Chromium writes a variable font into a PDF as drawings,
from which other programs read texts with gaps.
"""

from __future__ import annotations

from pathlib import Path

from unladen.errors import Refused
from unladen.fonts.ranges import written
from unladen.fonts.subset import SubsetFont
from unladen.remedies.images.inline import data_url

FAMILY = "Hanken Grotesk"
_FOLDER = Path(__file__).resolve().parent
_SCRIPTS = ("latin", "latin-ext")
_WEIGHTS = (400, 600)


def face_rules(text: str) -> str:
    """`@font-face` rules with what the characters of a text need; "" where the face has none of them."""
    keep = written({ord(character) for character in text})
    rules = []
    for script in _SCRIPTS:
        for weight in _WEIGHTS:
            try:
                font = SubsetFont(keep).run((_FOLDER / f"{script}-{weight}.woff2").read_bytes())
            except Refused:  # none of the characters is in this file
                continue
            rules.append(
                f'@font-face{{font-family:"{FAMILY}";font-weight:{weight};unicode-range:{font.kept};'
                f'src:url({data_url(font.data, "font/woff2")}) format("woff2")}}'
            )
    return "".join(rules)
