"""``python -m swift_sprout`` and the ``swift-sprout`` script."""

from __future__ import annotations

import sys


def run() -> None:
    """Run the program and end with its exit status."""
    if sys.argv[1:] == ["--version"]:  # answered here, so that asking costs next to nothing
        from . import __version__

        print(f"swift-sprout {__version__}")
        return
    import gc
    import os

    gc.disable()  # most commands end before it would pay; those that go on for long switch it on again
    from .cli.main import main

    status = main(sys.argv[1:])
    if "swift_sprout.running.process" in sys.modules:
        from .running.process import end_all

        end_all()
    try:
        sys.stdout.flush()
        sys.stderr.flush()
    except (OSError, ValueError):
        pass  # whoever read it has gone
    os._exit(status)  # taking the interpreter apart would cost more than some commands do


if __name__ == "__main__":
    run()
