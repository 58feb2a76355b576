"""The command line. Results go to standard output, everything else to standard error.

Each command is a module that declares a `Command`: its name, arguments, help and an example.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

from unladen.cli import check, compare, gate, lighten, memo, report, weigh
from unladen.cli.command import PROGRAM, Command, Parser, warn
from unladen.errors import UnladenError

COMMANDS: dict[str, Command] = {
    module.COMMAND.name: module.COMMAND for module in (weigh, lighten, check, compare, gate, report, memo)
}
_OUR_FAULT = 70  # EX_SOFTWARE of sysexits.h


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit code.

    0: done. 1: `check` found a difference, or `gate` an exceeded limit. 2: bad input, told in one line. 3: `lighten
    --strict` set something aside. 70: an internal error.
    """
    options = _parser().parse_args(arguments)
    try:
        return COMMANDS[options.command].run(options)
    except UnladenError as error:
        return _fail(str(error))
    except OSError as error:
        return _fail(f"{error.filename or getattr(options, 'site', '')}: {error.strerror or error}")
    except KeyboardInterrupt:
        return _fail("stopped")
    except Exception as error:
        if os.environ.get("MULE_TRACE"):
            raise
        # A traceback helps nobody who did not ask for it.
        _fail(f"internal error: {_short(error)} (MULE_TRACE=1 shows where)")
        return _OUR_FAULT


def _parser() -> Parser:
    parser = Parser(prog=PROGRAM, description="Weigh web pages and make them lighter.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=Parser)
    for command in COMMANDS.values():
        command.declare(commands)
    return parser


def _short(error: Exception) -> str:
    """An error in one line, without the paths of this installation."""
    first = (str(error).splitlines() or [""])[0][:300]
    return f"{type(error).__name__} {first}".strip().replace(str(Path(__file__).parents[2]), "…")


def _fail(text: str) -> int:
    warn(" ".join(text.split()))
    return 2
