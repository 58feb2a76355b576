"""One concept, one word: the words of screens, reports, documents and code, each explained in one place.

`docs/glossary.md` is written from here; screens show the sentence of a term that stands with a dotted line.
"""

from __future__ import annotations

from dataclasses import dataclass

from unladen.weigh.records.conditions import HEADER_BYTES


@dataclass(frozen=True, slots=True)
class Entry:
    """A concept: the word that people read, the name in code ("" where code has none), and what it means."""

    word: str
    code: str
    meaning: str


GLOSSARY: tuple[Entry, ...] = (
    # Sites and how they come in.
    Entry("As found", "original", "The site exactly as it came in, before any change. It is never altered."),
    Entry("Now", "lighter", "The site as the run that is shown left it."),
    Entry("Recording", "record_site", "Importing a live site, a HAR file or a WARC file."),
    Entry("Capture", "Capture", "All responses of a site as they were recorded. A capture never changes."),
    Entry("Store", "BodyStore", "Response bodies on disk, each once, by their SHA-256."),
    Entry("Third party", "", "A host that does not belong to the site."),
    # Weighing.
    Entry(
        "Weigh-in",
        "WeighIn",
        "One measurement of a page on a device. Its conditions are kept with it; the median of several loads counts.",
    ),
    Entry("Conditions", "Conditions", "Device, network, visit and number of loads of a weigh-in."),
    Entry("Device", "Device", "A preset (phone, tablet, desktop) or a custom viewport."),
    Entry("Request", "Request", "One file that the browser asks for."),
    Entry(
        "Transferred",
        "transferred",
        "Bytes that cross the network, compressed as the server sends them, plus "
        f"{HEADER_BYTES} bytes for the headers of each request (an estimate).",
    ),
    Entry("First visit", "first", "The page opened with an empty cache, without scrolling."),
    Entry("Repeat visit", "repeat", "The page opened again with a filled cache."),
    Entry("Journey", "Journey", "Several pages in a row from one cache: a file that they share counts once."),
    Entry("Walk", "Walk", "Scripted steps on a page: scroll, open menus and tabs, press, type."),
    Entry(
        "Modelled seconds",
        "Modelled",
        "Time until all files of the page have arrived, computed from bytes and dependencies on a stated network. "
        "The result is the same every time. Computing time of the device comes on top.",
    ),
    Entry("Blocking time", "blocking", "Time during loading in which the page does not answer taps and clicks."),
    Entry(
        "Layout shift", "shift", "How much of the visible page jumps while it loads. It has no unit; 0 means still."
    ),
    Entry("kB, MB", "", "1,000 and 1,000,000 bytes."),
    # What could go.
    Entry(
        "Finding",
        "Finding",
        "Avoidable bytes or requests, with evidence. The figure is tried out or marked as an estimate.",
    ),
    Entry("File type", "kind", "Image, script, style, font, media, document, data or other."),
    Entry(
        "Loaded by",
        "Party",
        "Who causes a file to be fetched: the site itself, its platform or theme, a third party, an embed. "
        "The initiator is the direct parent only.",
    ),
    Entry("Embed", "Embed", "A player, map or form of a third party in a frame."),
    Entry("Widget", "Widget", "A third-party script that adds content, such as a chat button."),
    Entry(
        "Placeholder", "placeholder", "A picture with a button that stands in for an embed until a visitor wants it."
    ),
    Entry("Unused rule", "Dead", "A CSS rule that no page can match in any state."),
    Entry("Trim", "trim", "Removing unused rules and code."),
    # The plan and its runs.
    Entry("Remedy", "Remedy", "A way to save bytes."),
    Entry("Change", "Change", "One remedy on stated files and pages. It is switched on and off by itself."),
    Entry("Plan", "Plan", "The chosen changes and settings. A run carries it out as a whole."),
    Entry("Version", "PlanVersion", "The plan after one edit."),
    Entry(
        "Effort",
        "Effort",
        "How far a ready-made plan goes. Gentle: nothing lossy. Steady: nothing visible. "
        "Bold: all that passes the check.",
    ),
    Entry("Preset", "Preset", "Effort and settings under a name, for use on other sites."),
    Entry(
        "Keep list", "KeepList", "Files, places, addresses, pages and rules that no change may touch, with reasons."
    ),
    Entry("Run", "Run", "A version of the plan built, checked and weighed again."),
    Entry("Result", "ChangeResult", "What a run found about one change."),
    Entry(
        "Set aside", "SET_ASIDE", "A change dropped by the check because a page looked or worked differently with it."
    ),
    Entry("Override", "override", "Applying a change although the check set it aside."),
    Entry("Journal", "Journal", "Which change altered which bytes."),
    # The check.
    Entry(
        "Check",
        "Check",
        "Compares each page as found with the lighter page, at rest and in use. "
        "Each difference is traced to its change.",
    ),
    Entry("Snapshot", "Snapshot", "All probe results for one page on one device."),
    Entry("Probe", "Probe", "Observes and compares one aspect of a page."),
    Entry("Page check", "PageCheck", "Two snapshots of a page compared: as found and now."),
    Entry("Difference", "Difference", "Something that one snapshot shows and the other does not."),
    Entry("Evidence", "Evidence", "The elements and files that a difference is about."),
    Entry("Culprit", "Culprit", "The part of a change that causes a difference."),
    Entry("Accepted difference", "Accepted", "A difference that the user allows, with a reason."),
    Entry("Ignored region", "IgnoredRegion", "A part of a page that the check does not compare."),
    # Whole sites.
    Entry("Page group", "PageGroup", "Pages with the same structure, styles and scripts."),
    Entry("Representative", "representative", "A page of a group that is weighed and checked for the whole group."),
    Entry("Member", "member", "A page of a group that is not weighed; its representative counts for it."),
    # Results and people.
    Entry(
        "Ledger",
        "Account",
        "The account of a run: the weight as found minus all savings is the weight now, to the byte and the request.",
    ),
    Entry("Report", "Report", "The ledger as a PDF or HTML file."),
    Entry(
        "Allowance",
        "Allowance",
        "The limits that a site's pages must meet. The page limit stands as a peg on the beam.",
    ),
    Entry("Limit", "Limit", "The maximum for one measure."),
    Entry("Growth", "growth", "How much more a page weighs than in the pinned weigh-in, in per cent."),
    Entry("Review", "Review", "A client's answers to the changes, given through a link without an account."),
    Entry("Share", "Share", "Access of another user to a site, as viewer or editor."),
    Entry("Audit log", "AuditEntry", "Who did what, and when."),
    Entry("Quota", "Quota", "The disk space that a user's sites may take."),
    # How the work is done.
    Entry("Job", "Job", "Queued work on a site. An attempt is one try at a job."),
    Entry("Work cache", "WorkCache", "Results of costly work, such as encoded images, kept for reuse."),
    Entry("Remote workers", "executors", "Other machines that run tasks."),
)
TERMS: dict[str, str] = {entry.word: entry.meaning for entry in GLOSSARY}
# What a report explains, in this order.
OF_REPORTS = ("Transferred", "First visit", "Request", "Modelled seconds", "Set aside", "kB, MB")


