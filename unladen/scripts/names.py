"""What a script has to do with others on its page: the names that it may give them, and those that it asks for.

Both are told from its text, and rather too many than too few: whoever asks for nothing that another gives does not mind
whether that one has run.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache

from tree_sitter import Node

from unladen.scripts.tree import FUNCTIONS, names_in, parsed, walk

_LONGEST = 5_000_000  # characters
_SCOPES = FUNCTIONS | {"class_static_block"}
_DECLARING = {"function_declaration", "generator_function_declaration", "class_declaration"}
_IDENTIFIERS = {"identifier", "shorthand_property_identifier"}
# They may make code of any text.
_EVALUATES = {"eval", "Function", "execScript"}
# CSSOM View, 6 and 7; CSSOM, 7.2; and what libraries call the same.
_SIZES = {
    "offsetWidth",
    "offsetHeight",
    "offsetTop",
    "offsetLeft",
    "clientWidth",
    "clientHeight",
    "scrollWidth",
    "scrollHeight",
    "getBoundingClientRect",
    "getClientRects",
    "getComputedStyle",
    "outerWidth",
    "outerHeight",
    "innerText",
}
_SIZES_CALLED = {
    "width",
    "height",
    "outerWidth",
    "outerHeight",
    "innerWidth",
    "innerHeight",
    "offset",
    "position",
    "css",
}
_WINDOW = {"window", "self", "globalThis", "top", "parent", "frames"}


@dataclass(frozen=True, slots=True)
class Names:
    """`gives`: what others may find once it has run: declared at its top, or set as a property of anything. `asks`:
    what it uses without declaring it. `calls`: properties that it calls. `writes`: it writes into the page as that is
    read. `opaque`: what it asks for cannot be told. `measures`: it looks at sizes or places, or asks what is styled
    how.
    """

    gives: frozenset[str] = frozenset()
    asks: frozenset[str] = frozenset()
    calls: frozenset[str] = frozenset()
    writes: bool = False
    opaque: bool = False
    measures: bool = False

    def needs(self, other: Names) -> bool:
        """Whether it may need what another gives."""
        return self.opaque or not other.gives.isdisjoint(self.asks) or not other.gives.isdisjoint(self.calls)


OPAQUE = Names(writes=True, opaque=True, measures=True)


@dataclass(slots=True)
class _Scope:
    end: int
    declares: set[str] = field(default_factory=set)
    uses: set[str] = field(default_factory=set)


@lru_cache(maxsize=256)
def names_of(chars: str) -> Names:
    """The names of a script; of one that cannot be read nothing can be told."""
    if len(chars) > _LONGEST:
        return OPAQUE
    root = parsed(chars.encode())
    return OPAQUE if root.has_error else _Reader(root).names()


class _Reader:
    def __init__(self, root: Node) -> None:
        top = _Scope(root.end_byte)
        self.open, self.gives, self.calls = [top], set[str](), set[str]()
        self.writes = self.opaque = self.measures = False
        self.free, self.at_top = set[str](), set[str]()
        for node in walk(root):
            while len(self.open) > 1 and self.open[-1].end <= node.start_byte:
                self._close()
            self._read(node)
        while len(self.open) > 1:
            self._close()
        self.at_top = top.declares
        self.free |= top.uses - top.declares

    def names(self) -> Names:
        return Names(
            frozenset(self.gives | self.at_top),
            frozenset(self.free),
            frozenset(self.calls),
            self.writes,
            self.opaque,
            self.measures or not self.calls.isdisjoint(_SIZES_CALLED) or "getComputedStyle" in self.free,
        )

    def _close(self) -> None:
        scope = self.open.pop()
        self.open[-1].uses |= scope.uses - scope.declares

    def _read(self, node: Node) -> None:
        kind = node.type
        if kind in _SCOPES:
            name = node.child_by_field_name("name")
            if name is not None and kind in _DECLARING:
                self.open[-1].declares.add(_text(name))
            self.open.append(_Scope(node.end_byte))
            if name is not None and kind not in _DECLARING and name.type == "identifier":
                self.open[-1].declares.add(_text(name))
            for part in ("parameters", "parameter"):
                if (given := node.child_by_field_name(part)) is not None:
                    self.open[-1].declares.update(_declared(given))
        elif kind == "class_declaration":
            if (name := node.child_by_field_name("name")) is not None:
                self.open[-1].declares.add(_text(name))
        elif kind == "variable_declarator":
            if (name := node.child_by_field_name("name")) is not None:
                self.open[-1].declares.update(_declared(name))
        elif kind == "catch_clause" or (kind == "for_in_statement" and node.child_by_field_name("kind") is not None):
            given = node.child_by_field_name("parameter" if kind == "catch_clause" else "left")
            if given is not None:
                self.open[-1].declares.update(_declared(given))
        elif kind in _IDENTIFIERS:
            self.open[-1].uses.add(_text(node))
        elif kind in ("assignment_expression", "augmented_assignment_expression"):
            self._assigned(node.child_by_field_name("left"))
        elif kind == "call_expression":
            self._called(node)
        elif kind == "new_expression":
            self._evaluated(node.child_by_field_name("constructor"), node.child_by_field_name("arguments"))
        elif kind == "with_statement":
            self.opaque = True
        elif kind in ("member_expression", "subscript_expression"):
            self._looked_up(node)

    def _assigned(self, left: Node | None) -> None:
        """What is set: a name, of which it is not known here whose it is, or a property."""
        if left is None:
            return
        if left.type == "identifier":
            self.gives.add(_text(left))
        elif (name := _property(left)) is not None:
            self.gives.add(name)

    def _looked_up(self, node: Node) -> None:
        """A property of the window is a name like any other."""
        owner, name = node.child_by_field_name("object"), _property(node)
        self.measures |= name in _SIZES
        if owner is None or owner.type != "identifier" or _text(owner) not in _WINDOW:
            return
        if name is not None:
            self.free.add(name)

    def _evaluated(self, called: Node | None, arguments: Node | None) -> None:
        """Code made of a text that is not written there."""
        if called is None or called.type != "identifier" or _text(called) not in _EVALUATES:
            return
        given = arguments.named_children if arguments is not None else []
        self.opaque |= _text(called) == "eval" or any(each.type != "string" for each in given)

    def _called(self, node: Node) -> None:
        called, arguments = node.child_by_field_name("function"), node.child_by_field_name("arguments")
        if called is None:
            return
        self._evaluated(called, arguments)
        given = arguments.named_children if arguments is not None else []
        name = _property(called) or _text(called)
        if name in ("setTimeout", "setInterval") and given and given[0].type in ("string", "binary_expression"):
            self.opaque = True
        if _property(called) is None:
            return
        self.calls.add(name)
        owner = called.child_by_field_name("object")
        if name in ("write", "writeln") and owner is not None and _text(owner).endswith("document"):
            self.writes = True
        # A library's way to give more to what others use: all names of the table are there then.
        if name in ("extend", "assign", "defineProperty", "defineProperties", "mixin"):
            for argument in given:
                if argument.type == "object":
                    self.gives.update(_keys(argument))
                elif argument.type == "string":
                    self.gives.add(_text(argument)[1:-1])


def _property(node: Node) -> str | None:
    """The name of a property that is told by its text."""
    if node.type == "member_expression":
        name = node.child_by_field_name("property")
        return _text(name) if name is not None else None
    if node.type == "subscript_expression":
        index = node.child_by_field_name("index")
        return _text(index)[1:-1] if index is not None and index.type == "string" else None
    return None


def _keys(table: Node) -> Iterator[str]:
    for entry in table.named_children:
        key = entry.child_by_field_name("key") or entry.child_by_field_name("name")
        if key is not None:
            yield _text(key).strip("'\"")
        elif entry.type == "shorthand_property_identifier":
            yield _text(entry)


def _declared(pattern: Node) -> Iterator[str]:
    return (name.decode() for name in names_in(pattern))


def _text(node: Node) -> str:
    return node.text.decode() if node.text else ""
