"""Fonts cut to some characters: what is left is drawn as before, and what may not be cut is not."""

from __future__ import annotations

import io
import re
import unittest
from functools import cache
from pathlib import Path

import uharfbuzz  # type: ignore[import-untyped]
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont
from hypothesis import given
from hypothesis import strategies as st

from tests.sites import registry_package, registry_sdist
from unladen.errors import Refused
from unladen.fonts.ranges import FLOOR, parsed, with_neighbours, written
from unladen.fonts.subset import SubsetFont

LETTERS = "The wheel turns twice a day: Grüße, “flour” & fire; AVATAR 1,234 ½"
characters = st.frozensets(st.integers(0, 0x5FF), max_size=30)


@cache
def font_files() -> dict[str, bytes]:
    """Fonts of others: with contextual forms, of symbols, with many scripts, and variable."""
    root = Path(__file__).resolve().parent.parent.parent.parent
    variable = (
        root / "web/node_modules/@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2"
    )
    pillow = registry_sdist("pillow", "13.0.0", "Tests/fonts")
    icons = registry_package("bootstrap-icons", "1.11.3") / "font/fonts/bootstrap-icons.woff2"
    return {
        path.stem: path.read_bytes()
        for path in (variable, pillow / "FreeMono.ttf", pillow / "NotoSans-Regular.ttf", icons)
    }


def shaped(data: bytes, text: str, weight: int = 0) -> list[tuple[str, int, int, int]]:
    """For each glyph of a text its outline and where it stands, by HarfBuzz; of a variable font at this weight."""
    out = io.BytesIO()
    font = TTFont(io.BytesIO(data))
    font.flavor = None
    font.save(out)
    face = uharfbuzz.Font(uharfbuzz.Face(out.getvalue()))
    if weight:
        face.set_variations({"wght": weight})
    buffer = uharfbuzz.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    uharfbuzz.shape(face, buffer)
    places = zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)
    return [(_outline(face, i.codepoint), p.x_advance, p.x_offset, p.y_offset) for i, p in places]


def _outline(face: uharfbuzz.Font, glyph: int) -> str:
    steps: list[str] = []
    draw = uharfbuzz.DrawFuncs()
    draw.set_move_to_func(lambda x, y, _: steps.append(f"M{x},{y}"))
    draw.set_line_to_func(lambda x, y, _: steps.append(f"L{x},{y}"))
    draw.set_quadratic_to_func(lambda a, b, x, y, _: steps.append(f"Q{a},{b},{x},{y}"))
    draw.set_cubic_to_func(lambda a, b, c, d, x, y, _: steps.append(f"C{a},{b},{c},{d},{x},{y}"))
    draw.set_close_path_func(lambda _: steps.append("Z"))
    face.draw_glyph(glyph, draw, None)
    return " ".join(steps)


def _numbers(outline: str) -> list[float]:
    return [float(n) for n in re.findall(r"-?[\d.]+(?:e-?\d+)?", outline)]


