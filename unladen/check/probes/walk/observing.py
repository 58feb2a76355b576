"""A walk through a page: each control pressed, pointed at, filled in or moved, and the effect of each step."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Mapping
from typing import Any

from playwright.async_api import Frame

from unladen.check.probes.picture import images_of
from unladen.check.probes.spec import Observation, Scene, ask_frame, pass_time
from unladen.check.probes.tables import shortened
from unladen.check.probes.walk.effects import effects_of, opens
from unladen.check.probes.walk.wording import words_of
from unladen.check.rest import REST
from unladen.page_scripts import in_page, kept_in_page
from unladen.weigh.visits.picture import take_window
from unladen.weigh.visits.walk import Step

_CONTROLS = in_page("controls")
_STATE = kept_in_page("state", "computed")
_STEP = kept_in_page("step", "computed", "act", "rest", "state")
_VIEW = kept_in_page("view", "seen", "painted")
_STEP_WITHIN = 60.0  # s; a busy machine takes long, and a page that blocks for good is dead then too
_RESTS_WITHIN = 5.0  # s
_BETWEEN = 4000  # ms of the page's own time from one step to the next
MOST_STEPS = 60
# A step of a page with so many elements takes so much longer that there are fewer of them.
_ELEMENTS_STEPS = 120_000
_MOST_PICTURES = 24
# What a step of the user's own is to a page.
_OWN = {"click": "press", "open": "press", "hover": "point", "type": "type", "scroll": "scroll", "wait": "wait"}
_FIND = """(selector) => {
  const { places, called } = window[Symbol.for("unladen.places")];
  try {
    const e = document.querySelector(selector), row = places().find((row) => row[0] === e);
    return row ? [row[1], called(e)] : null;
  } catch { return null; }
}"""
# As people go through a list or a menu by them: what opens comes into reach, and is left again.
_KEYS = ("Escape", "ArrowDown", "ArrowRight", "Enter", " ", "Escape")
_TOGGLES = ("press",)
_EMPTY: Mapping[str, Any] = {"came": [], "changes": {}, "page": {}, "names": {}, "styles": {}, "properties": []}


async def observe(scene: Scene) -> Observation:
    """`steps` in order: key, words and effect of each. Pictures of the window where much changed."""
    steps: list[dict[str, Any]] = []
    bodies: dict[str, bytes] = {}
    for prefix, frame in scene.frames:
        walk = _Walk(scene, prefix, frame, steps, bodies)
        await walk.take()
        if walk.far_enough:
            break
    return Observation({"steps": steps}, bodies)


class _Walk:
    """A walk in one frame."""

    def __init__(
        self,
        scene: Scene,
        prefix: str,
        frame: Frame,
        steps: list[dict[str, Any]],
        bodies: dict[str, bytes],
    ) -> None:
        self.scene, self.prefix, self.frame = scene, prefix, frame
        self.steps, self.bodies = steps, bodies
        self.most = MOST_STEPS
        self.taken = 0.0
        self.known: list[str] = []
        self.deaf = False
        self.far_enough = False

    async def take(self) -> None:
        if await ask_frame(self.frame, _STATE, "begin", 60) is None and self.frame.is_detached():
            return
        waiting = deque(await self._controls(first=True))
        if not self.prefix:
            for name in ("window", "end", "top"):
                if self.far_enough:
                    return
                await self._step(
                    {
                        "key": f"scroll {name}",
                        "place": "html",
                        "action": "scroll",
                        "name": name,
                        "called": ["page", f"to the {name}" if name != "window" else "by a window"],
                    }
                )
            for wanted in self.scene.orders.own:
                if not self.far_enough:
                    await self._own(wanted)
            if self.scene.orders.own:
                # What these brought or took away; places have others of the same kind beside them by now.
                waiting.extend(await self._controls())
            off = await self._places(key.partition(" ")[2] for key in self.scene.orders.off)
            waiting = deque(row for row in waiting if row["place"] not in off)
        while waiting and self.taken < self.most and not self._is_over():
            row = waiting.popleft()
            for part in self._parts(row):
                effect = await self._step(part)
                if self.far_enough:
                    return
                if opens(effects_of(effect["changes"])):
                    # What it brought comes next, while it is there.
                    fresh = await self._controls()
                    waiting.extendleft(reversed(fresh))
                    if row["action"] in _TOGGLES and not row.get("again"):
                        waiting.append({**row, "key": f"{row['key']} again", "again": True})
        if waiting:
            self.scene.left.append(
                f"{len(waiting)} of the controls were not tried: a walk has {self.most} steps here"
            )

    def _is_over(self) -> bool:
        return self.deaf or self.far_enough or self.scene.watch.crashed

    async def _own(self, wanted: Step) -> None:
        """A step that the user has added."""
        row: dict[str, Any] = {
            "key": f"own {wanted.key} {wanted.ms or ''}".strip(),
            "place": "html",
            "action": _OWN[wanted.action],
        }
        if wanted.key in self.scene.orders.off:
            return
        if wanted.action == "scroll":
            row |= {"name": "end", "called": ["page", "to the end"]}
        elif wanted.action == "wait":
            row |= {"ms": wanted.ms, "called": ["page", f"{wanted.ms} ms"]}
        else:
            element = await ask_frame(self.frame, _FIND, wanted.selector)
            if not element:
                self.scene.left.append(f"your step “{wanted.label or wanted.key}”: there is no such element")
                return
            row |= {"place": element[0], "called": element[1]} | ({"text": wanted.text} if wanted.text else {})
        await self._step(row)

    async def _places(self, selectors: Iterable[str]) -> set[str]:
        elements = [await ask_frame(self.frame, _FIND, selector) for selector in selectors if selector]
        return {row[0] for row in elements if row}

    def _parts(self, row: dict[str, Any]) -> list[dict[str, Any]]:
        if row["action"] == "fill":
            return [{**row, "key": f"{row['key']} wrongly", "wrongly": True}, row]
        if row["action"] == "point":
            return [row, {**row, "key": f"{row['key']} and away", "action": "leave"}]
        if row["action"] == "keys":
            return [
                {**row, "key": f"{row['key']} {n} {name}", "name": name, "share": 1 / len(_KEYS)}
                for n, name in enumerate(_KEYS)
            ]
        return [row]

    async def _controls(self, *, first: bool = False) -> list[dict[str, Any]]:
        answer = await ask_frame(self.frame, _CONTROLS, self.known)
        if answer is None:
            return []
        if first:
            self.most = max(8, min(MOST_STEPS, _ELEMENTS_STEPS // max(1, answer["shown"])))
            self.scene.left += [f"{count} more like “{shortened(called, 40)}”" for called, count in answer["skipped"]]
        rows: list[dict[str, Any]] = answer["rows"]
        self.known += [row["key"] for row in rows]
        return rows

    async def _step(self, row: dict[str, Any]) -> Mapping[str, Any]:
        """Do it, wait for rest, and write down what came of it."""
        self.taken += row.get("share", 1)
        errors = len(self.scene.watch.errors)
        answer = await self._do({k: v for k, v in row.items() if k != "called"})
        if answer is None:
            self.deaf = True
            self.scene.left.append(f"what comes after {words_of(row)}: the page does not answer any more")
            return _EMPTY
        done, why, effect = answer["done"], answer["why"], answer["effect"] or _EMPTY
        record = {
            "key": self.prefix + row["key"],
            "place": self.prefix + row["place"],
            "words": words_of(row),
            "there": bool(done.get("there")),
            "effect": {self.prefix + place: said for place, said in effect["changes"].items()},
            "page": effect["page"],
            "names": {self.prefix + place: said for place, said in effect["names"].items()},
            "styles": {self.prefix + place: said for place, said in effect["styles"].items()},
            "properties": effect["properties"],
            "came": effect["came"],
            "attempts": _tidy(done.get("attempts") or [], self.scene.capture.base_url),
            "invalid": done.get("invalid") or [],
            "sends": done.get("sends") or [],
            "reached": done.get("reached", 0),
            "errors": self.scene.watch.errors[errors:],
            "restless": why,
        }
        if len(effect["changes"]) > 2 and len(self.bodies) < _MOST_PICTURES and not self.prefix:
            seen = await ask_frame(self.frame, _VIEW)
            density = self.scene.device.density
            picture = await take_window(self.scene.page, seen["window"], density) if seen else b""
            if picture:
                name = f"step {record['key']}"
                self.bodies[name] = picture
                record["picture"] = name
                record["scroll"] = seen["window"][:2]
                record["density"], record["zoom"] = density, seen["zoom"]
                record["images"] = images_of(self.scene.capture, seen["images"])
                record["stills"] = seen["stills"]
        self.steps.append(record)
        self.far_enough = record["words"] == self.scene.until
        # What a page does some time after a press is over before the next one comes.
        if effect["changes"] and await pass_time(self.frame, _BETWEEN):
            await self.scene.rest()
            await ask_frame(self.frame, _STATE, "begin")
        return effect

    async def _do(self, row: Mapping[str, Any]) -> dict[str, Any] | None:
        """What was done, what stands in the way of rest, and the effect; None where the page does not answer."""
        recorder = self.scene.recorder
        asked = len(recorder.seen)
        wanted = {"row": row, **REST, "limit": _RESTS_WITHIN * 1000}
        answer: dict[str, Any] | None = await ask_frame(self.frame, _STEP, wanted, _STEP_WITHIN)
        if answer and (len(self.scene.frames) > 1 or recorder.busy() or len(recorder.seen) > asked):
            # What comes from elsewhere is waited for as well.
            answer["why"] = await self.scene.rest()
            answer["effect"] = await ask_frame(self.frame, _STATE, "again")
        return answer


def _tidy(attempts: list[str], base: str) -> list[str]:
    return [text.replace(base, "/") for text in attempts]
