"""The functions of a script: where they are, and which of them would do the same if their bodies came later."""

from __future__ import annotations

import hashlib
import re
from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

from tree_sitter import Node

from unladen.markup.spans import Span, touching, union
from unladen.scripts.tree import FUNCTIONS, names_in, parsed, walk

_BOUND = {"meta_property", "super", "private_property_identifier"}
_OWN_EVAL = re.compile(r"(?:var|let|const|function)\s+eval\b|[^.\w=!<>]eval\s*=[^=]")
_LONGEST = 5_000_000  # characters
# What lies deeper goes with what is around it: each level costs the text of all those inside once more.
_DEEPEST = 30
_Group = list[tuple[int, int, Node]]


@dataclass(frozen=True, slots=True)
class Function:
    """One function, not too deep inside others. Places are bytes of the script in UTF-8; `name` is told by its text,
    and the same for equal ones.

    `stub` is what stands in the place of its body, with an `eval()` that is to evaluate the `code`; "" where nothing
    could take its place.
    """

    name: str
    start: int
    end: int
    body: tuple[int, int]
    stub: str
    code: str


@dataclass(frozen=True, slots=True)
class Script:
    """A script read: its text, its outermost place for further code (in bytes), and its functions, outer ones first."""

    data: bytes
    head: int
    functions: tuple[Function, ...]


@lru_cache(maxsize=4)
def read_script(chars: str) -> Script:
    """Raises `ValueError` with the reason where a text cannot be read as a classic script, or gives `eval` a meaning
    of its own.
    """
    if len(chars) > _LONGEST:
        raise ValueError("is too long")
    if _OWN_EVAL.search(chars):
        raise ValueError("has an eval of its own")
    data = chars.encode()
    root = parsed(data)
    if root.has_error:
        raise ValueError("cannot be read as a script")
    if any(child.type in ("import_statement", "export_statement") for child in root.children):
        raise ValueError("is a module")
    return Script(data, _head(root), tuple(_Reader(data, root).functions()))


def _head(root: Node) -> int:
    """Behind a line for shells and the directives at the top, which count only there."""
    place = 0
    for child in root.children:
        if child.type == "hash_bang_line" or _directive(child):
            place = child.end_byte
        elif child.type != "comment":
            break
    return place


def _directive(node: Node) -> bool:
    return (
        node.type == "expression_statement" and bool(node.named_children) and node.named_children[0].type == "string"
    )


