"""The published schema of plans, as it follows from what the remedies say of themselves."""

from __future__ import annotations

from typing import Any

from unladen.plan.document import FORMAT
from unladen.plan.efforts import EFFORTS
from unladen.remedies import Delivery, ImageSettings, remedies


def plan_schema() -> dict[str, Any]:
    """JSON Schema, draft 2020-12."""
    texts = {"type": "array", "items": {"type": "string"}}
    change = {
        "type": "object",
        "required": ["id", "remedy", "targets", "pages"],
        "properties": {
            "id": {"type": "string", "minLength": 1},
            "remedy": {"enum": [remedy.name for remedy in remedies()]},
            "targets": texts,
            "pages": texts,
            "params": {"type": "object"},
            "on": {"type": "boolean"},
            "insist": {"type": "boolean"},
            "chosen": {"type": "boolean"},
        },
        "allOf": [
            {
                "if": {"properties": {"remedy": {"const": remedy.name}}, "required": ["remedy"]},
                "then": {"properties": {"params": remedy.params.schema()}},
            }
            for remedy in remedies()
        ],
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": FORMAT,
        "type": "object",
        "required": ["format", "effort", "changes"],
        "properties": {
            "format": {"const": FORMAT},
            "effort": {"enum": list(EFFORTS)},
            "keep": {"type": "object", "properties": {"files": texts, "pages": texts}},
            "images": ImageSettings.schema(),
            "delivery": Delivery.schema(),
            "changes": {"type": "array", "items": change},
        },
    }
