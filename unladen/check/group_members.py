"""What was found to break a page is not done to the pages that it stands for either, though nobody looks at them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from unladen.capture import Capture
from unladen.capture.addresses import site_path, url_of_site_path
from unladen.check.outcomes import ChangeResult, ChangeResults, Part, Standing, judged
from unladen.check.pairs import PageCheck
from unladen.errors import Notice
from unladen.markup.site import texts_of
from unladen.plan import Plan, Unit
from unladen.remedies import remedy_named


class GroupMembers:
    """The pages of a capture that nobody weighed, by path, each with the weighed one that stands for it."""

    def __init__(self, capture: Capture, kin: Mapping[str, str] | None = None) -> None:
        self.capture = capture
        self.kin = dict(kin or {})
        self._known: dict[str, bool] = {}

    def notices(self) -> list[Notice]:
        """What stands for how much, in words."""
        counts: dict[str, int] = {}
        for first in self.kin.values():
            counts[first] = counts.get(first, 0) + 1
        notices = []
        for first, count in counts.items():
            pages, they = ("one more page", "it was") if count == 1 else (f"{count:,} more pages", "they were")
            notices.append(Notice(first, f"represents {pages} of its group; {they} neither weighed nor checked"))
        return notices

    def is_theirs(self, target: str) -> bool:
        """Whether a target is a page or file of these pages alone, so that no page that was weighed shows what
        becomes of it.
        """
        if not self.kin:
            return False
        if target not in self._known:
            self._known[target] = self._is_theirs(target)
        return self._known[target]

    def _is_theirs(self, target: str) -> bool:
        if target in self.kin:
            return True
        texts = texts_of(self.capture)
        file = self.capture.lookup(url_of_site_path(self.capture.base_url, target))
        if file is None:
            return False
        pages = set(texts.users().get(file.url, ()))
        for use in texts.all_uses().get(file.url, ()):
            pages |= texts.pages_of(use.text)
        return bool(pages) and all(page in self.kin for page in pages)

    def also_out(self, plan: Plan, out: ChangeResults, blamed: Iterable[tuple[Unit, PageCheck]]) -> ChangeResults:
        """ChangeResults with all set aside that the same remedy does, in the markup, to pages for which a broken one
        stands.
        """
        result: dict[str, ChangeResult] = {}
        for unit, pair in blamed:
            guilty = plan.change(unit.change)
            mine = {path for path, first in self.kin.items() if first == pair.page}
            if guilty is None or not mine or not remedy_named(guilty.remedy).may_edit_pages:
                continue
            for change in plan.counting():
                known = result.get(change.id) or out.by_change.get(change.id)
                gone = known is not None and known.standing is Standing.SET_ASIDE and not known.parts
                if change.remedy != guilty.remedy or gone or change.insist or mine.isdisjoint(change.pages):
                    continue
                parts = {part.target: part for part in (known.parts if known else ())}
                reason = f"{pair.page} represents its page and differed with the same remedy"
                theirs = [target for target in change.targets if target not in parts and self.is_theirs(target)]
                if not theirs:
                    continue
                parts |= {target: Part(target, reason, pair) for target in theirs}
                # What was found of a page that was looked at is the better reason.
                first = next(iter(parts.values()))
                whole = set(change.targets) <= {part.target for part in parts.values() if not part.pieces}
                standing, why, shown = (
                    (Standing.SET_ASIDE, first.reason, first.pair) if whole else (Standing.PASSED, "", None)
                )
                result[change.id] = ChangeResult(
                    change.id, standing, why, shown, judged(change), tuple(parts.values())
                )
        return out.with_(result.values())


def kin_notices(capture: Capture, weighed: Iterable[str], kin: Mapping[str, str]) -> list[Notice]:
    """What is said of the pages that were not weighed."""
    known = {*weighed, *kin}
    paths = (site_path(capture.base_url, page.url) for page in capture.pages())
    alone = [path for path in paths if path not in known]
    notices = GroupMembers(capture, kin).notices()
    if kin and alone:
        more = f" and {len(alone) - 1:,} more" if len(alone) > 1 else ""
        notices.append(
            Notice(alone[0] + more, "has no representative: neither this page nor one of its group was weighed")
        )
    return notices
