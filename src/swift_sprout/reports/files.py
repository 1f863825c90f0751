"""Writing a check to a file, in the form that its ending names."""

from __future__ import annotations

import io
import os
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import Refused, WrongUse
from ..core.nearest import did_you_mean
from .documents import check, dump
from .sarif import sarif
from .terminal import Terminal

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from ..core.findings import Rule
    from ..core.results import CheckResult
    from .rulepages import RulePages

FORMS = {".json": "JSON", ".xml": "JUnit XML", ".sarif": "SARIF 2.1.0", ".html": "one HTML page", ".txt": "text"}


def write_check(path: Path, results: Sequence[CheckResult], rules: Iterable[Rule], pages: RulePages) -> None:
    """Write a check to a file, all or nothing; raises WrongUse for an unknown ending and Refused where it cannot.

    pages   -- where the rules' pages lie
    results -- of one host; of several for the form that can hold them, the page

    A file that is there is replaced only when it is such a report: it was made by this function before.
    """
    check_ending(path)
    write_report(path, _content(path.suffix, results, rules, pages))


def write_report(path: Path, content: str) -> None:
    """Write a report to a file, all or nothing; raises Refused where it cannot, and for a file that is no report."""
    if path.exists() and not _is_report(path):
        raise Refused("output-taken", f"--output {path}: the file is there and is no report.", "Name another file.")
    part = path.with_name(f".{path.name}.{os.getpid()}")
    try:
        part.write_text(content, "utf-8")
        os.replace(part, path)
    except OSError as error:
        part.unlink(missing_ok=True)
        reason = (error.strerror or str(error)).lower()
        raise Refused("cannot-write", f"--output {path}: {reason}.", "Name a place that you may write to.") from None


def check_ending(path: Path, forms: Iterable[str] = FORMS) -> None:
    """Raise WrongUse when the ending of a file is none of the output formats."""
    if path.suffix not in forms:
        raise WrongUse(
            "output-ending", f"--output {path}: unknown output format.", did_you_mean(path.suffix or "?", forms)
        )


def _content(ending: str, results: Sequence[CheckResult], rules: Iterable[Rule], pages: RulePages) -> str:
    result = results[0]
    if ending == ".json":
        return dump(check(result)) + "\n"
    if ending == ".xml":
        from .junit import junit

        return junit(result)
    if ending == ".sarif":
        return sarif(result, rules, pages)
    if ending == ".html":
        from .page import page

        return page(results)
    from .text.check import check as check_text

    buffer = io.StringIO()
    buffer.write("swift-sprout check\n\n")
    check_text(Terminal(buffer, colour=False, signs=True), result, evidence=True)
    return buffer.getvalue()


def _is_report(path: Path) -> bool:
    content = path.read_bytes()
    return not content or b"swift-sprout" in content
