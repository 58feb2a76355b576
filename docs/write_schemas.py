"""Writes the published schemas of what remedies declare into `docs/schemas`, and the table of remedies into `docs`.

.venv/bin/python docs/write_schemas.py
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

DOCS = Path(__file__).resolve().parent
sys.path.insert(0, str(DOCS.parent))

from unladen.check.between import check_schema  # noqa: E402
from unladen.glossary import as_markdown, as_terms  # noqa: E402
from unladen.ledger import ledger_schema  # noqa: E402
from unladen.ledger.allowance import allowance_schema  # noqa: E402
from unladen.ledger.gate import gate_schema  # noqa: E402
from unladen.plan.schema import plan_schema  # noqa: E402
from unladen.remedies import remedies  # noqa: E402


def texts() -> dict[Path, str]:
    """All files with what they hold."""
    schemas = {
        "plan-2": plan_schema(),
        "ledger-2": ledger_schema(),
        "check-1": check_schema(),
        "allowance-1": allowance_schema(),
        "gate-1": gate_schema(),
    }
    found = {
        DOCS / "schemas" / f"{name}.json": json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
        for name, schema in schemas.items()
    }
    rules = {"terminology": {"defaultTerms": False, "terms": as_terms()}}
    return found | {
        DOCS / "remedies.md": _remedies(),
        DOCS / "glossary.md": as_markdown(),
        DOCS.parent / "web" / ".textlintrc.json": json.dumps({"rules": rules}, indent=2) + "\n",
    }


def _remedies() -> str:
    lines = [
        "# Remedies",
        "",
        "What the mule can do, in the order in which it is done. Written by `docs/write_schemas.py` from what "
        "each remedy",
        "declares; parameters are those of a change in a plan.",
        "",
    ]
    for remedy in remedies():
        traits = [
            text
            for holds, text in (
                (remedy.may_edit_pages, "edits texts"),
                (remedy.needs_new_names, "makes files of new names"),
                (remedy.steadies, "may save nothing on a first visit and stays on anyway"),
            )
            if holds
        ]
        lines += [
            f"## {remedy.title} (`{remedy.name}`)",
            "",
            remedy.detail or remedy.what,
            "",
            f"Proposed from {remedy.least_effort} on. Phase: {remedy.phase}."
            + (f" It {', '.join(traits)}." if traits else ""),
            "",
        ]
        properties = remedy.params.schema().get("properties", {})
        if properties:
            lines += ["| Parameter | Values |", "| --- | --- |"]
            lines += [f"| `{name}` | {_values(schema)} |" for name, schema in properties.items()]
            lines.append("")
    return "\n".join(lines).rstrip() + "\n"


def _values(schema: dict[str, Any]) -> str:
    if "enum" in schema:
        return ", ".join(f"`{value}`" if value else "nothing" for value in schema["enum"])
    kind = schema.get("type")
    if kind in ("integer", "number"):
        return f"{'whole number' if kind == 'integer' else 'number'} from {schema['minimum']} to {schema['maximum']}"
    if kind == "array":
        return f"list of: {_values(schema['items'])}"
    if kind == "object" and "additionalProperties" in schema:
        return f"by name: {_values(schema['additionalProperties'])}"
    if kind == "object":
        return "; ".join(f"`{name}` {_values(each)}" for name, each in schema["properties"].items())
    if kind == "boolean":
        return "true or false"
    return f"text of at most {schema['maxLength']} characters"


if __name__ == "__main__":
    for path, text in texts().items():
        path.write_text(text)
        print(path.relative_to(DOCS.parent))
