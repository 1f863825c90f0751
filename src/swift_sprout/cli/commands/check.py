"""``swift-sprout check``."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from ...actions.checking import check
from ...actions.hosting import HostChoice, OpenHost, open_host
from ...actions.watching import changes_of
from ...core.errors import WrongUse
from ...hosts.registry import kits
from ...reports import documents
from ...reports.files import check_ending, write_check
from ...reports.rulepages import RulePages
from ...running.activity import doing
from ...running.confinement import is_confined, run_confined
from .. import options as shared
from .. import output

if TYPE_CHECKING:
    from ...core.results import CheckResult

CONFINED = "the host ran confined: its folder under an overlay, all else read-only, no network but loopback"
EXAMPLE = """examples:
  swift-sprout check tide_board
  swift-sprout check --static --watch
  swift-sprout check --confined
  swift-sprout check --sandbox --output check.html
  swift-sprout check berth_register --also ../platform --output hosts.html
  swift-sprout check --mend --preview"""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("modules", metavar="MODULE", nargs="*", help="which modules (default: all of the host)")
    parser.add_argument("--static", action="store_true", help="read files only; run nothing of the host")
    parser.add_argument(
        "--sandbox", action="store_true", help="also in a throw-away copy, with the modules enabled there"
    )
    parser.add_argument("--keep", action="store_true", help="with --sandbox: keep the copy and say where it is")
    parser.add_argument(
        "--confined", action="store_true", help="run the host without network, on an overlay, with few rights"
    )
    parser.add_argument("--mend", action="store_true", help="apply the mends that are safe, then check again")
    parser.add_argument(
        "--known", metavar="FILE", help="an earlier check, from --output FILE.json: only what is new counts"
    )
    parser.add_argument("--watch", action="store_true", help="check the files again whenever one is saved")
    parser.add_argument(
        "--output",
        metavar="FILE",
        action="append",
        default=[],
        help="also write .json, .xml (JUnit), .sarif, .html, .txt",
    )
    parser.add_argument(
        "--also",
        metavar="HOST[,RUNTIME]",
        action="append",
        default=[],
        help="a further host, with its interpreter; with --output FILE.html all are on one page",
    )
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    _refuse_contradictions(options)
    opened = open_host(shared.host_choice(options))
    if options.confined and not is_confined():
        status = run_confined(["check", *options.words_given], opened.host.root, _paths_needed(options))
        output.said_already()
        return status
    outputs = [Path(path) for path in options.output]
    if outputs:
        for path in outputs:
            check_ending(path)
    if options.watch:
        return _watch(opened, options, outputs)
    others = [open_host(_further(options, said)) for said in options.also]
    if options.mend:
        return _mend(opened, options, outputs)
    if options.sandbox:
        from ...actions.sandboxing import check_with_sandbox

        result = check_with_sandbox(opened, options.modules, options.keep)
    else:
        doing("reading files" if options.static else "asking the running host")
        result = check(opened, options.modules, options.static, Path(options.known) if options.known else None)
        if options.confined:
            result.setups[0].notes.insert(0, CONFINED)
    results = [result]
    for number, other in enumerate(others, 2):
        doing(f"checking host {number} of {1 + len(others)}")
        results.append(check(other, options.modules, options.static))
    for one in results:
        _show(one, options)
    _write(outputs, results, opened, options)
    return max(output.check_status(one) for one in results)


def _paths_needed(options: argparse.Namespace) -> list[str]:
    """Return the paths beside the host's that must be seen in a confinement: of what runs it."""
    runtime = options.runtime or os.environ.get("VIRTUAL_ENV") or ""
    return [os.path.abspath(runtime), os.path.realpath(runtime)] if runtime else []


def _further(options: argparse.Namespace, said: str) -> HostChoice:
    """Return the choice of a further host: its folder, and behind a comma the program that runs it."""
    path, _, runtime = said.partition(",")
    return shared.host_choice(options)._replace(path=path, kit=None, runtime=runtime or None)


