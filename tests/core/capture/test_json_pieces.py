"""A JSON document in pieces says what `json` of the standard library says of it as a whole."""

from __future__ import annotations

import io
import json
import unittest
from typing import Any
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from unladen.capture import json_pieces
from unladen.capture.json_pieces import Pieces, Texts, TooLarge

words = st.text(st.characters(codec="utf-8"), max_size=40) | st.sampled_from(
    ["\\", '"', "\\u", "é😀" * 9, "{[", "entries"]
)
values = st.recursive(
    st.none() | st.booleans() | st.integers() | words,
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(words, inner, max_size=3),
    max_leaves=8,
)
entries = st.lists(st.dictionaries(words, values, max_size=4), max_size=4)


def filled(value: Any, texts: Texts) -> Any:
    """The same with the texts that lie on the disk."""
    if isinstance(value, dict):
        return {filled(key, texts): filled(entry, texts) for key, entry in value.items()}
    if isinstance(value, list):
        return [filled(entry, texts) for entry in value]
    return "".join(texts.read(value)) if texts.stands_for(value) else value


def pieces_of(data: bytes, *, chunk: int = 7, long: int = 12, longest: int = 100_000) -> tuple[list[Any], Pieces]:
    with mock.patch.multiple(json_pieces, _CHUNK=chunk, _LONG=long):
        texts = Texts(io.BytesIO())
        pieces = Pieces(io.BytesIO(data), ("log", "entries"), texts, longest)
        return [item if item is None else filled(json.loads(item), texts) for item in pieces.items()], pieces


class JsonPieces(unittest.TestCase):
    @given(
        entries,
        st.dictionaries(words.filter(lambda w: w != "entries"), values, max_size=3),
        st.booleans(),
        st.integers(1, 40),
    )
    def test_any_document_says_the_same_in_pieces(self, items: Any, beside: Any, plain: bool, chunk: int) -> None:
        document = {"before": beside, "log": {**beside, "entries": items, "after": beside}}
        data = json.dumps(document, ensure_ascii=plain, indent=chunk % 3 or None).encode()
        found, pieces = pieces_of(data, chunk=chunk, long=100_000)
        self.assertEqual(found, items)
        self.assertTrue(pieces.whole)
        self.assertEqual(json.loads(pieces.frame), {**document, "log": {**document["log"], "entries": []}})
        self.assertEqual(pieces_of(data, chunk=chunk)[0], items)

    def test_one_that_is_cut_off_anywhere_gives_what_came_before(self) -> None:
        items = [{"url": "a{[", "n": number} for number in range(3)]
        data = json.dumps({"log": {"version": "1.2", "entries": items}}).encode()
        for end in range(len(data)):
            found, pieces = pieces_of(data[:end])
            self.assertEqual(found, items[: len(found)])
            self.assertFalse(pieces.whole and end)
        self.assertEqual(json.loads(pieces_of(data[: data.index(b"2}")])[1].frame)["log"]["entries"], [])

    def test_only_the_list_that_is_meant(self) -> None:
        for data in (b'{"entries": [{"a": 1}]}', b'{"log": [{"entries": [{}]}]}', b'[{"log": {"entries": [{}]}}]'):
            self.assertEqual(pieces_of(data)[0], [])
        self.assertEqual(
            pieces_of(b'{"log": {"log": {"entries": [{}]}, "entries": [1, "{", {"a": [{}]}, 2]}}')[0], [{"a": [{}]}]
        )

    def test_more_than_anybody_writes(self) -> None:
        long = b'{"log": {"entries": [{"a": "%s"}, {"b": [%s]}, {"c": 1}]}}' % (b"x" * 900, b"1," * 900 + b"1")
        self.assertEqual(pieces_of(long, longest=400)[0], [{"a": "x" * 900}, None, {"c": 1}])
        with self.assertRaises(TooLarge):
            pieces_of(b'{"a": [%s]}' % (b"1," * 900), longest=400)
        with self.assertRaises(TooLarge):
            pieces_of(b'{"a":' * 300)