# Words that are not used any more (regular expressions), each with the word for it. A linter reads documents and the
# texts of the interface by them.
RETIRED: tuple[tuple[str, str], ...] = (
    ("bringers?", "party"),
    ("brought by", "loaded by"),
    ("excess(?:es)?", "finding"),
    ("errands?", "remote task"),
    ("deeds", "audit log"),
    ("kin", "members"),
    ("glances?", "quick snapshot"),
    ("masks?", "ignored region"),
    ("stand-ins?", "placeholder"),
    ("memo", "work cache"),
    ("wishes", "plan"),
    ("insists?(?: on)?", "override"),
    ("spared", "kept"),
    ("weighin", "weigh-in"),
    ("weigh in", "weigh-in"),
    ("weigh ins", "weigh-ins"),
    ("style sheets? of one's own", "custom style sheet"),
    ("javascript", "JavaScript"),
    ("webp", "WebP"),
    ("avif", "AVIF"),
    ("(?<!there )is no (?!longer|more|less|such)(\\w+)", "is not a $1"),
    ("all the same", "anyway"),
    ("so be it", "confirm"),
    ("let go", "remove"),
    ("somebody wants", "a user needs"),
)


def as_terms() -> list[list[str]]:
    """The retired words as a linter's terminology reads them."""
    return [[pattern, word] for pattern, word in RETIRED]


def as_markdown() -> str:
    """The text of `docs/glossary.md`."""
    rows = [f"| {entry.word} | {f'`{entry.code}`' if entry.code else ''} | {entry.meaning} |" for entry in GLOSSARY]
    head = [
        "# Glossary",
        "",
        "One concept, one word: in the interface, in code and in documents. `docs/write_schemas.py` writes this page",
        "from `unladen/glossary.py`. Add a row there before you use a new word.",
        "",
        "| word | in code | meaning |",
        "|---|---|---|",
    ]
    return "\n".join([*head, *rows]) + "\n"
