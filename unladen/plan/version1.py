"""Plans of version 1 read as those of version 2. Version 1 mixed what was wanted with what a run had found."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unladen.remedies import name_now, remedies
from unladen.remedies.embeds.stills import MOST_TITLE

FORMAT_1 = "unladen/plan/1"


def id_now(id: str) -> str:
    """The id of a change whose remedy has another name by now."""
    for remedy in remedies():
        if remedy.formerly and id.startswith((f"{remedy.formerly}:", f"{remedy.formerly}-")):
            return remedy.name + id.removeprefix(remedy.formerly)
    return id


def from_version_1(data: Mapping[str, Any]) -> dict[str, Any]:
    """The document as of version 2, as far as it has the shape of a plan; what is wrong in it stays for the reader."""
    images = dict(data.get("images", {}))
    delivery = {"same_names": images.pop("same_names", False)}
    changes = data["changes"]
    if isinstance(changes, list):
        changes = [_change(item) if isinstance(item, Mapping) else item for item in changes]
    return {**data, "images": images, "delivery": delivery, "changes": changes}


def _change(item: Mapping[str, Any]) -> dict[str, Any]:
    new = {**item, "remedy": name_now(item["remedy"]) if isinstance(item.get("remedy"), str) else item.get("remedy")}
    if isinstance(item.get("id"), str):
        new["id"] = id_now(item["id"])
    params = new.get("params", {})
    if isinstance(params, Mapping):
        params = dict(params)
        new["chosen"] = bool(params.pop("chosen", False))
        if isinstance(params.get("title"), str):
            params["title"] = params["title"][:MOST_TITLE]
        if isinstance(params.get("places"), Mapping):
            params["places"] = {page: place for page, place in params["places"].items() if place}
        new["params"] = params
    return new
