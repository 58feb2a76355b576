"""A script without the bodies of functions that never ran: each is fetched, with all others, when the first is called.

In the place of a body stands `eval` of its text: what a direct `eval` evaluates sees the same names, `this` and
`arguments` as the code around it (ECMAScript, 19.2.1.1 PerformEval).
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Collection, Iterable
from dataclasses import asdict, dataclass
from typing import Any, ClassVar

from unladen.errors import Refused
from unladen.markup.spans import Span, Units, touching, union
from unladen.scripts.functions import Function, Script, read_script

SHORTEST = 80  # bytes of a body that is worth a stub
# The request is made while the caller waits: it must have its answer before it goes on.
_LOADER = (
    "var {name}=function(u){{var d;return function(i){{if(!d){{var x=new XMLHttpRequest;x.open('GET',u,!1);x.send();"
    "if(x.status!=200)throw Error(u+' did not come: '+x.status);d=JSON.parse(x.responseText)}}return d[i]}}}}"
    "(new URL({file},(document.currentScript||0).src||document.baseURI).href);"
)


@dataclass(frozen=True, slots=True)
class Rest:
    """The texts of the bodies that went, as JSON: a list of strings."""

    data: bytes
    functions: int

    def facts(self) -> dict[str, Any]:
        """How many there are."""
        return {"functions": self.functions}


@dataclass(frozen=True, slots=True)
class CutBodies:
    """The bodies of the functions of these names. Of a script in UTF-8."""

    name: ClassVar[str] = "cut-bodies"
    version: ClassVar[int] = 1
    seconds: ClassVar[float] = 60
    memory: ClassVar[int] = 4_000_000_000

    functions: tuple[str, ...]

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)

    def run(self, data: bytes) -> Rest:
        """Raises `Refused` where the script cannot be read, or has none of them."""
        try:
            chosen = chosen_in(read_script(data.decode()), frozenset(self.functions))
        except ValueError as error:
            raise Refused(str(error)) from None
        if not chosen:
            raise Refused("has none of the functions any more")
        return Rest(rest_of(chosen), len(chosen))


def chosen_in(script: Script, names: Collection[str]) -> list[Function]:
    """The functions of these names whose bodies can come later; what is inside another of them goes with that."""
    chosen: list[Function] = []
    end = 0
    for function in script.functions:
        long = function.body[1] - function.body[0] >= SHORTEST
        if function.start >= end and function.stub and long and function.name in names:
            chosen.append(function)
            end = function.end
    return chosen


def rest_of(chosen: Iterable[Function]) -> bytes:
    """The file of what was cut out."""
    return json.dumps([function.code for function in chosen], ensure_ascii=False, separators=(",", ":")).encode()


def without_bodies(chars: str, names: Collection[str], file: str, digest: str) -> str:
    """A script that fetches these functions' bodies from `file` (an address beside it) when they are called.

    Raises `ValueError` where it cannot be read, or the file would be another one than that of this SHA-256.
    """
    script = read_script(chars)
    chosen = chosen_in(script, names)
    if hashlib.sha256(rest_of(chosen)).hexdigest() != digest:
        raise ValueError("another change made something else of its functions")
    name = f"_u{digest[:6]}"
    while name in chars:
        name += "_"
    parts, place = [script.data[: script.head]], script.head
    loader = _LOADER.format(name=name, file=json.dumps(file))
    parts.append((("\n" if script.head else "") + loader).encode())
    for number, function in enumerate(chosen):
        start, end = function.body
        parts += [script.data[place:start], function.stub.replace("eval()", f"eval({name}({number}))", 1).encode()]
        place = end
    parts.append(script.data[place:])
    made = b"".join(parts).decode()
    read_script.__wrapped__(made)  # it must still read as a script
    return made


def never_ran(chars: str, used: Iterable[Span]) -> tuple[list[Function], int]:
    """The functions of a script of which no part of the body is in the `used` spans (UTF-16 code units), in order,
    without those that are equal to one that ran; and how many functions there are.

    Raises `ValueError` where it cannot be read.
    """
    script = read_script(chars)
    spans = union(used)
    place_of = _places(chars)
    ran = set()
    for function in script.functions:
        start, end = function.body
        if touching(spans, place_of(start + 1), place_of(end - 1)) or end - start <= 2:
            ran.add(function.name)
    return [function for function in script.functions if function.name not in ran], len(script.functions)


def _places(chars: str) -> Any:
    """From bytes in UTF-8 to UTF-16 code units."""
    if chars.isascii():
        return lambda place: place
    units = Units(chars)
    data = chars.encode()
    # The first byte of each character; those inside one are never asked for.
    number = [0] * (len(data) + 1)
    place = 0
    for i, char in enumerate(chars):
        number[place] = i
        place += len(char.encode())
    number[place] = len(chars)
    return lambda place: units.at(number[place])
