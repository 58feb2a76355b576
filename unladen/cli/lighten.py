"""`mule lighten`: make a site lighter, check it and account for it."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from unladen.capture import write_zip
from unladen.check import Standing
from unladen.cli.command import Command, add_site, document_at, expect_folders, kilobytes, progress, site_of
from unladen.errors import BadInput
from unladen.ledger import replacements, replacements_csv
from unladen.lighten import Lightened, lighten
from unladen.plan import EFFORTS, Plan
from unladen.remedies import LIKENESS, Delivery, ImageSettings
from unladen.remedies.fields import FieldRefused


def _arguments(parser: argparse.ArgumentParser) -> None:
    add_site(parser)
    parser.add_argument("--effort", choices=list(EFFORTS), default="", help="how far proposals go")
    parser.add_argument("--plan", type=Path, metavar="PLAN.json", help="carry out this plan instead of an effort's")
    parser.add_argument("--out", required=True, type=Path, metavar="OUT.zip", help="the lighter site")
    parser.add_argument("--save-plan", type=Path, metavar="PLAN.json", help="write the plan")
    parser.add_argument("--list", type=Path, metavar="OUT.csv", help="write which file replaces which")
    parser.add_argument("--likeness", choices=list(LIKENESS), default="", help="how alike smaller images must look")
    parser.add_argument("--same-names", action="store_true", help="replace files under their names and nothing else")
    parser.add_argument("--fallback", action="store_true", help="keep the older format for browsers that need it")
    parser.add_argument("--no-avif", action="store_true", help="no AVIF where it is a tenth smaller than WebP")
    parser.add_argument("--phones", type=int, default=60, metavar="PERCENT", help="share of visits from phones")
    parser.add_argument("--one-size", action="store_true", help="no narrower files for phones")
    parser.add_argument("--copyright", action="store_true", help="keep copyright and creator in image metadata")
    parser.add_argument("--strict", action="store_true", help="exit 3 when something was set aside or not comparable")
    parser.add_argument(
        "--machines", default="", metavar="ADDRESS", help="a Dask scheduler for encodes, such as tcp://10.0.0.5:8786"
    )


def _run(options: argparse.Namespace) -> int:
    with site_of(options) as capture:
        expect_folders(options.out, options.list)
        if bool(options.effort) == bool(options.plan):
            raise BadInput("lighten", "needs either --effort or --plan")
        plan = Plan.from_json(document_at(options.plan), str(options.plan)) if options.plan else None
        result = lighten(
            capture,
            plan or options.effort,
            progress(),
            pages=options.page,
            devices=list(dict.fromkeys(options.device)),
            kinds=options.kinds,
            images=_settings(
                likeness=options.likeness,
                fallback=options.fallback,
                avif=not options.no_avif,
                phones=options.phones,
                widths=not options.one_size,
                copyright=options.copyright,
            ),
            delivery=Delivery(same_names=options.same_names),
            machines=options.machines,
        )
        write_zip(result.capture, options.out)
        if options.list:
            options.list.write_text(replacements_csv(replacements(capture, result.capture)))
    if options.save_plan:
        options.save_plan.write_text(json.dumps(result.plan.as_json(), indent=1) + "\n")
    print(json.dumps(result.ledger(), indent=1) if options.json else _summary(result))
    if not options.strict:
        return 0
    return 3 if _set_aside(result) or any(not pair.passed for pair in result.pairs) else 0


def _settings(**values: Any) -> ImageSettings:
    try:
        return ImageSettings(**values)
    except FieldRefused as refused:
        raise BadInput(f"--{refused.place}", refused.reason) from None


def _set_aside(result: Lightened) -> int:
    """How many changes were set aside, in whole or in part."""
    return sum(bool(o.parts) or o.standing is Standing.SET_ASIDE for o in result.outcomes.by_change.values())


def _state(result: Lightened, change: str) -> str:
    outcome = result.outcomes.by_change.get(change)
    if outcome is None:
        return "off"
    if outcome.parts and outcome.standing is not Standing.SET_ASIDE:
        return "; ".join(f"without {', '.join(part.pieces) or part.target}: {part.reason}" for part in outcome.parts)
    return f"{outcome.standing}: {outcome.reason}" if outcome.reason else ""


def _summary(result: Lightened) -> str:
    total = result.account
    lines = [
        f"as found {kilobytes(total.before.bytes)} in {total.before.requests} requests, "
        f"now {kilobytes(total.after.bytes)} in {total.after.requests}, over {len(result.before)} weigh-ins"
    ]
    for remedy, saved in result.account.by_remedy(result.plan).items():
        lines.append(f"{kilobytes(saved.bytes):>14} {saved.requests:>4} requests  by {remedy}")
    for change in result.plan.changes:
        saved = total.saved_by(change.id)
        state = _state(result, change.id)
        lines.append(f"{kilobytes(saved.bytes):>14} {saved.requests:>4} requests  {change.id}  {state}".rstrip())
    unexplained = total.unexplained
    lines.append(f"{kilobytes(unexplained.bytes):>14} {unexplained.requests:>4} requests  unexplained")
    passed = sum(pair.passed for pair in result.pairs)
    lines.append(f"page checks: {passed} of {len(result.pairs)} without a difference; {_set_aside(result)} set aside")
    lines += [f"note: {p.page} on {p.device} cannot be compared: {p.cannot}" for p in result.pairs if p.cannot]
    lines += [f"note: {notice}" for notice in result.notices]
    return "\n".join(lines)


COMMAND = Command(
    name="lighten",
    usage="SITE --effort EFFORT --out FILE",
    help="make a site lighter, check it and account for it",
    example="lighten site.zip --effort steady --out lighter.zip --save-plan plan.json",
    declare_arguments=_arguments,
    run=_run,
)
