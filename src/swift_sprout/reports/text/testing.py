"""A run of modules' own tests as text."""

from __future__ import annotations

from collections.abc import Sequence

from ...core.plurals import number_of
from ...core.testing import ModuleTests, Outcome, OwnTest, SetupTests
from ..terminal import Terminal

MOST_LINES = 8  # of what a test says
ANSWERS = {True: "yes", False: "no", None: "not asked"}


def tests(out: Terminal, done: Sequence[SetupTests], verbose: bool) -> None:
    """Write what became of the tests in each set-up, and at the end what sets the set-ups apart.

    verbose -- with what a runner printed that could not run them
    """
    for number, one in enumerate(done):
        if number:
            out.line()
        _setup(out, one, verbose)
    if any(one.states for one in done):
        out.line()
        _states(out, done)


def _setup(out: Terminal, done: SetupTests, verbose: bool) -> None:
    out.line(
        f"{out.style(f'Own tests, {done.setup} set-up', 'head')}{f'  run by {done.runner}' if done.runner else ''}"
    )
    out.line()
    if done.failure:
        out.wrapped(f"{done.failure.rstrip('.')}.", "  ", f"{out.style('✗', 'bad')} ")
        for line in done.printed.splitlines() if verbose else ():
            out.line(f"    {line}")
        out.line()
    if any(one.files or one.tests for one in done.modules):
        out.grid(
            ["module", "files", "found", "run", "passed", "failed", "skipped", "seconds"],
            [_row(one) for one in done.modules],
            spare=("skipped", "files"),
        )
    elif not done.failure:
        out.line("No module brings tests.")
    for module in done.modules:
        _module(out, module)
    for test in done.others:
        _failed(out, "", [test])
    out.line()
    for note in done.notes:
        out.wrapped(note, "  ", "– ")
    run = sum(len(one.tests) for one in done.modules)
    failed = sum(len(one.failed) for one in done.modules) + len(done.others)
    unseen = sum(len(one.never_found) for one in done.modules)
    told = [number_of(run, "test"), f"{failed} failed" if failed else "none failed"]
    told += [f"{number_of(unseen, 'file')} never found"] if unseen else []
    out.line(f"{', '.join(told)}, {done.seconds:.1f} s")


def _row(module: ModuleTests) -> list[str]:
    counts = [len(module.files), len(module.found), len(module.tests), *(module.count(one) for one in Outcome)]
    shown = [str(one) if one else "–" for one in counts]
    return [module.module, *shown, f"{module.seconds:.2f}" if module.seconds else "–"]


def _module(out: Terminal, module: ModuleTests) -> None:
    if module.problem:
        out.line()
        out.wrapped(f"{module.module}: {module.problem.rstrip('.')}.", "    ", f"{out.style('✗', 'bad')} ")
    alike: dict[str, list[OwnTest]] = {}
    for test in module.failed:
        alike.setdefault(test.says, []).append(test)
    for found in alike.values():
        _failed(out, module.module, found)
    for one in module.never_found:
        out.line()
        out.wrapped(f"{out.style('never found:', 'bad')} {out.path(one.file)}", "    ", "")
        out.wrapped(f"{one.cause}.", "            ", "    cause   ")
        out.wrapped(one.remedy, "            ", "    remedy  ")


def _failed(out: Terminal, module: str, found: Sequence[OwnTest]) -> None:
    """Write the tests that failed with the same words: the first of them with its place, the others by their names."""
    first, *others = found
    out.line()
    out.wrapped(f"{out.style('failed:', 'bad')} {f'{module}: ' if module else ''}{first.name}", "    ", "")
    if first.place:
        out.line(f"    where   {out.path(first.place)}")
    for line in first.says.splitlines()[:MOST_LINES]:
        out.line(f"    {line}")
    if others:
        out.wrapped(f"{', '.join(one.name for one in others)}", "            ", "    alike   ")


def _states(out: Terminal, done: Sequence[SetupTests]) -> None:
    """Write how the host of each set-up sees the modules, side by side."""
    names = list(dict.fromkeys(one.module for setup in done for one in setup.modules))
    rows = []
    for name in names:
        for setup in done:
            state = setup.states.get(name)
            if state is not None:
                described = "yes" if state.title else "no"
                rows.append([name, setup.setup, ANSWERS[state.registered], described, ANSWERS[state.enabled]])
    out.grid(["module", "set-up", "registered", "described", "enabled"], rows)
