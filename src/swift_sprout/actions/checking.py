"""``check``: the ladder and the findings of modules."""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ..core.results import CheckResult
    from .hosting import OpenHost


def check(opened: OpenHost, names: Sequence[str], static: bool) -> CheckResult:
    """Check the named modules, or all; ``static`` reads files only and runs nothing."""
    began = time.monotonic()
    if static:
        from .remembering import check_of_files

        setup = check_of_files(opened, names)
    else:
        setup = opened.host.check(names, live=True)
    data = opened.kit.data
    from ..core.results import CheckResult

    return CheckResult(data.id, data.title, str(opened.host.root), [setup], time.monotonic() - began)


def exit_status(result: CheckResult) -> int:
    """Return 0 when all is well, 3 when the host could not be run, 1 when there are findings that fail."""
    from ..core.findings import Severity

    if any(setup.failure for setup in result.setups):
        return 3
    failing = any(finding.severity is not Severity.NOTE for finding in result.findings)
    healthy = all(module.healthy for setup in result.setups for module in setup.modules)
    return 0 if healthy and not failing else 1
