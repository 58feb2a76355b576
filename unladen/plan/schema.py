"""The published schema of plans, as it follows from what the remedies say of themselves."""

from __future__ import annotations

from typing import Any

from unladen.plan.document import FORMAT
from unladen.plan.efforts import EFFORTS
from unladen.plan.keep_list import KINDS
from unladen.remedies import Delivery, ImageSettings, remedies
from unladen.schemas import document_of

_TEXT = {"type": "string"}


def _keep(texts: dict[str, Any]) -> dict[str, Any]:
    note = {"kind": {"enum": list(KINDS)}, "pattern": _TEXT, "why": _TEXT, "remedy": _TEXT}
    notes = {"type": "array", "items": {"type": "object", "properties": note}}
    return {"type": "object", "properties": dict.fromkeys(KINDS, texts) | {"notes": notes}}


def _tolerance() -> dict[str, Any]:
    where: dict[str, Any] = {"page": _TEXT, "device": _TEXT, "why": _TEXT}
    box = {"type": "array", "items": {"type": "integer"}, "minItems": 4, "maxItems": 4}

    def entries(more: dict[str, Any], required: list[str]) -> dict[str, Any]:
        return {"type": "array", "items": {"type": "object", "properties": where | more, "required": required}}

    accepted = entries({"key": _TEXT, "text": _TEXT}, ["page", "device", "key"])
    return {"type": "object", "properties": {"accepted": accepted, "masks": entries({"box": box}, ["page", "box"])}}


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
    properties = {
        "format": {"const": FORMAT},
        "effort": {"enum": list(EFFORTS)},
        "keep": _keep(texts),
        "tolerance": _tolerance(),
        "images": ImageSettings.schema(),
        "delivery": Delivery.schema(),
        "changes": {"type": "array", "items": change},
    }
    return document_of(FORMAT, properties, ["format", "effort", "changes"])