def _refuse_contradictions(options: argparse.Namespace) -> None:
    pairs = (
        ("static", "sandbox"),
        ("watch", "sandbox"),
        ("watch", "mend"),
        ("mend", "sandbox"),
        ("also", "sandbox"),
        ("also", "mend"),
        ("also", "watch"),
        *(("known", other) for other in ("sandbox", "mend", "watch", "also")),
        *(("confined", other) for other in ("static", "sandbox", "watch", "mend", "also")),
    )
    for one, other in pairs:
        if getattr(options, one) and getattr(options, other):
            raise WrongUse("arguments", f"--{one} and --{other} contradict each other.", "Give one of them.")
    if options.also and (output.wants_json(options) or any(not path.endswith(".html") for path in options.output)):
        raise WrongUse(
            "arguments",
            "--also: such a document is about one host.",
            "Use --output FILE.html, or check them one by one.",
        )
    if options.confined and options.output:
        raise WrongUse(
            "arguments", "--confined writes no file: nothing in it reaches the disk.", "Use --format json > FILE."
        )
    for needs, needed in (("keep", "sandbox"), ("preview", "mend")):
        if getattr(options, needs) and not getattr(options, needed):
            raise WrongUse("arguments", f"--{needs} goes with --{needed}.", f"Add --{needed}, or leave it out.")


def _show(result: CheckResult, options: argparse.Namespace) -> None:
    if output.wants_json(options):
        output.document(documents.check(result))
    else:
        from ...reports.text import check as check_text

        evidence = options.verbose or (len(options.modules) == 1 and not options.short)
        check_text.check(output.terminal(options), result, evidence, _pages(result.kit, options))


def _pages(kit: str, options: argparse.Namespace) -> RulePages:
    known = kits().get(kit)  # none for the host that no kit knows
    base = known.data.base if known is not None else None
    below = {rule.code for rule in base.rules} if base is not None else set()
    return RulePages(
        lambda code: base.id if base is not None and code in below else kit, getattr(options, "rule_pages", "")
    )


def _write(outputs: list[Path], results: list[CheckResult], opened: OpenHost, options: argparse.Namespace) -> None:
    for path in outputs:
        write_check(path, results, opened.kit.data.rules, _pages(opened.kit.data.id, options))


def _mend(opened: OpenHost, options: argparse.Namespace, outputs: list[Path]) -> int:
    from ...actions.mending import mend
    from ...reports.text import changes as changes_text

    mended = mend(opened, options.modules, options.static, options.preview)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/mend/1",
                "written": not options.preview,
                "mended": mended.codes,
                "left": mended.left,
                "files": documents.changes(mended.changes),
                "steps": documents.steps(mended.steps),
                "after": documents.check(mended.after) if mended.after else None,
            }
        )
        return output.check_status(mended.after or mended.before)
    out = output.terminal(options)
    if not mended.codes:
        out.line("None of the findings has a mend that is safe to apply.")
    else:
        out.line(f"{'Would mend' if options.preview else 'Mended'}: {', '.join(mended.codes)}")
        changes_text.changes(out, mended.changes, with_diff=not out.short)
        changes_text.steps(out, mended.steps)
    for sentence in mended.left:
        out.wrapped(sentence, "    ", "  – ")
    out.line()
    if options.preview:
        return output.check_status(mended.before)
    result = mended.after or mended.before
    _show(result, options)
    _write(outputs, [result], opened, options)
    return output.check_status(result)


def _watch(opened: OpenHost, options: argparse.Namespace, outputs: list[Path]) -> int:
    for number, path in enumerate(changes_of(opened.host.root, opened.kit.data.facts.sources)):
        fresh = open_host(shared.host_choice(options))
        if number and not output.wants_json(options):
            print(f"\n{path} was saved")
        result = check(fresh, options.modules, static=True)
        _show(result, options)
        _write(outputs, [result], fresh, options)
        sys.stdout.flush()
    return 0