class _Reader:
    """What is known of a script's functions, from one pass over it."""

    def __init__(self, data: bytes, root: Node) -> None:
        self.data = data
        self.nodes: _Group = []
        self.evals, self.bound = list[int](), list[int]()
        withs, in_fields = list[Span](), list[Span]()
        declared: list[tuple[int, Node]] = []
        # The query language of the parser takes square time on deep nesting, and drops what it has no room for.
        for node in walk(root):
            kind = node.type
            if kind in FUNCTIONS:
                self.nodes.append((node.start_byte, node.end_byte, node))
            elif kind in _BOUND:
                self.bound.append(node.start_byte)
            elif kind == "call_expression":
                called = node.child_by_field_name("function")
                if called is not None and called.type == "identifier" and called.text == b"eval":
                    self.evals.append(node.start_byte)
            elif kind in ("variable_declaration", "for_in_statement"):
                declared += [(node.start_byte, name) for name in _declared(node)]
            elif kind == "with_statement":
                withs.append((node.start_byte, node.end_byte))
            elif kind == "field_definition":
                in_fields.append((node.start_byte, node.end_byte))
        self.withs, self.fields = union(withs), union(in_fields)
        self.starts = [start for start, _, _ in self.nodes]
        self.parents = list(_parents([(start, end) for start, end, _ in self.nodes]))
        # Names that a function declares for itself, by its place in the list.
        self.declares: dict[int, set[bytes]] = {}
        for start, node in declared:
            self.declares.setdefault(self._owner(start), set()).update(names_in(node))
        for i, (_, _, node) in enumerate(self.nodes):
            name = node.child_by_field_name("name")
            if node.type.endswith("_declaration") and name and name.text:
                self.declares.setdefault(self.parents[i], set()).add(name.text)

    def functions(self) -> Iterator[Function]:
        """All of them, outer ones first."""
        depths: list[int] = []
        for i, (start, end, node) in enumerate(self.nodes):
            depths.append(depths[self.parents[i]] + 1 if self.parents[i] >= 0 else 0)
            body = node.child_by_field_name("body")
            if body is None or depths[i] > _DEEPEST:
                continue
            stub, code = self._later(i, node, body)
            name = hashlib.sha256(self.data[start:end]).hexdigest()[:10]
            yield Function(name, start, end, (body.start_byte, body.end_byte), stub, code)

    def _owner(self, place: int) -> int:
        i = bisect_right(self.starts, place) - 1
        while i >= 0 and self.nodes[i][1] <= place:
            i = self.parents[i]
        return i

    def _later(self, i: int, node: Node, body: Node) -> tuple[str, str]:
        """The stub and the code of a function's body; both "" where it must stay."""
        start, end, _ = self.nodes[i]
        arrow = node.type == "arrow_function"
        if (
            # What belongs to the class or module around it, or looks at the scope that it is evaluated in.
            _has(self.bound, start, end)
            or _has(self.evals, start, end)
            or touching(self.withs, start, start + 1)
            or (arrow and touching(self.fields, start, start + 1))
            or _is_constructor(node)
        ):
            return "", ""
        waits = "async " if any(child.type == "async" for child in node.children) else ""
        text = self.data[body.start_byte : body.end_byte].decode()
        if body.type != "statement_block":
            return "eval()", f"({waits}()=>({text}\n))()"
        directives = "".join(
            self.data[c.start_byte : c.end_byte].decode().rstrip(";") + ";" for c in _first_directives(body)
        )
        if "use asm" in directives:
            return "", ""
        inner = text[1:-1]
        steps = node.type.startswith("generator") or any(child.type == "*" for child in node.children)
        parameters = node.child_by_field_name("parameters") or node.child_by_field_name("parameter")
        names = set(names_in(parameters)) if parameters else set()
        if not steps and not (names | {b"arguments"}) & self.declares.get(i, set()):
            return f"{{{directives}return eval()}}", f"({waits}()=>{{{inner}\n}})()"
        # Of a name that is a parameter and declared again there can be only one: the code gets parameters of its own.
        declared = parameters.text.decode() if parameters and parameters.text else "()"
        if arrow or "=" in declared:
            return "", ""
        star, give = ("*", "yield* ") if steps else ("", "")
        code = f"({waits}function{star}{declared}{{{inner}\n}})"
        return f"{{{directives}return {give}eval().apply(this,arguments)}}", code


def _declared(node: Node) -> Iterator[Node]:
    """What a `var` declares."""
    if node.type == "for_in_statement":
        kind, left = node.child_by_field_name("kind"), node.child_by_field_name("left")
        if kind is not None and kind.text == b"var" and left is not None:
            yield left
        return
    for child in node.named_children:
        name = child.child_by_field_name("name") if child.type == "variable_declarator" else None
        if name is not None:
            yield name


def _parents(spans: Sequence[tuple[int, int]]) -> Iterator[int]:
    """For spans in order, outer ones first, the place in the list of the one around each, -1 if none."""
    open_: list[int] = []
    for i, (start, _) in enumerate(spans):
        while open_ and spans[open_[-1]][1] <= start:
            open_.pop()
        yield open_[-1] if open_ else -1
        open_.append(i)


def _has(places: Sequence[int], start: int, end: int) -> bool:
    i = bisect_left(places, start)
    return i < len(places) and places[i] < end


def _is_constructor(node: Node) -> bool:
    name = node.child_by_field_name("name")
    inside = node.parent is not None and node.parent.type == "class_body"
    return node.type == "method_definition" and inside and name is not None and name.text == b"constructor"


def _first_directives(body: Node) -> Iterator[Node]:
    for child in body.named_children:
        if _directive(child):
            yield child
        elif child.type != "comment":
            return
