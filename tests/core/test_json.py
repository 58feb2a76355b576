"""Documents that people hand in: what is wrong is told in a sentence with the name."""

from __future__ import annotations

import json
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from unladen.documents import read_json, read_loosely
from unladen.errors import BadInput

VALUES = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(10**17), 10**17)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(), inner, max_size=4),
    max_leaves=12,
)


class Documents(unittest.TestCase):
    @given(VALUES)
    def test_what_can_be_kept_comes_back(self, value: object) -> None:
        for text in (json.dumps(value), json.dumps(value, ensure_ascii=False)):
            for body in (text.encode(), b"\xef\xbb\xbf" + text.encode()):
                self.assertEqual(read_json(body, "plan.json"), value)

    def test_what_cannot_be_kept_is_refused_by_name(self) -> None:
        for body, words in (
            (b"", "not a JSON document or is truncated"),
            (b'{"a": 1', "not a JSON document or is truncated"),
            (b"\xff\xfe", "not in UTF-8"),
            (b"[" * 200_000, "nested too deep"),
            (b'{"a":' * 200_000, "nested too deep"),
            (b"1e999", "out of range"),
            (b"-Infinity", "out of range"),
            (b"[NaN]", "out of range"),
            (b"9" * 5000, "out of range"),
            (b'{"a": ["\\ud800"]}', "lone surrogate"),
            (b'{"\\udc00": 1}', "lone surrogate"),
        ):
            with self.subTest(words, body=body[:20]), self.assertRaisesRegex(BadInput, f"^plan.json: .*{words}"):
                read_json(body, "plan.json")

    def test_single_useless_values_can_be_let_in(self) -> None:
        found = read_loosely(b'{"a": NaN, "b": ' + b"9" * 5000 + b', "c": "\\ud800", "d": 7}', "site.har")
        self.assertTrue(math.isnan(found["a"]) and math.isnan(found["b"]))
        self.assertEqual((found["c"], found["d"]), ("\ud800", 7))
