"""``python -m swift_sprout`` and the ``swift-sprout`` script."""

from __future__ import annotations

import os
import sys

#  what libraries import for cases that seldom or never come up here, and costs milliseconds each; with what of it they
#  take at once: a stand-in, or None for a function that loads the real one when it is called
SELDOM_USED: dict[str, dict[str, object]] = {
    "ipaddress": {},
    "platform": {},
    "gettext": {"gettext": str, "ngettext": lambda one, many, count: one if count == 1 else many},  # no catalogues
    "html": {"escape": None},  # it names two thousand letters
    "urllib.parse": {"quote_from_bytes": None},
}


class Later(type(sys)):  # type: ignore[misc]  # what a module is; the module that names it costs time as well
    """Stands for a module of the standard library until something of it is asked for.

    The standard library's own loader for this loads at the second ``import``, which is what libraries do.
    """

    def __init__(self, name: str, given: dict[str, object]) -> None:
        super().__init__(name)
        for taken, stand_in in given.items():
            self.__dict__[taken] = stand_in or self._when_called(taken)
        folder = os.path.join(os.path.dirname(os.__file__), name)
        if os.path.isdir(folder):  # a package: what lies in it is looked for there
            self.__dict__["__path__"] = [folder]
        above, _, below = name.rpartition(".")
        if above:  # importing what is there already does not set this
            setattr(__import__(above), below, self)

    def _when_called(self, name: str) -> object:
        return lambda *words, **more: getattr(self._real(), name)(*words, **more)

    def _real(self) -> object:
        own = str(self.__name__)
        if sys.modules.get(own) is self:
            del sys.modules[own]
        return __import__(own, fromlist=["*"])

    def __getattr__(self, name: str) -> object:
        if name == "__path__":  # asked by every ``from … import``, and only packages have it
            raise AttributeError(name)
        return getattr(self._real(), name)


def wait_with_seldom_used() -> None:
    """Let what is seldom used wait, where it was not imported yet."""
    for name, given in SELDOM_USED.items():
        if name not in sys.modules:
            sys.modules[name] = Later(name, given)


def run() -> None:
    """Run the program and end with its exit status."""
    if sys.argv[1:] == ["--version"]:  # answered here, so that asking costs next to nothing
        from . import __version__

        print(f"swift-sprout {__version__}")
        return
    import gc

    wait_with_seldom_used()
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
