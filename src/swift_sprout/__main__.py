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
    try:
        _open_streams()
        import gc

        wait_with_seldom_used()
        gc.disable()  # most commands end before it would pay; those that go on for long switch it on again
        from .cli.ending import heed_signals, ignore_signals

        heed_signals()
        from .cli.main import main

        status = main(sys.argv[1:])
        ignore_signals()
    except KeyboardInterrupt:  # before, or after, there was anything to clean up
        status = 130
    os._exit(_ended(status))  # taking the interpreter apart would cost more than some commands do


def _open_streams() -> None:
    """Let what is written to a closed stream go nowhere, and not into a file that is opened later."""
    for number in range(3):
        try:
            os.fstat(number)
        except OSError:
            os.open(os.devnull, os.O_RDWR)  # the lowest number that is free: this one
    for name in ("stdout", "stderr"):
        if getattr(sys, name) is None:
            setattr(sys, name, open(os.devnull, "w", encoding="utf-8"))  # noqa: SIM115  # as long as the program


def _ended(status: int) -> int:
    """End what is still at work, and return the exit status."""
    if "swift_sprout.running.process" in sys.modules:
        from .running.process import end_all

        end_all()
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except (OSError, ValueError):
            continue  # whoever read it has gone; ``main`` has told what could not be written
    if "swift_sprout.running.copies" in sys.modules:
        from .running.copies import end_copies

        end_copies()
    return status


if __name__ == "__main__":
    run()
