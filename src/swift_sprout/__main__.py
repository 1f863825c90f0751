"""``python -m swift_sprout`` and the ``swift-sprout`` script."""

from __future__ import annotations

import sys

#  what libraries import for cases that never come up here, and costs milliseconds each
SELDOM_USED = ("ipaddress", "platform")


class Later(type(sys)):  # type: ignore[misc]  # what a module is; the module that names it costs time as well
    """Stands for a module of the standard library until something of it is asked for.

    The standard library's own loader for this loads at the second ``import``, which is what libraries do.
    """

    def __getattr__(self, name: str) -> object:
        own = str(self.__name__)
        if sys.modules.get(own) is self:
            del sys.modules[own]
        return getattr(__import__(own), name)


def run() -> None:
    """Run the program and end with its exit status."""
    if sys.argv[1:] == ["--version"]:  # answered here, so that asking costs next to nothing
        from . import __version__

        print(f"swift-sprout {__version__}")
        return
    import gc
    import os

    for name in SELDOM_USED:
        sys.modules.setdefault(name, Later(name))
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
