"""HTML edited in place. The only module that knows the parser."""

from __future__ import annotations

import bisect
import html
import re
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import turbohtml

from unladen.markup.css import identifier
from unladen.markup.edits import Edit, edited
from unladen.markup.text import without_surrogates


class MarkupBroken(ValueError):
    """An edit changed more of the tree than it should have."""


_TAG_NAME = re.compile(r"<[^\s/>]+")
_VALUE = re.compile(r"""=\s*(?:"([^"]*)"|'([^']*)'|([^\s>]*))$""", re.S)
_NO_PICTURE_IN = {"svg", "math", "template", "noscript"}


@dataclass(frozen=True, slots=True)
class Element:
    """An element that stands in the source. Positions count characters of the source text.

    `attrs` maps lower-case names to unescaped values; `spans` gives each attribute's start and end.
    """

    tag: str
    attrs: dict[str, str]
    start: int
    end: int
    spans: dict[str, tuple[int, int]]
    inner_end: int
    ancestors: tuple[str, ...]

    @property
    def inert(self) -> bool:
        """Whether it lies where a browser shows nothing of it or it is not HTML."""
        return bool(_NO_PICTURE_IN.intersection(self.ancestors))


class Document:
    """A parsed page. Elements that the parser made up, or that scripts add, are not in it."""

    def __init__(self, chars: str) -> None:
        self.chars = chars
        self._crlf = [m.start() - i for i, m in enumerate(re.finditer("\r\n", chars))]
        self._tree = turbohtml.parse(without_surrogates(chars), source_locations=True, scripting=True)
        self.elements = list(self._read())
        self.base = next((e.attrs["href"] for e in self.elements if e.tag == "base" and "href" in e.attrs), "")

    def _offset(self, normalised: int) -> int:
        return normalised + bisect.bisect_left(self._crlf, normalised)

    def _read(self) -> Iterator[Element]:
        for node in self._tree.descendants:
            if not isinstance(node, turbohtml.Element) or node.source_location is None:
                continue
            location = node.source_location
            start, end = self._offset(location.start_tag.start_offset), self._offset(location.start_tag.end_offset)
            if self.chars[start : start + 1] != "<" or self.chars[end - 1 : end] != ">":
                continue
            spans = {
                name: (self._offset(span.start_offset), self._offset(span.end_offset))
                for name, span in location.attrs.items()
            }
            inner_end = self._offset(location.end_tag.start_offset) if location.end_tag else end
            attrs = {name: _text(value) for name, value in node.attrs.items()}
            above = tuple(a.tag for a in node.ancestors if isinstance(a, turbohtml.Element))
            yield Element(node.tag, attrs, start, end, spans, inner_end, above)

    def matching(self, selector: str) -> list[Element]:
        """The elements that a selector matches (Selectors Level 4); none for one that cannot be read."""
        try:
            nodes = self._tree.select(selector)
        except (turbohtml.SelectorSyntaxError, ValueError):
            return []
        places = [node.source_location for node in nodes]
        starts = {self._offset(place.start_tag.start_offset) for place in places if place is not None}
        return [element for element in self.elements if element.start in starts]

    def places(self, tags: Collection[str]) -> dict[str, Element]:
        """The elements with these tags by the selectors by which scripts in a page name them (`inpage/selector.js`)."""
        by_start = {element.start: element for element in self.elements if element.tag in tags}
        nodes = [node for node in self._tree.descendants if isinstance(node, turbohtml.Element)]
        counted = Counter(_text(node.attrs["id"]) for node in nodes if node.attrs.get("id"))
        numbered: dict[turbohtml.Element, str] = {}

        def step(node: turbohtml.Element) -> str:
            if node not in numbered:
                parent = node.parent
                children = parent.children if isinstance(parent, turbohtml.Element) else [node]
                numbered.update(_steps([child for child in children if isinstance(child, turbohtml.Element)]))
            return numbered[node]

        def name(node: turbohtml.Element) -> str:
            parts: list[str] = []
            above: object = node
            while isinstance(above, turbohtml.Element):
                own = _text(above.attrs.get("id"))
                if own and counted[own] == 1:
                    parts.append("#" + identifier(own))
                    break
                parts.append(above.tag if above.tag in ("html", "body") else step(above))
                above = above.parent
            return ">".join(reversed(parts))

        places = {}
        for node in nodes:
            if node.tag in tags and node.source_location is not None:
                start = self._offset(node.source_location.start_tag.start_offset)
                if start in by_start:
                    places[name(node)] = by_start[start]
        return places

    def shape(self, without: Iterable[tuple[int, int]] = ()) -> list[tuple[str, int, dict[str, str]]]:
        """Every element of the tree, made-up ones too: tag, depth and attributes.

        Elements whose tags stand in the spans `without` are left out, and do not count as depth. It is -1 for an
        element that lies in one of them without standing between its tags.
        """
        spans = sorted(without)
        starts = [start for start, _ in spans]

        def is_left_out(node: object) -> bool:
            if not spans or not isinstance(node, turbohtml.Element) or node.source_location is None:
                return False
            at = self._offset(node.source_location.start_tag.start_offset)
            nearest = bisect.bisect_right(starts, at) - 1
            return nearest >= 0 and at < spans[nearest][1]

        result = []
        for node in self._tree.descendants:
            if not isinstance(node, turbohtml.Element) or is_left_out(node):
                continue
            above = [ancestor for ancestor in node.ancestors if isinstance(ancestor, turbohtml.Element)]
            around = [ancestor for ancestor in above if is_left_out(ancestor)]
            # What was added must be closed again before anything that it was not meant to hold.
            depth = len(above) - len(around) if all(self._holds(a, node) for a in around) else -1
            result.append((node.tag, depth, {name: _text(value) for name, value in node.attrs.items()}))
        return result

    def _holds(self, outer: turbohtml.Element, inner: turbohtml.Element) -> bool:
        """Whether an element stands between the tags of another, and not only beneath it in the tree."""
        ends = outer.source_location.end_tag if outer.source_location else None
        begins = inner.source_location.start_tag.start_offset if inner.source_location else None
        return ends is not None and (begins is None or begins < ends.start_offset)

    def set_attribute(self, element: Element, name: str, value: str) -> Edit:
        """The edit that gives an element this attribute value, in the place of the old one if there is one."""
        quoted = f'{name}="{html.escape(value, quote=False).replace(chr(34), "&quot;")}"'
        if name in element.spans:
            return Edit(*element.spans[name], quoted)
        # Directly after the tag's name no unquoted value and no "/>" can run into it.
        match = _TAG_NAME.match(self.chars, element.start)
        assert match is not None
        return Edit(match.end(), match.end(), " " + quoted, slot=name)

    def value_span(self, element: Element, name: str) -> tuple[int, int] | None:
        """Where an attribute's raw value stands without its quotes, if what stands there needs no unescaping."""
        start, end = element.spans[name]
        match = _VALUE.search(self.chars, start, end)
        if match is None:
            return None
        group = next(i for i in (1, 2, 3) if match.group(i) is not None)
        return match.span(group) if match.group(group) == element.attrs[name] else None