def made(*, permission: int = 0, characters: str = "ab") -> bytes:
    """A tiny font, large enough to be worth cutting."""
    names = [".notdef", *(f"g{ord(c)}" for c in characters)]
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({ord(c): f"g{ord(c)}" for c in characters})
    pen = TTGlyphPen(None)
    pen.moveTo((0, 0))
    for n in range(60):
        pen.lineTo((n * 7 % 500, n * 13 % 700))
    pen.closePath()
    builder.setupGlyf(dict.fromkeys(names, pen.glyph()))
    builder.setupHorizontalMetrics(dict.fromkeys(names, (500, 0)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Mill", "styleName": "Regular"})
    builder.setupOS2(fsType=permission)
    builder.setupPost()
    out = io.BytesIO()
    builder.save(out)
    return out.getvalue()


class Ranges(unittest.TestCase):
    @given(characters, characters)
    def test_written_and_read_they_hold_what_they_should_and_nothing_of_the_others(
        self, some: frozenset[int], others: frozenset[int]
    ) -> None:
        self.assertEqual(parsed(written(some)) if some else frozenset(), some)
        if some:
            wide = parsed(written(some, others - some))
            self.assertLessEqual(some, wide)
            self.assertFalse(wide & (others - some))

    def test_as_css_fonts_level_4_writes_them(self) -> None:
        # CSS Fonts Module Level 4, 4.5, examples of unicode-range.
        self.assertEqual(parsed("U+26"), {0x26})
        self.assertEqual(parsed("U+4??"), set(range(0x400, 0x500)))
        self.assertEqual(parsed("u+0025-00FF, u+4??"), {*range(0x25, 0x100), *range(0x400, 0x500)})
        for wrong in ("", "U+", "U+110000", "U+5-4", "U+1?-2", "A-Z", "U+1234567"):
            with self.assertRaises(ValueError):
                parsed(wrong)

    def test_letters_that_lean_on_each_other_stay_together(self) -> None:
        known = {*range(0x600, 0x700), 0x41}
        self.assertEqual(with_neighbours({0x627, 0x41}, known), known)
        self.assertEqual(with_neighbours({0x41}, known), {0x41})


class Subsets(unittest.TestCase):
    def test_every_text_of_the_characters_kept_is_set_as_before(self) -> None:
        for name, data in font_files().items():
            with self.subTest(name), TTFont(io.BytesIO(data)) as font:
                known = frozenset(font.getBestCmap())
                text = "".join(c for c in LETTERS if ord(c) in known) or "".join(map(chr, sorted(known)[100:104]))
                keep = {ord(c) for c in text} | {0x20}
                smaller = SubsetFont(written(keep)).run(data)
                self.assertLess(len(smaller.data), len(data) / 2)
                self.assertEqual(shaped(smaller.data, text), shaped(data, text))
                kept, left = parsed(smaller.kept), parsed(smaller.left)
                self.assertLessEqual(keep, kept)
                self.assertFalse(kept & left)
                self.assertLessEqual(known, kept | left)
                with TTFont(io.BytesIO(smaller.data)) as cut:
                    self.assertEqual(frozenset(cut.getBestCmap()), known & kept)

    def test_the_weights_kept_of_a_variable_font_are_drawn_as_before(self) -> None:
        data = font_files()["hanken-grotesk-latin-wght-normal"]
        keep = written(frozenset(map(ord, LETTERS)))
        whole = len(SubsetFont(keep).run(data).data)
        for weights, still in (((400, 700), (400, 550, 700, 900)), ((600, 700), (400, 650)), ((400, 400), (400,))):
            cut = SubsetFont(keep, weights).run(data).data
            with self.subTest(weights):
                self.assertLess(len(cut), 0.8 * whole)
                for weight in still:
                    for before, after in zip(
                        shaped(data, LETTERS, weight), shaped(cut, LETTERS, weight), strict=True
                    ):
                        self.assertEqual(after[1:], before[1:])
                        for one, other in zip(_numbers(before[0]), _numbers(after[0]), strict=True):
                            self.assertAlmostEqual(one, other, delta=0.01)  # of 1,000 units to the em
        self.assertEqual(SubsetFont(keep, (100, 900)).run(data).data, SubsetFont(keep).run(data).data)

    def test_what_fits_letters_to_coarse_screens_can_go(self) -> None:
        data = font_files()["NotoSans-Regular"]
        keep = written(FLOOR)
        with_, without = SubsetFont(keep).run(data).data, SubsetFont(keep, hints=False).run(data).data
        self.assertLess(len(without), len(with_))
        self.assertEqual(shaped(without, LETTERS), shaped(with_, LETTERS))

    def test_the_same_font_gives_the_same_bytes(self) -> None:
        data = font_files()["FreeMono"]
        self.assertEqual(SubsetFont(written(FLOOR)).run(data), SubsetFont(written(FLOOR)).run(data))

    def test_what_may_not_be_cut_or_cannot_be_read_is_left_with_the_reason(self) -> None:
        text = "".join(map(chr, range(0x41, 0x7B)))
        self.assertTrue(SubsetFont("U+41").run(made(characters=text)).data)
        good = made(characters=text)
        for data, words in (
            (made(permission=0x0002, characters=text), "may not be cut"),
            (made(permission=0x0100, characters=text), "may not be cut"),
            (b"", "cannot be read"),
            (b"wOF2" + b"\0" * 60, "cannot be read"),
            (good[: len(good) // 2], "cannot be read"),
        ):
            with self.assertRaisesRegex(Refused, words):
                SubsetFont("U+41").run(data)
        with self.assertRaisesRegex(Refused, "none of the characters"):
            SubsetFont("U+3B1").run(good)
