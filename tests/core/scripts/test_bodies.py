"""Scripts whose functions come when they are called: the same script as before, with all of them withheld."""

from __future__ import annotations

import hashlib
import json
import shutil
import subprocess
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.sites import registry_package
from unladen.errors import Refused
from unladen.scripts.bodies import SHORTEST, CutBodies, chosen_in, never_ran, rest_of, without_bodies
from unladen.scripts.functions import read_script

PAD = "/* " + "x" * SHORTEST + " */"
# One function for each thing that a function can be, and what it gives (ECMAScript 2023).
RIDDLES = {
    "parameters": "function f(a, b = a + 1, ...rest) { PAD return [a, b, rest.length] } say(f(1), f(1, 5, 6, 7))",
    "arguments": "function f(a) { PAD a = 9; return [arguments.length, arguments[0]] } say(f(1, 2))",
    "strict arguments": "function f(a) { 'use strict'; PAD a = 9; return arguments[0] } say(f(1))",
    "this": "var o = { n: 4, get() { PAD return this.n }, arrow() { return (() => { PAD return this.n })() } }; "
    "say(o.get(), o.arrow())",
    "strict this": "function f() { 'use strict'; PAD return this === undefined } say(f())",
    "closures": "function make(n) { var m = n * 2; return function () { PAD return ++m } } var g = make(2); "
    "say(g(), g())",
    "a parameter again": "function f(a) { PAD var a; return a } function g(a) { PAD function a() {} return typeof "
    "a } say(f(3), g(3))",
    "its own arguments": "function f() { PAD var arguments = 3; return arguments } say(f())",
    "generators": "function* f(n) { PAD for (var i = 0; i < n; i++) yield i } say([...f(4)])",
    "recursion": "var f = function fact(n) { PAD return n < 2 ? 1 : n * fact(n - 1) }; say(f(6))",
    "hoisting": "function f() { PAD return g(); function g() { return typeof h; var h = 1 } } say(f())",
    "new": "function P(n) { PAD this.n = n } P.prototype.twice = function () { PAD return this.n * 2 }; say(new "
    "P(4).twice())",
    "classes": "class A { constructor(n) { PAD this.n = n } get m() { PAD return this.n } "
    "set m(v) { PAD this.n = v } static s() { PAD return 7 } "
    "#p() { PAD return 8 } p() { PAD return this.#p() } } "
    "class B extends A { constructor() { super(3) } up() { PAD return super.m } x = () => { PAD return this.n } } "
    "var b = new B(); b.m = 6; say(b.m, b.up(), A.s(), b.p(), b.x())",
    "new target": "function F() { PAD return new.target === F } say(F(), typeof new F())",
    "errors": "function f() { PAD throw new TypeError('no') } try { f() } catch (e) { say(e instanceof TypeError, "
    "e.message) }",
    "labels": "function f() { PAD out: for (;;) { for (;;) break out } return 'out' } say(f())",
    "a comment at the end": "function f(a) { PAD return a // the end\n } say(f(2))",
    "names and lengths": "function f(a, b) { PAD return a } var g = (a, b, c) => { PAD return a }; say(f.name, "
    "f.length, g.name, g.length)",
    "an expression": "var f = (a) => [a, a + 1, a + 2, 'PADPADPADPAD', PAD this === undefined]; say(f(1).length)",
    "its own eval": "var x = 1; function f(code) { var x = 2; PAD return eval(code) } say(f('x'))",
    "with": "function f(o) { with (o) { return (function () { PAD return n })() } } say(f({ n: 5 }))",
    "blocks": "function f() { PAD { function g() { return 1 } } return typeof g } say(f())",
    "text": "function f() { PAD return 'é😀  \\u2028 ' + `a${1 + 1}\\``.length + /[/}]/.source } say(f())",
    "destructuring": "function f({ a, b: [c] = [2] }, ...[d]) { PAD return [a, c, d] } say(f({ a: 1 }, 3))",
    "waiting": "async function f(a) { PAD await null; return a } var g = async (a) => { PAD return (await a) + 1 }; "
    "(async () => { say(await f(1), await g(1)); for await (var x of h(2)) say(x) })(); async function* h(n) { "
    "PAD yield n; "
    "yield await n }",
}
HARNESS = """
const data = JSON.parse(require("fs").readFileSync(0, "utf8"));
const run = (code, rest) => new Promise((done) => {
  const said = [], vm = require("vm"), fetched = [];
  class XMLHttpRequest {
    open(how, url) { this.url = url }
    send() { fetched.push(this.url); this.status = 200; this.responseText = rest }
  }
  const document = { currentScript: { src: "https://site.example/js/a.js" } };
  const here = { say: (...all) => said.push(JSON.stringify(all)), XMLHttpRequest, URL, document };
  try { vm.runInNewContext(code, here) } catch (error) { said.push(String(error)) }
  setTimeout(() => done([said, fetched]), 20);
});
Promise.all(data.map(([code, rest]) => run(code, rest))).then((all) => console.log(JSON.stringify(all)));
"""


