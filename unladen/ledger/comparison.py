"""Two weigh-ins documents side by side: the same pages under the same conditions, and nothing else."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from unladen.errors import BadInput
from unladen.ledger.account import NotComparable
from unladen.weigh.records.model import FORMAT

COMPARISON_FORMAT = "unladen/comparison/1"
_SUMS = ("requests", "transferred", "decoded")
_MUST_AGREE = ("visit", "link", "window")
_SHOULD_AGREE = ("runs", "browser")


def compare_documents(before: Any, after: Any, names: tuple[str, str] = ("before", "after")) -> dict[str, Any]:
    """The published comparison; raises `BadInput` for what is no such document, and `NotComparable`.

    Weigh-ins are matched by page and device. Other conditions refuse the comparison; another number of runs or another
    browser is noted on its face.
    """
    tables = [_table(document, name) for document, name in zip((before, after), names, strict=True)]
    first, second = tables
    rows, notes = [], []
    for key in first:
        if key not in second:
            continue
        old, new = first[key], second[key]
        if different := [what for what in _MUST_AGREE if old.get(what) != new.get(what)]:
            raise NotComparable(
                f"{key[0]} on {key[1]} was weighed under other conditions: {_said(different, old, new)}"
            )
        if different := [what for what in _SHOULD_AGREE if old.get(what) != new.get(what)]:
            notes.append(f"{key[0]} on {key[1]}: {_said(different, old, new)}")
        rows.append(compare_weigh_ins(old, new))
    if not rows:
        raise NotComparable(f"{names[0]} and {names[1]} have no page and device in common")
    return {
        "format": COMPARISON_FORMAT,
        "pairs": rows,
        "total": {what: sum(row["difference"][what] for row in rows) for what in _SUMS},
        "only_before": [" on ".join(key) for key in first if key not in second],
        "only_after": [" on ".join(key) for key in second if key not in first],
        "notes": notes,
    }


def compare_weigh_ins(old: dict[str, Any], new: dict[str, Any]) -> dict[str, Any]:
    """One pair: both sums and `difference` (after less before), by kind too, and the load times with their ranges."""
    return {
        "page": old["page"],
        "device": old["device"],
        **{what: old.get(what) for what in (*_MUST_AGREE, "runs")},
        "before": {what: old[what] for what in _SUMS},
        "after": {what: new[what] for what in _SUMS},
        "difference": {what: new[what] - old[what] for what in _SUMS},
        "kinds": {
            kind: {what: new["kinds"][kind][what] - old["kinds"][kind][what] for what in _SUMS}
            for kind in old["kinds"]
        },
        "load_ms": {"before": _load(old), "after": _load(new)},
        "new_missing": sorted(set(new["missing"]) - set(old["missing"])),
        "new_errors": sorted(set(new["errors"]) - set(old["errors"])),
    }


def _load(weigh_in: dict[str, Any]) -> dict[str, float]:
    runs: Sequence[float] = weigh_in.get("load_ms_runs") or [weigh_in["load_ms"]]
    return {"median": weigh_in["load_ms"], "low": min(runs), "high": max(runs)}


def _said(what: list[str], old: dict[str, Any], new: dict[str, Any]) -> str:
    return "; ".join(f"{name} {_words(old.get(name))} and {_words(new.get(name))}" for name in what)


def _words(value: Any) -> str:
    if isinstance(value, dict):
        return f"{value.get('width')}x{value.get('height')} at {value.get('density')}"
    return str(value)


def _table(document: Any, name: str) -> dict[tuple[str, str], dict[str, Any]]:
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise BadInput(name, f"is not a document in the format {FORMAT}")
    try:
        table = {(str(w["page"]), str(w["device"])): w for w in document["weigh_ins"]}
        for weigh_in in table.values():
            compare_weigh_ins(weigh_in, weigh_in)
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise BadInput(name, f"lacks or misuses the field {error}") from error
    return table
