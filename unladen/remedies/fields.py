"""Fields of parameters: their types and ranges, read from documents, written to them, and described in a schema.

A dataclass of parameters declares each field with one of the functions here; whatever is made of it, by code or from a
document, has been checked before anything else sees it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import MISSING, Field, dataclass, field, fields
from functools import cache
from typing import Any, Self, cast

_LONGEST = 2_000  # characters of a text
_MOST = 2_000  # entries of a list or table
_KIND = "kind"
# A plan may hold thousands of a class, and `fields` goes through all of a class every time.
_entries = cast("Callable[[Any], tuple[Field[Any], ...]]", cache(fields))


class FieldRefused(ValueError):
    """A value that a field may not have; `place` names the field, `reason` says what it should be."""

    def __init__(self, place: str, reason: str) -> None:
        super().__init__(f"{place} {reason}")
        self.place = place
        self.reason = reason


@dataclass(frozen=True, slots=True)
class Kind:
    """`read` checks a value, whether it comes from a document or from code, raising `ValueError` with the reason."""

    read: Callable[[Any], Any]
    schema: Mapping[str, Any]
    write: Callable[[Any], Any] = lambda value: value


@dataclass(frozen=True, slots=True, kw_only=True)
class Record:
    """Base of parameters and of records within them."""

    def __post_init__(self) -> None:
        for entry in _entries(type(self)):
            object.__setattr__(self, entry.name, _checked(entry, getattr(self, entry.name)))

    @classmethod
    def from_json(cls, data: Any) -> Self:
        """Read plain values; raises `FieldRefused`. Fields that are not known are passed over."""
        if not isinstance(data, Mapping):
            raise FieldRefused("it", "must be an object")
        missing = next((e.name for e in _entries(cls) if e.name not in data and not _has_default(e)), "")
        if missing:
            raise FieldRefused(missing, "is missing")
        return cls(**{entry.name: data[entry.name] for entry in _entries(cls) if entry.name in data})

    def as_json(self) -> dict[str, Any]:
        """Plain values, as in the published documents."""
        return {e.name: e.metadata[_KIND].write(getattr(self, e.name)) for e in _entries(type(self))}

    @classmethod
    def schema(cls) -> dict[str, Any]:
        """JSON Schema (2020-12) of the plain values."""
        needed = [entry.name for entry in fields(cls) if not _has_default(entry)]
        properties = {entry.name: dict(entry.metadata[_KIND].schema) for entry in fields(cls)}
        return {"type": "object", "properties": properties} | ({"required": needed} if needed else {})


def _has_default(entry: Field[Any]) -> bool:
    return entry.default is not MISSING or entry.default_factory is not MISSING


def _checked(entry: Field[Any], value: Any) -> Any:
    try:
        return entry.metadata[_KIND].read(value)
    except FieldRefused as refused:
        raise FieldRefused(f"{entry.name}.{refused.place}", refused.reason) from None
    except ValueError as error:
        raise FieldRefused(entry.name, str(error)) from None


def _field(kind: Kind, default: Any) -> Any:
    if isinstance(default, dict):
        return field(default_factory=lambda: dict(default), metadata={_KIND: kind})
    if default is MISSING:
        return field(metadata={_KIND: kind})
    return field(default=default, metadata={_KIND: kind})


def _whole(low: int, high: int) -> Kind:
    def read(value: Any) -> int:
        if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
            raise ValueError(f"should be a whole number from {low:,} to {high:,}")
        return value

    return Kind(read, {"type": "integer", "minimum": low, "maximum": high})


def _text(most: int, pattern: str) -> Kind:
    def read(value: Any) -> str:
        if not isinstance(value, str) or len(value) > most:
            raise ValueError(f"should be a text of at most {most:,} characters")
        if pattern and not re.fullmatch(pattern, value):
            raise ValueError("holds characters that it may not have")
        return value

    schema = {"type": "string", "maxLength": most} | ({"pattern": f"^(?:{pattern})$"} if pattern else {})
    return Kind(read, schema)


def _word(words: tuple[str, ...]) -> Kind:
    def read(value: Any) -> str:
        if not isinstance(value, str) or value not in words:
            raise ValueError(f"should be one of {', '.join(filter(None, words))}")
        return value

    return Kind(read, {"enum": list(words)})


def _list(inner: Kind, most: int, least: int = 0) -> Kind:
    def read(value: Any) -> tuple[Any, ...]:
        if not isinstance(value, list | tuple) or not least <= len(value) <= most:
            raise ValueError(f"should be a list of {least} to {most:,} entries")
        return tuple(_inner(inner, str(i), entry) for i, entry in enumerate(value))

    schema = {"type": "array", "items": dict(inner.schema), "minItems": least, "maxItems": most}
    return Kind(read, schema, lambda value: [inner.write(entry) for entry in value])


def _inner(inner: Kind, place: str, value: Any) -> Any:
    try:
        return inner.read(value)
    except FieldRefused as refused:
        raise FieldRefused(f"{place}.{refused.place}", refused.reason) from None
    except ValueError as error:
        raise FieldRefused(place, str(error)) from None


def whole(low: int, high: int, default: Any = MISSING) -> Any:
    """A whole number in a range."""
    return _field(_whole(low, high), default)


def number(low: int, high: int, default: Any = MISSING) -> Any:
    """A number in a range."""

    def read(value: Any) -> float:
        if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
            raise ValueError(f"should be a number from {low} to {high}")
        return float(value)

    return _field(Kind(read, {"type": "number", "minimum": low, "maximum": high}), default)


def share(default: Any = MISSING) -> Any:
    """A number from 0 to 1."""
    return number(0, 1, default)


def flag(default: Any = False) -> Any:
    """Yes or no."""

    def read(value: Any) -> bool:
        if not isinstance(value, bool):
            raise ValueError("should be true or false")
        return value

    return _field(Kind(read, {"type": "boolean"}), default)


def word(*words: str, default: Any = MISSING) -> Any:
    """One of a few words."""
    return _field(_word(words), default)


def text(most: int = _LONGEST, pattern: str = "", default: Any = MISSING) -> Any:
    """A text of at most so many characters, all of it of a pattern if there is one."""
    return _field(_text(most, pattern), default)


def words(*allowed: str, default: Any = MISSING) -> Any:
    """Several of a few words."""
    return _field(_list(_word(allowed), len(allowed), 1), default)


def wholes(low: int, high: int, default: Any = MISSING, most: int = _MOST) -> Any:
    """A list of whole numbers in a range."""
    return _field(_list(_whole(low, high), most), default)


def rows(length: int, low: int, high: int, default: Any = ()) -> Any:
    """A list of lists of so many whole numbers in a range."""
    return _field(_list(_list(_whole(low, high), length, length), _MOST), default)


def names(most: int = 50_000, longest: int = 1_000) -> Any:
    """A list of short texts, empty unless given."""
    return _field(_list(_text(longest, ""), most), ())


def texts(pattern: str = "", default: Any = None, most: int = _LONGEST) -> Any:
    """A table of texts by name."""
    return _table(_text(most, pattern), default or {})


def _record(cls: type[Record]) -> Kind:
    def read(value: Any) -> Record:
        return value if isinstance(value, cls) else cls.from_json(value)

    return Kind(read, cls.schema(), lambda value: value.as_json())


def records(cls: type[Record], default: Any = (), most: int = _MOST) -> Any:
    """A list of records."""
    return _field(_list(_record(cls), most), default)


def record_table(cls: type[Record], default: Any = None) -> Any:
    """A table of records by name."""
    return _table(_record(cls), default or {})


def _table(inner: Kind, default: dict[str, Any]) -> Any:
    def read(value: Any) -> dict[str, Any]:
        if not isinstance(value, Mapping) or len(value) > _MOST or not all(isinstance(name, str) for name in value):
            raise ValueError(f"should be a table of at most {_MOST:,} entries by name")
        return {name: _inner(inner, name, entry) for name, entry in value.items()}

    schema = {"type": "object", "additionalProperties": dict(inner.schema)}
    return _field(
        Kind(read, schema, lambda value: {name: inner.write(entry) for name, entry in value.items()}), default
    )
