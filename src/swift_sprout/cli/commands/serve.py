"""``swift-sprout serve``."""

from __future__ import annotations

import argparse
import sys

from ...actions.hosting import open_host
from ...actions.serving import serving
from ...core.errors import HostFailed
from ...reports.terminal import Terminal
from .. import options as shared
from .. import output

EXAMPLE = "example:\n  swift-sprout serve tide_board --port 8021"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("modules", metavar="MODULE", nargs="*", help="whose addresses to print (default: all enabled)")
    parser.add_argument("--port", type=_port, help="the port (default: a free one)")
    shared.runs_host(parser)
    shared.common(parser)


def _port(text: str) -> int:
    value = int(text)
    if not 1 <= value <= 65535:
        raise argparse.ArgumentTypeError("give a port from 1 to 65535")
    return value


def run(options: argparse.Namespace) -> int:
    """Run the command until it is interrupted."""
    opened = open_host(shared.host_choice(options))
    with serving(opened, options.modules, options.port) as served:
        base = f"http://127.0.0.1:{served.port}"
        if output.wants_json(options):
            output.document(
                {
                    "format": "swift-sprout/serve/1",
                    "port": served.port,
                    "modules": [
                        {"module": module, "addresses": [base + path for path in paths]}
                        for module, paths in served.addresses
                    ],
                }
            )
        else:
            _text(output.terminal(options), base, served.addresses)
        sys.stdout.flush()
        status = served.wait()
    raise HostFailed("host-ended", f"The host ended by itself with status {status}.", "`swift-sprout check` tells why.")


def _text(out: Terminal, base: str, addresses: list[tuple[str, list[str]]]) -> None:
    out.line(f"Serving on {base} (Ctrl-C ends it)")
    for module, paths in addresses:
        for path in paths or ["(no page without parameters)"]:
            out.line(f"  {module}  {base + path if path.startswith('/') else path}")
