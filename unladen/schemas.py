"""What the published JSON schemas share."""

from __future__ import annotations

from typing import Any


def object_of(properties: dict[str, Any]) -> dict[str, Any]:
    """The schema of an object that must have all of these."""
    return {"type": "object", "required": list(properties), "properties": properties}


def document_of(title: str, properties: dict[str, Any], required: list[str] | None = None) -> dict[str, Any]:
    """The schema of a document in a format, JSON Schema draft 2020-12; all of it is required unless told otherwise."""
    shape = object_of(properties) | ({"required": required} if required is not None else {})
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": title, **shape}
