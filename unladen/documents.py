"""JSON documents (RFC 8259) that people hand in: whatever is wrong with one is told in a sentence that names it."""

from __future__ import annotations

import json
import math
from typing import Any

from unladen.errors import BadInput

_MOST_DIGITS = 18


def read_json(data: bytes, name: str) -> Any:
    """The document called `name`, of numbers and texts that can be kept anywhere; raises `BadInput`."""
    document = read_loosely(data, name)
    try:
        json.dumps(document, ensure_ascii=False, allow_nan=False).encode()
    except UnicodeEncodeError:
        raise BadInput(name, "holds a lone surrogate, which is not a character") from None
    except ValueError:
        raise BadInput(name, "holds a number that is out of range") from None
    return document


def read_loosely(data: bytes, name: str) -> Any:
    """The same of which single values may be useless: numbers out of range are not a number; raises `BadInput`."""
    try:
        return json.loads(data.decode("utf-8-sig"), parse_int=_integer, parse_constant=lambda _: math.nan)
    except UnicodeDecodeError as error:
        raise BadInput(name, "is not in UTF-8") from error
    except RecursionError as error:
        raise BadInput(name, "is nested too deep") from error
    except ValueError as error:
        raise BadInput(name, "is not a JSON document or is truncated") from error


def _integer(text: str) -> float:
    return int(text) if len(text.lstrip("-")) <= _MOST_DIGITS else math.nan
