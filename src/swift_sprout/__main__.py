"""``python -m swift_sprout`` and the ``swift-sprout`` script."""

from __future__ import annotations

import sys


def run() -> None:
    """Run the program and end with its exit status."""
    if sys.argv[1:] == ["--version"]:  # answered here, so that asking costs next to nothing
        from . import __version__

        print(f"swift-sprout {__version__}")
        return
    from .cli.main import main

    sys.exit(main(sys.argv[1:]))


if __name__ == "__main__":
    run()
