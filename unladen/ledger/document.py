"""The ledger as its published document, and its schema."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from unladen.check import ChangeResults, PageCheck, Standing
from unladen.errors import BadInput, Notice
from unladen.ledger.account import Account
from unladen.ledger.visitors import journeys
from unladen.plan import EFFORTS, Plan
from unladen.plan.version1 import id_now
from unladen.remedies import name_now, remedies
from unladen.schemas import document_of, object_of
from unladen.weigh.records.model import WeighIn

FORMAT = "unladen/ledger/2"
FORMAT_1 = "unladen/ledger/1"
NOT_CARRIED_OUT = ""
_OF_WEIGH_INS = (
    "page", "device", "window", "visit", "link", "runs", "requests", "transferred", "kinds", "load_ms", "load_ms_runs",
    "modelled_load_ms", "browser", "taken",
)  # fmt: skip


def ledger_document(
    plan: Plan,
    outcomes: ChangeResults,
    before: Sequence[WeighIn],
    after: Sequence[WeighIn],
    account: Account,
    pairs: Sequence[PageCheck],
    notices: Sequence[Notice],
) -> dict[str, Any]:
    """The published document."""
    return {
        "format": FORMAT,
        "effort": plan.effort,
        "before": [weigh_in.as_json() for weigh_in in before],
        "after": [weigh_in.as_json() for weigh_in in after],
        "changes": [_line(change, outcomes, account) for change in plan.changes],
        "remedies": {name: saving.as_json() for name, saving in account.by_remedy(plan).items()},
        "lines": account.rows(),
        "unexplained": account.unexplained.as_json(),
        "journeys": journeys(before, after),
        "checks": {
            "pairs": len(pairs),
            "passed": sum(pair.passed for pair in pairs),
            "set_aside": sum(o.standing is Standing.SET_ASIDE or bool(o.parts) for o in outcomes.by_change.values()),
        },
        "notices": [{"name": notice.name, "reason": notice.reason} for notice in notices],
    }


def _line(change: Any, outcomes: ChangeResults, account: Account) -> dict[str, Any]:
    outcome = outcomes.by_change.get(change.id)
    return {
        "id": change.id,
        "remedy": change.remedy,
        "targets": list(change.targets),
        "on": change.on,
        "standing": str(outcome.standing) if outcome else NOT_CARRIED_OUT,
        "reason": outcome.reason if outcome else "",
        "aside": [
            {"target": part.target, "reason": part.reason, "pieces": list(part.pieces)}
            for part in (outcome.parts if outcome else ())
        ],
        "saved": account.saved_by(change.id).as_json(),
    }


def read_ledger(document: Mapping[str, Any]) -> dict[str, Any]:
    """A ledger document of version 1 or 2 as one of version 2."""
    if document.get("format") != FORMAT_1:
        # The first of them knew no parts of changes.
        return {**document, "changes": [{"aside": [], **row} for row in document["changes"]]}

    def change(row: Mapping[str, Any]) -> dict[str, Any]:
        aside = row["set_aside"]
        standing = Standing.SET_ASIDE if aside else Standing.PASSED if row["on"] else NOT_CARRIED_OUT
        rest = {name: row[name] for name in ("targets", "on", "saved")}
        return {
            "id": id_now(row["id"]),
            "remedy": name_now(row["remedy"]),
            **rest,
            "standing": str(standing),
            "reason": aside,
            "aside": [],
        }

    return {
        **document,
        "format": FORMAT,
        "changes": [change(row) for row in document["changes"]],
        "remedies": {name_now(name): saved for name, saved in document.get("remedies", {}).items()},
        "lines": [{**line, "change": id_now(line["change"])} for line in document["lines"]],
    }


def carried_out(ledger: Mapping[str, Any]) -> list[Mapping[str, Any]]:
    """The changes of a ledger that are part of what is handed over."""
    stands = (str(Standing.PASSED), str(Standing.KEPT))
    return [row for row in ledger["changes"] if row["on"] and row["standing"] in stands]


def ledger_from(data: Any, name: str) -> dict[str, Any]:
    """A ledger document that somebody hands in, called `name`, as one of version 2; raises `BadInput`."""
    if not isinstance(data, Mapping) or data.get("format") not in (FORMAT, FORMAT_1):
        raise BadInput(name, f"is not a document in the format {FORMAT}")
    try:
        ledger = read_ledger(data)
        for rows, fields in (
            (ledger["changes"], ("id", "remedy", "targets", "on", "standing", "reason", "aside", "saved")),
            (ledger["lines"], ("change", "page", "device", "bytes", "requests")),
            ([*ledger["before"], *ledger["after"]], _OF_WEIGH_INS),
        ):
            for row in rows:
                for field in fields:
                    row[field]
        known = {remedy.name for remedy in remedies()}
        unknown = ({change["remedy"] for change in ledger["changes"]} | set(ledger["remedies"])) - known
        if unknown:
            raise BadInput(name, f"names the remedy “{min(unknown)[:60]}”, which does not exist")
        for part in ("unexplained", "checks", "notices"):
            ledger[part]
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise BadInput(name, f"lacks or misuses the field {error}") from error
    return ledger


def ledger_schema() -> dict[str, Any]:
    """JSON Schema, draft 2020-12."""
    names = [remedy.name for remedy in remedies()]
    count = {"type": "integer"}
    texts = {"type": "array", "items": {"type": "string"}}
    saved = {"type": "object", "required": ["bytes", "requests"], "properties": {"bytes": count, "requests": count}}
    weigh_ins = {"type": "array", "items": {"type": "object", "description": "as in weigh-ins-1.json"}}
    change = {
        "id": {"type": "string"},
        "remedy": {"enum": names},
        "targets": texts,
        "on": {"type": "boolean"},
        "standing": {"enum": [NOT_CARRIED_OUT, *(str(standing) for standing in Standing)]},
        "reason": {"type": "string"},
        "saved": saved,
    }
    line = {"change": {"type": "string"}, "page": {"type": "string"}, "device": {"type": "string"}}
    line |= {"bytes": count, "requests": count}
    part = {"target": {"type": "string"}, "reason": {"type": "string"}}
    pieces = {"pieces": {**texts, "description": "of what was to happen to it, those that do not; none: all of it"}}
    aside = {
        "type": "array",
        "items": {**object_of(part), "properties": part | pieces},
        "description": "targets that were set aside; the rest stays",
    }
    checks = {"pairs": count, "passed": count, "set_aside": count}
    properties = {
        "format": {"const": FORMAT},
        "effort": {"enum": list(EFFORTS)},
        "before": weigh_ins,
        "after": weigh_ins,
        "changes": {"type": "array", "items": {**object_of(change), "properties": change | {"aside": aside}}},
        "remedies": {"type": "object", "propertyNames": {"enum": names}, "additionalProperties": saved},
        "lines": {"type": "array", "items": object_of(line)},
        "unexplained": saved,
        "checks": object_of(checks),
        "notices": {
            "type": "array",
            "items": object_of({"name": {"type": "string"}, "reason": {"type": "string"}}),
        },
    }
    required = list(properties)
    stop = object_of({"page": {"type": "string"}, "found": saved, "now": saved})
    properties["journeys"] = {
        "type": "array",
        "description": "one page after the other from one cache, and the first one again: bytes and requests, "
        "modelled (RFC 9111)",
        "items": object_of({"device": {"type": "string"}, "pages": {"type": "array", "items": stop}, "again": stop}),
    }
    return document_of(FORMAT, properties, required)
