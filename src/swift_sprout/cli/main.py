"""The program: finds the command, runs it, and turns every error into a sentence and an exit status."""

from __future__ import annotations

import os
import sys
from collections.abc import Sequence

from .. import __version__
from ..core.errors import HostFailed, Refused, SproutError, WrongUse
from ..core.nearest import did_you_mean

GROUPS: dict[str, dict[str, str]] = {
    "make": {
        "new": "make a module",
        "add": "one more part in a module, merged into its files",
        "refresh": "bring a module up to its changed brief by three-way merge",
        "adopt": "write the brief of a module that was made by hand",
        "pattern": "patterns made from finished modules: take, list, show, try, where, drop",
        "rename": "another name for a module, in every spelling and every file",
    },
    "look": {
        "survey": "this host: kind, version, modules, what is missing to work here",
        "check": "how far modules have come on the way to being served, and why no further",
        "test": "the modules' own tests by the host's own runner, and which it never finds",
        "why": "every condition for a page, record, command or block to be seen, and which is not met",
        "show": "names, routes, rights, order, placements, files of a module, or the rules, as a table",
        "graph": "modules and what they need: order, circles, what is missing",
    },
    "switch": {
        "enable": "switch a module on",
        "disable": "switch a module off; its files and data stay",
        "settle": "carry out the refresh steps that are due",
        "serve": "run the host on loopback and print the modules' addresses",
        "remove": "take a module out: registration, files, and its data on an explicit word",
        "undo": "take back the last change set, or the one of a number",
        "history": "the last change sets: when, what, and which files",
    },
    "hand over": {
        "content": "a module's records and pages as text beside its code: take them, put them elsewhere",
        "pack": "a module as an archive that the host's own installer takes",
        "prove": "install an archive in a copy of the host, enable it there, and check that it is served",
    },
    "get to know": {
        "demo": "the whole story on demo data",
        "kits": "the host kinds known, and what their modules can carry",
        "configuration": "what is set for this host, and where each value comes from",
        "completion": "what a shell needs to complete commands, options and modules",
    },
}
COMMANDS = {name: summary for group in GROUPS.values() for name, summary in group.items()}
#  these work on no host that anything could be set for; one tells the values as they stand before they are filled in
WITHOUT_HOST = ("kits", "demo", "completion", "configuration")
#  options of all commands behind which a value stands
WITH_VALUE = ("--host", "--kit", "--settings", "--format", "--runtime", "--python", "--time-limit", "--wait")
READER_GONE = 141  # as a shell tells of a program that wrote to a pipe which nobody reads
EXIT_STATUS = (
    "0 well, 1 findings, 2 wrong use, 3 host could not be run, or the result not written, 4 refused, 130 interrupted, "
    "141 whoever read the output has gone"
)


def main(argv: Sequence[str]) -> int:
    """Run one command; returns the exit status (0 well, 1 findings, 2 wrong use, 3 host failed, 4 refused, 130)."""
    from ..disk.guard import guard_reading
    from . import output, progress

    guard_reading()
    sys.setrecursionlimit(5000)  # sources of hosts may be nested deeper than the usual limit
    try:
        name, words = _command_first(argv)
        if name == "help":
            name, words = (words[0], ["--help"]) if words else (None, ["--help"])
        if name is None:
            return _help(words)
        if name not in COMMANDS:
            raise _wrong(f"There is no command {name!r}. {did_you_mean(name, [*COMMANDS, 'help'])}")
        from .parser import parser_of

        command, parser = parser_of(name, COMMANDS[name])
        options = parser.parse_intermixed_args(words)  # options may stand between the names of modules
        options.words_given = words
        if name not in WITHOUT_HOST:
            from .configuration import apply

            apply(options)
        output.remember(options)
        progress.begin(name, options)
        with output.quiet(name, options) as statuses:
            status: int = command.run(options)
            statuses.append(status)
        progress.end()
        sys.stdout.flush()
        if status:
            output.say_why(status)
        return status
    except SproutError as error:
        output.error(error, argv)
        return error.exit_status
    except KeyboardInterrupt:
        return _interrupted(argv)
    except BrokenPipeError:
        output.give_up()
        return READER_GONE
    except OSError as error:
        problem = _unreachable(error)
        output.error(problem, argv)
        return problem.exit_status
    except Exception as error:
        if came_of_an_interruption(error):
            return _interrupted(argv)
        if os.environ.get("SWIFT_SPROUT_TRACE"):
            raise
        output.error(_internal(error), argv)
        return 3


def _command_first(argv: Sequence[str]) -> tuple[str | None, list[str]]:
    """Return the command and all other words: options may stand before it as well."""
    is_value = False
    for number, word in enumerate(argv):
        if not is_value and not word.startswith("-"):
            return word, [*argv[:number], *argv[number + 1 :]]
        is_value = word in WITH_VALUE
    return None, list(argv)


def _unreachable(error: OSError) -> SproutError:
    place = error.filename
    reason = (error.strerror or str(error)).lower()
    if place is None:  # no file was opened: it was the output that could not be written
        sentence = f"The result could not be written: {reason}."
        return HostFailed("output-not-written", sentence, "Make room, or write it elsewhere.")
    return Refused("file-unreachable", f"{place}: {reason}.", "Give yourself the right to it, or name another place.")


def _internal(error: Exception) -> SproutError:
    """Describe a fault of our own; nothing half-written is left, since change sets are all or nothing."""
    frames = error.__traceback__
    while frames is not None and frames.tb_next is not None:
        frames = frames.tb_next
    place = f"{frames.tb_frame.f_code.co_filename}:{frames.tb_lineno}" if frames else "?"
    return HostFailed(
        "own-fault",
        f"This is a fault of swift-sprout: {type(error).__name__}: {error} ({place}).",
        "Please report it; SWIFT_SPROUT_TRACE=1 shows the whole way to it.",
    )


def _interrupted(argv: Sequence[str]) -> int:
    from . import progress

    progress.end()
    meant = "serve" in argv or "--watch" in argv  # they go on until somebody stops them
    print("Stopped." if meant else "interrupted; nothing is half-written", file=sys.stderr)
    return 130


def came_of_an_interruption(error: BaseException | None) -> bool:
    """True where an interruption lies behind an error: in a class body, Python 3.11 makes another one of it."""
    seen: set[int] = set()
    while error is not None and id(error) not in seen:
        if isinstance(error, KeyboardInterrupt):
            return True
        seen.add(id(error))
        error = error.__cause__ or error.__context__
    return False


def _wrong(sentence: str) -> SproutError:
    return WrongUse("arguments", sentence, "See: swift-sprout --help")


def _help(argv: Sequence[str]) -> int:
    if "--version" in argv:
        print(f"swift-sprout {__version__}")
        return 0
    unknown = [word for word in argv if word not in ("-h", "--help")]
    if unknown:
        raise _wrong(f"{unknown[0]}: no command is given.")
    from textwrap import wrap

    from ..reports.terminal import screen_width

    print("usage: swift-sprout COMMAND [options]\n")
    print("Makes extension modules for web hosts and proves that the host serves them.")
    width = min(screen_width(), 120) - 17
    for group, commands in GROUPS.items():
        print(f"\n{group}:")
        for name, summary in commands.items():
            first, *more = wrap(summary, width)
            print(f"  {name:<13}  {first}")
            for line in more:
                print(f"{'':17}{line}")
    print("\nswift-sprout help COMMAND tells a command's options, with an example.")
    print("swift-sprout --version tells the version.")
    print("exit status:")
    for line in wrap(EXIT_STATUS, width + 13):
        print(f"  {line}")
    return 0 if argv else 2
