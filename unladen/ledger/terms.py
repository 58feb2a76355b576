"""The terms that reports and screens use, each in a sentence or two."""

from __future__ import annotations

from unladen.weigh.records.conditions import HEADER_BYTES

# Those of a report first, in the order in which it explains them.
TERMS: dict[str, str] = {
    "Transferred": (
        "Bytes that go over the line, compressed as the server sends them, with a fixed estimate of "
        f"{HEADER_BYTES} bytes a request for its header."
    ),
    "First visit": "The page is opened with an empty cache, and not scrolled.",
    "Request": "One file that the browser asks for.",
    "Modelled seconds": (
        "The time until all files of the page are there on a link of these figures, computed from bytes and dependencies "
        "alone, so that it is the same every time. Computing time of the device comes on top."
    ),
    "Set aside": "A change after which the page did not look or work as before. It is not part of what is handed over.",
    "kB, MB": "1,000 and 1,000,000 bytes.",
    "Weigh-in": (
        "One measurement of a page on a device, under conditions that are kept with it. The median of several runs counts."
    ),
    "As found": "The page as it came in, before any change. It is kept as it is.",
    "Excess": "Bytes or requests that could go, with what shows it. It was tried out, or says that it is an estimate.",
    "Change": "One cure on stated files and pages, which can be switched on and off by itself.",
    "Plan": "All changes that are wanted. It is carried out as a whole: built, checked, weighed again.",
    "Effort": "How far a ready-made plan goes: nothing lossy, what nobody will notice, or all that passes the checks.",
    "Keep list": "What must never be touched: files, places, addresses, pages, rules. It may say why.",
    "Check": (
        "Each page as found and as it would be side by side, at rest and while it is used. What differs is traced to the change "
        "that did it."
    ),
    "Walk": "A visit in which the page is scrolled through and its menus, tabs and such are opened, so that their files count too.",
    "Ledger": "The account of a run: as found less all that was saved is what it weighs now, to the byte and the request.",
    "Run": "A version of the plan carried out, with its proof.",
    "Brought by": "Who caused a file to be fetched: the site itself, its platform or theme, a third party, an embed.",
    "Third party": "A host that is not the site's own.",
    "Allowance": "What a page may weigh at most. It stands as a peg on the beam.",
    "Growth": "By how many per cent a page weighs more than in the weigh-in that was pinned.",
    "Kind of page": "Pages of one structure with the same styles and scripts, of which some stand for all.",
    "Journey": "A first page and the next ones from one cache, so that what they share counts once.",
    "Blocking time": "The parts of long tasks beyond 50 ms, between first paint and load, in which the page does not answer.",
    "Layout shift": "How much of what is in view jumps while the page loads. It has no unit; 0 is still.",
}
OF_REPORTS = ("Transferred", "First visit", "Request", "Modelled seconds", "Set aside", "kB, MB")
