"""``python -m swift_sprout`` and the ``swift-sprout`` script."""

from __future__ import annotations

import sys

#  what libraries import for cases that seldom or never come up here, and costs milliseconds each; with what of it they
#  take at once: argparse the translating of its words, for which there are no catalogues
SELDOM_USED: dict[str, dict[str, object]] = {
    "ipaddress": {},
    "platform": {},
    "gettext": {"gettext": str, "ngettext": lambda one, many, count: one if count == 1 else many},
}


class Later(type(sys)):  # type: ignore[misc]  # what a module is; the module that names it costs time as well
    """Stands for a module of the standard library until something of it is asked for.

    given -- what is asked for at once, and can be told without it

    The standard library's own loader for this loads at the second ``import``, which is what libraries do.
    """

    def __init__(self, name: str, given: dict[str, object]) -> None:
        super().__init__(name)
        self.__dict__.update(given)

    def __getattr__(self, name: str) -> object:
        if name == "__path__":  # asked by every ``from … import``; what waits here are no packages
            raise AttributeError(name)
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

    for name, given in SELDOM_USED.items():
        sys.modules.setdefault(name, Later(name, given))
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
    if "swift_sprout.running.copies" in sys.modules:
        from .running.copies import end_copies

        end_copies()
    os._exit(status)  # taking the interpreter apart would cost more than some commands do


if __name__ == "__main__":
    run()
