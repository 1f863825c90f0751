"""``python -m swift_sprout`` and the ``swift-sprout`` script."""

from __future__ import annotations

import sys

#  what libraries import for cases that never come up here, and costs milliseconds each
SELDOM_USED = ("ipaddress", "platform")


def load_when_used(*names: str) -> None:
    """Put off loading modules of the standard library until something of them is asked for."""
    from importlib.util import LazyLoader, find_spec, module_from_spec

    for name in names:
        spec = find_spec(name) if name not in sys.modules else None
        if spec is not None and spec.loader is not None:
            spec.loader = LazyLoader(spec.loader)
            module = module_from_spec(spec)
            sys.modules[name] = module
            spec.loader.exec_module(module)


def run() -> None:
    """Run the program and end with its exit status."""
    if sys.argv[1:] == ["--version"]:  # answered here, so that asking costs next to nothing
        from . import __version__

        print(f"swift-sprout {__version__}")
        return
    import gc
    import os

    load_when_used(*SELDOM_USED)
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
