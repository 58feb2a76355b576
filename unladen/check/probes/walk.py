"""The page used: each control pressed, pointed at, filled in or moved, and what came of it."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from playwright.async_api import Frame

from unladen.check.pairs import Difference
from unladen.check.pictures import Other, differing, read_picture
from unladen.check.probes.picture import images_of, judged, other_files
from unladen.check.probes.spec import Judge, Observation, Probe, Scene, ask_frame, pass_time
from unladen.check.probes.tables import changed_entries, shortened
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
_DONE = {
    "wait": "waiting",
    "press": "pressing",
    "point": "pointing at",
    "press twice": "pressing twice",
    "menu": "pressing the other button on",
    "key": "pressing the key",
    "type": "typing into",
    "choose": "choosing in",
    "slide": "moving",
    "fill": "filling in",
    "scroll": "scrolling",
    "scroll sideways": "scrolling in",
}
# As people go through a list or a menu by them: what opens comes into reach, and is left again.
_KEYS = ("Escape", "ArrowDown", "ArrowRight", "Enter", " ", "Escape")
_TOGGLES = ("press",)
_NEW_PLACE = 6  # of what is told of a new element: so many words are about where it is
_ROUGH = ("shows", "hides", "says", "tells", "holds", "gone")
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
                if self._opened(effect):
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
            found = await ask_frame(self.frame, _FIND, wanted.selector)
            if not found:
                self.scene.left.append(f"your step “{wanted.label or wanted.key}”: there is no such element")
                return
            row |= {"place": found[0], "called": found[1]} | ({"text": wanted.text} if wanted.text else {})
        await self._step(row)

    async def _places(self, selectors: Iterable[str]) -> set[str]:
        found = [await ask_frame(self.frame, _FIND, selector) for selector in selectors if selector]
        return {row[0] for row in found if row}

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

    @staticmethod
    def _opened(effect: Mapping[str, Any]) -> bool:
        return any("shows" in said or said[0] == "new" for said in effect["changes"].values())

    async def _step(self, row: dict[str, Any]) -> Mapping[str, Any]:
        """Do it, wait for rest, and write down what came of it."""
        self.taken += row.get("share", 1)
        errors = len(self.scene.watch.errors)
        answer = await self._do({k: v for k, v in row.items() if k != "called"})
        if answer is None:
            self.deaf = True
            self.scene.left.append(f"what comes after {self._words(row)}: the page does not answer any more")
            return _EMPTY
        done, why, effect = answer["done"], answer["why"], answer["effect"] or _EMPTY
        record = {
            "key": self.prefix + row["key"],
            "place": self.prefix + row["place"],
            "words": self._words(row),
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

    @staticmethod
    def _words(row: Mapping[str, Any]) -> str:
        kind, label = row["called"]
        if row["action"] == "leave":
            return f"pointing away from the {kind} “{label}”"
        if row["action"] in ("key", "scroll", "wait"):
            return f"{_DONE[row['action']]} {label}"
        if row["action"] == "keys":
            return (
                f"pressing the key {row['name'].replace(' ', 'Space')} on the {kind}{f' “{label}”' if label else ''}"
            )
        wrongly = " wrongly" if row.get("wrongly") else ""
        again = " again" if row.get("again") else ""
        return f"{_DONE[row['action']]} the {kind}{f' “{label}”' if label else ''}{wrongly}{again}"


def _tidy(attempts: list[str], base: str) -> list[str]:
    return [text.replace(base, "/") for text in attempts]


def compare(before: Observation, again: Observation, after: Observation, judge: Judge) -> list[Difference]:
    """Steps of which something else came, in the order of the walk; what follows from an earlier one is told in
    short.
    """
    first, second, now = ({step["key"]: step for step in seen.values["steps"]} for seen in (before, again, after))
    found: list[Difference] = []
    for key, old in first.items():
        same, new = second.get(key), now.get(key)
        if same is None or not old["there"] or old["restless"]:
            continue
        if new is None or not new["there"]:
            if not found:  # where an earlier step opened nothing, its controls are not there either
                text = f"{old['words']} is no longer possible"
                found.append(Difference("walk", text, step=old["words"], places=(old["place"],), detail=key))
            continue
        if found:
            # From a state that is another by now: where things are and how they look follows from that.
            old, same, new = (_in_short(step) for step in (old, same, new))
            told = _step_differences(old, same, new)
        else:
            told = _step_differences(old, same, new) or _seen(before, again, after, old, same, new, judge)
        found += [replace(difference, clues=tuple(old.get("came", ()))) for difference in told]
    return found[:40]


def _in_short(step: dict[str, Any]) -> dict[str, Any]:
    """A step without places and looks."""
    rough = {place: [said for said in row if _first([said]) in _ROUGH] for place, row in step["effect"].items()}
    page = {name: said for name, said in step["page"].items() if name != "scroll"}
    return step | {"effect": {place: row for place, row in rough.items() if row}, "page": page, "reached": 0}


def _step_differences(old: dict[str, Any], same: dict[str, Any], new: dict[str, Any]) -> list[Difference]:
    found = []
    rows = [
        row for row in changed_entries(old["effect"], same["effect"], new["effect"]) if not _near(row.old, row.new)
    ]
    # What an element that is new or gone everywhere does is told of at rest.
    if rows:
        lost = [row for row in rows if row.new is None]
        names = old["names"] | new["names"]
        lead = next((r for r in lost if "shows" in (r.old or [])), (lost or rows)[0])
        called = _called(names.get(lead.place), lead.place)
        dead = not new["effect"] and bool(old["effect"])
        if dead:
            text = f"{old['words']} does nothing any more; {_did(lead.old)} {called} before"
        elif lead.new is None:
            text = f"after {old['words']}, {called} no longer {_does(lead.old)}"
        elif lead.old is None:
            text = f"after {old['words']}, {called} now {_does(lead.new)}"
        else:
            text = f"after {old['words']}, {called} is not as it was then"
        detail = "; ".join(f"{row.place}: {row.old} → {row.new}" for row in rows[:8])
        places = tuple(dict.fromkeys([old["place"], *(row.place for row in rows)]))[:40]
        shots = (old.get("picture", ""), new.get("picture", ""))
        found.append(
            Difference(
                "walk",
                text,
                step=old["words"],
                places=places,
                detail=detail[:2000],
                shots=shots if any(shots) else None,
            )
        )
    if not rows:
        found += _styled_otherwise(old, same, new)
    for name, called in (
        ("attempts", "where it leads"),
        ("sends", "what is sent"),
        ("invalid", "which fields it complains of"),
        ("reached", "how far it goes"),
    ):
        if old[name] != new[name] and old[name] == same[name]:
            was, now = (shortened(step[name] or "nothing") for step in (old, new))
            text = f"after {old['words']}, {called} is another: {now} instead of {was}"
            found.append(
                Difference(
                    "walk", text, step=old["words"], places=(old["place"],), detail=f"{old[name]} → {new[name]}"
                )
            )
    for name in sorted({*old["page"], *new["page"]}):
        was, now = old["page"].get(name), new["page"].get(name)
        if was != now and was == same["page"].get(name) and not (name == "scroll" and _close(was, now)):
            called = {
                "scroll": "the page stands elsewhere",
                "focus": "the focus is elsewhere",
                "title": "the title is another",
            }.get(name, "the page's address or state is another")
            found.append(
                Difference(
                    "walk",
                    f"after {old['words']}, {called}",
                    step=old["words"],
                    places=(old["place"],),
                    detail=f"{name}: {was} → {now}",
                )
            )
    known = {*old["errors"], *same["errors"]}
    for error in new["errors"]:
        if error not in known:
            found.append(
                Difference("error", f"after {old['words']}: {error}", step=old["words"], places=(old["place"],))
            )
    return found


def _styled_otherwise(old: dict[str, Any], same: dict[str, Any], new: dict[str, Any]) -> list[Difference]:
    """Elements that the step touched on both pages, and that are not styled as they were then."""
    places = [
        place
        for place, marks in old["styles"].items()
        if marks == same["styles"].get(place) and new["styles"].get(place, marks) != marks
    ]
    if not places:
        return []
    unlike = {
        name: None
        for place in places
        for name, was, now in zip(old["properties"], old["styles"][place], new["styles"][place], strict=False)
        if was != now
    }
    called = _called((old["names"] | new["names"]).get(places[0]), places[0])
    told = shortened(", ".join(unlike), 80) or "some of its styles"
    text = f"after {old['words']}, {called} is not styled as it was then: {told}"
    return [
        Difference(
            "walk", text, step=old["words"], places=(old["place"], *places[:39]), detail=", ".join(unlike)[:2000]
        )
    ]


def _close(was: str | None, now: str | None) -> bool:
    if was is None or now is None:
        return False
    return all(abs(float(a) - float(b)) <= 2 for a, b in zip(was.split(","), now.split(","), strict=True))


def _near(old: Any, new: Any) -> bool:
    """Whether two effects on an element are the same but for rounding."""
    if not isinstance(old, list) or not isinstance(new, list) or len(old) != len(new):
        return False
    fresh = old[:1] == ["new"]
    for n, (a, b) in enumerate(zip(old, new, strict=True)):
        # Only where something is may be off by a little; what it says and holds may not.
        placed = n < _NEW_PLACE if fresh else str(a).startswith(("at ", "moves "))
        if a != b and not (placed and _near_words(str(a), str(b))):
            return False
    return True


def _near_words(a: str, b: str) -> bool:
    if a == b:
        return True
    one, two = a.split(), b.split()
    if len(one) != len(two):
        return False
    for x, y in zip(one, two, strict=True):
        if x != y:
            try:
                if abs(float(x) - float(y)) > 2:
                    return False
            except ValueError:
                return False
    return True


def _called(name: Any, place: str) -> str:
    if not name:
        return "another part"
    kind, label = name
    return f"the {kind} “{label}”" if label else f"a {kind}"


def _first(said: Any) -> str:
    return (str(said[0]).split() or [""])[0] if said else ""


def _does(said: Any) -> str:
    word = {
        "shows": "shows",
        "hides": "hides",
        "moves": "moves",
        "looks": "changes its appearance",
        "new": "comes",
        "gone": "goes",
        "says": "changes its text",
        "tells": "changes its state",
        "holds": "takes another value",
    }
    return word.get(_first(said), "changes")


def _did(said: Any) -> str:
    word = {"shows": "it showed", "hides": "it hid", "moves": "it moved", "new": "it brought", "gone": "it removed"}
    return word.get(_first(said), "it changed")


def _seen(
    before: Observation,
    again: Observation,
    after: Observation,
    old: dict[str, Any],
    same: dict[str, Any],
    new: dict[str, Any],
    judge: Judge,
) -> list[Difference]:
    """What the pictures of a step show beside what its effect tells."""
    names = [step.get("picture", "") for step in (old, same, new)]
    bodies = [seen.bodies.get(name, b"") for seen, name in zip((before, again, after), names, strict=True)]
    if not all(bodies) or bodies[0] == bodies[2] or old["scroll"] != new["scroll"]:
        return []
    first, second, now = map(read_picture, bodies)
    x, y = old["scroll"]

    def placed(box: Sequence[float]) -> tuple[float, float, float, float]:
        return box[0] - x, box[1] - y, box[2] - x, box[3] - y

    others = other_files(old, new)
    likeness = judged(others, old["density"], old["zoom"], judge)
    boxes = [Other(placed(box), likeness.get(other.place)) for other in others for box in other.boxes]
    stills = [placed((a - 1, b - 1, a + w + 1, b + h + 1)) for a, b, w, h in new["stills"]]
    spots = differing(first, second, now, boxes, stills)
    if not spots:
        return []
    many = (
        f"{len(spots)} parts of the window look different"
        if len(spots) > 1
        else "a part of the window looks different"
    )
    shots = (names[0], names[2])
    return [
        Difference(
            "step picture", f"after {old['words']}, {many}", step=old["words"], places=(old["place"],), shots=shots
        )
    ]


PROBE = Probe("walk", observe, judges=compare, when="acting", slow=True)