def cut(chars: str) -> tuple[str, str, int]:
    """A script with all bodies withheld that can be, the file of these, and how many they are."""
    script = read_script(chars)
    chosen = chosen_in(script, {function.name for function in script.functions})
    rest = rest_of(chosen)
    made = without_bodies(chars, {f.name for f in script.functions}, "a.rest.json", hashlib.sha256(rest).hexdigest())
    return made, rest.decode(), len(chosen)


class Withheld(unittest.TestCase):
    @unittest.skipUnless(shutil.which("node"), "needs node")
    def test_whatever_a_function_is_it_does_the_same(self) -> None:
        codes = {name: code.replace("PAD", PAD) for name, code in RIDDLES.items()}
        made = {name: cut(code) for name, code in codes.items()}
        asked = [[code, ""] for code in codes.values()] + [[chars, rest] for chars, rest, _ in made.values()]
        told = subprocess.run(
            ["node", "-e", HARNESS], input=json.dumps(asked), capture_output=True, text=True, check=True, timeout=60
        )
        answers = json.loads(told.stdout)
        before, after = answers[: len(codes)], answers[len(codes) :]
        for name, (said, _), (says, fetched) in zip(made, before, after, strict=True):
            with self.subTest(name):
                self.assertTrue(said)
                self.assertEqual(says, said)
                self.assertIn(fetched, ([], ["https://site.example/js/a.rest.json"]))  # once, if at all
        left = {name for name, (_, _, count) in made.items() if not count}
        self.assertEqual(left, {"its own eval", "new target"})

    def test_what_cannot_be_read_is_left_alone_with_a_reason(self) -> None:
        for chars, reason in (
            ("function f( { }", "cannot be read"),
            ("import x from './x.js'; x()", "module"),
            ("export function f() {}", "module"),
            ("var eval = 1; function f() {}", "eval of its own"),
        ):
            with self.subTest(chars), self.assertRaisesRegex(ValueError, reason):
                read_script(chars)
            with self.assertRaisesRegex(Refused, reason):
                CutBodies(("x",)).run(chars.encode())

    def test_directives_and_lines_for_shells_stay_at_the_head(self) -> None:
        made, _, _ = cut(f"#!/bin/x\n/* a */ 'use strict';\nfunction f() {{ {PAD} return this }} f();")
        self.assertTrue(made.startswith("#!/bin/x\n/* a */ 'use strict';\nvar _u"), made[:80])

    def test_another_text_of_its_functions_is_refused(self) -> None:
        chars = f"function f() {{ {PAD} return 1 }}"
        names = {f.name for f in read_script(chars).functions}
        with self.assertRaisesRegex(ValueError, "another change"):
            without_bodies(chars, names, "x.json", "0" * 64)

    @given(st.lists(st.tuples(st.booleans(), st.sampled_from("aé😀")), min_size=1, max_size=12))
    def test_what_ran_is_told_by_code_units(self, functions: list[tuple[bool, str]]) -> None:
        # Each of them another, so that none stands for another.
        parts = [f"/*{mark}*/function f{n}(){{return '{mark}{n}'}}" for n, (_, mark) in enumerate(functions)]
        chars = "".join(parts)
        used, place = [], 0
        for part, (ran, _) in zip(parts, functions, strict=True):
            length = len(part.encode("utf-16-le")) // 2
            begin = place + part.encode("utf-16-le").index("function".encode("utf-16-le")) // 2
            used.append((begin, begin + 8))  # its head, which is not its body
            if ran:
                used.append((place + length - 9, place + length))
            place += length
        found, count = never_ran(chars, used)
        self.assertEqual(count, len(functions))
        expected = [f"f{n}" for n, (ran, _) in enumerate(functions) if not ran]
        self.assertEqual(
            [chars.encode()[f.start :][:20].decode(errors="ignore").split("(")[0][9:] for f in found], expected
        )

    def test_of_equal_functions_one_that_ran_speaks_for_all(self) -> None:
        chars = "a(function(){return 1});b(function(){return 1});c(function(){return 2})"
        found, _ = never_ran(chars, [(13, 21)])
        self.assertEqual([chars[f.start : f.end] for f in found], ["function(){return 2}"])

    def test_large_libraries_are_cut_and_still_read(self) -> None:
        folder: Path = registry_package("startbootstrap-sb-admin-2", "4.1.4") / "vendor"
        for name in (
            "jquery/jquery.js",
            "bootstrap/js/bootstrap.bundle.min.js",
            "datatables/jquery.dataTables.min.js",
        ):
            with self.subTest(name):
                chars = (folder / name).read_text()
                made, rest, count = cut(chars)
                self.assertGreater(count, 0)
                self.assertLess(len(made), len(chars) / 10)
                self.assertEqual(len(json.loads(rest)), count)