def _steps(children: Sequence[turbohtml.Element]) -> Iterator[tuple[turbohtml.Element, str]]:
    """Siblings, each with its part of a selector."""
    many = Counter(child.tag for child in children)
    met: Counter[str] = Counter()
    for child in children:
        met[child.tag] += 1
        yield child, f"{child.tag}:nth-of-type({met[child.tag]})" if many[child.tag] > 1 else child.tag


def _text(value: object) -> str:
    if value is None:
        return ""
    return " ".join(value) if isinstance(value, list | tuple) else str(value)


def is_selector(text: str) -> bool:
    """Whether it can be read as a selector."""
    try:
        turbohtml.parse("<p>").select(text)
    except (turbohtml.SelectorSyntaxError, ValueError):
        return False
    return bool(text.strip())


def edit_html(before: str, edits: list[Edit], changed: set[str]) -> str:
    """Apply edits and make sure that only attributes named in `changed` (and the text of styles) differ.

    What edits that add elements bring, or take away, is left out of the comparison. Raises `MarkupBroken` when the new
    text parses to another tree.
    """
    after, added = edited(before, edits)
    gone = [(edit.start, edit.end) for edit in edits if edit.adds]
    old = _shape(before, tuple(gone))
    new = _shape(after, tuple((edit.start, edit.end) for edit in added))
    if len(old) != len(new):
        raise MarkupBroken(f"the page would have {len(new)} elements instead of {len(old)}")
    for (tag, depth, attrs), (new_tag, new_depth, new_attrs) in zip(old, new, strict=True):
        differing = {name for name in attrs.keys() | new_attrs.keys() if attrs.get(name) != new_attrs.get(name)}
        if (tag, depth) != (new_tag, new_depth) or differing - changed:
            raise MarkupBroken(f"<{tag}> would not stay as it is")
    return after


def same_elements(before: str, after: str) -> bool:
    """Whether two texts of a page have the same elements with the same attributes; words and spaces may differ."""
    return _shape(before) == _shape(after)


@lru_cache(maxsize=16)  # one change after the other is tried on the same page
def _shape(chars: str, without: tuple[tuple[int, int], ...] = ()) -> list[tuple[str, int, dict[str, str]]]:
    return Document(chars).shape(without)
