"""Hosts in styles that no generator of ours writes, each with faults and with healthy variants.

A style is a folder here: ``style.toml`` says its kit and what prepares its host, ``host/`` is the host as somebody
else would have written it, ``faults.toml`` makes it ill, one change at a time, and ``healthy.toml`` changes it in ways
that are right. Nothing here is read by the program.
"""

from __future__ import annotations

import itertools
import shutil
import subprocess
import tempfile
from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path
from typing import NamedTuple

import tomli

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.core.findings import Finding, Severity
from swift_sprout.core.results import CheckResult
from swift_sprout.hosts.shared.faults import Fault, apply_fault

from ..hosts import built_demo, copy_host, trial
from ..places import PROGRAM, RUNTIMES
from ..recipes import recipe_named

HERE = Path(__file__).parent
LIMIT_SECONDS = 60.0


class Style(NamedTuple):
    """A style: its name, its kit, and the commands that prepare a copy of its host.

    base       -- ``demo`` for one whose files are laid over the demo host of the kit; empty for a host of its own
    prepare    -- ``{python}`` stands for what runs the host, ``{program}`` for this program
    recipe     -- of what runs the host; empty for the newest of the kit
    from_files -- how many of its faults files alone must name, at the least: 1 is all
    """

    name: str
    kit: str
    base: str
    prepare: tuple[tuple[str, ...], ...]
    recipe: str
    from_files: float

    @property
    def runtime(self) -> Path:
        """What runs the host."""
        return recipe_named(self.recipe).runtime if self.recipe else RUNTIMES[self.kit]

    @property
    def options(self) -> list[str | Path]:
        """The options that a command needs to run the host."""
        return trial(self.kit).options(self.runtime)


class Case(NamedTuple):
    """One change of a host; ``code`` and ``file`` are of the finding that must come first, empty for a healthy one.

    host -- the number of the host that it shares with others, which do not hide it, nor it them; 0 for one of its own
    """

    name: str
    steps: tuple[dict[str, str], ...]
    code: str = ""
    file: str = ""
    host: int = 0

    @property
    def wanted(self) -> str:
        """Code and file of the finding that must come first; empty for a healthy one."""
        return f"{self.code} {self.file}".strip()


class Told(NamedTuple):
    """What a check said of a case: the findings that follow from no other, notes of healthy ones left out."""

    findings: tuple[Finding, ...]
    failure: str

    @property
    def first(self) -> str:
        """Code and file of the first one; empty for none."""
        return next(iter(self.named), "")

    @property
    def named(self) -> list[str]:
        """Code and file of each."""
        return [f"{one.code} {one.file}" for one in self.findings]

    def of(self, case: Case) -> Told:
        """Return what was said of one of several cases on one host."""
        return Told(tuple(one for one in self.findings if f"{one.code} {one.file}" == case.wanted), self.failure)


def styles() -> list[Style]:
    """Return the styles, by name."""
    found = []
    for path in sorted(HERE.glob("*/style.toml")):
        data = tomli.loads(path.read_text("utf-8"))
        found.append(
            Style(
                path.parent.name,
                data["kit"],
                data.get("base", ""),
                tuple(tuple(words) for words in data["prepare"]),
                data.get("recipe", ""),
                data.get("from_files", 0.5),
            )
        )
    return found


def cases(style: Style, healthy: bool) -> list[Case]:
    """Return the faults of a style, or its healthy variants; the first of those is the host as it stands."""
    data = tomli.loads((HERE / style.name / ("healthy.toml" if healthy else "faults.toml")).read_text("utf-8"))
    found = [
        Case(name, tuple(one["steps"]), one.get("code", ""), one.get("file", ""), one.get("host", 0))
        for name, one in data.items()
    ]
    return [Case("as it stands", ()), *found] if healthy else found


def apart(chosen: Sequence[Case]) -> list[Case]:
    """Join cases that touch no file in common into one each, which changes a host in all of their ways at once."""
    joined: list[list[Case]] = []
    for case in chosen:
        room = next((group for group in joined if not any(_paths(case) & _paths(one) for one in group)), None)
        if room is None:
            joined.append([case])
        else:
            room.append(case)
    return list(map(_as_one, joined))


def sharing(chosen: Sequence[Case]) -> list[list[Case]]:
    """Part faults into those that share a host."""
    batches: dict[str, list[Case]] = {}
    for case in chosen:
        batches.setdefault(str(case.host) if case.host else case.name, []).append(case)
    return list(batches.values())


def _as_one(group: Sequence[Case]) -> Case:
    return Case(", ".join(one.name for one in group), tuple(step for one in group for step in one.steps))


def _paths(case: Case) -> set[str]:
    return {step[key] for step in case.steps for key in ("file", "move", "to", "remove") if key in step}


def prepared(style: Style, folder: Path) -> Path:
    """Return a copy of a style's host, with its database, in a folder."""
    site = folder / "host"
    if style.base:
        copy_host(style.kit, built_demo(style.kit), site)
    ignored = shutil.ignore_patterns("__pycache__")
    shutil.copytree(HERE / style.name / "host", site, dirs_exist_ok=True, ignore=ignored)
    meant = {"{python}": str(style.runtime), "{program}": str(PROGRAM)}
    for words in style.prepare:
        command = [meant.get(word, word) for word in words]
        if words[0] == "{program}":
            command += ["--host", str(site), *map(str, style.options)]
        subprocess.run(command, cwd=site, check=True, capture_output=True, timeout=120)
    trial(style.kit).stop(site)
    return site


def tell(style: Style, cases: Sequence[Case], host: Path) -> Iterator[tuple[Case, Told, Told]]:
    """Change copies of a prepared host and check them: from the files alone, and with the host running.

    Faults on one host are taken for what the checks say of each alone where these name all of them and nothing else;
    else each is tried on a host of its own.
    """
    if len(cases) > 1:
        static, live = _told(style, _as_one(cases), {case.code for case in cases}, host, notes=False)
        wanted = sorted(case.wanted for case in cases)
        if sorted(live.named) == wanted and set(static.named) <= set(wanted):
            yield from ((case, static.of(case), live.of(case)) for case in cases)
            return
    for case in cases:
        yield case, *_told(style, case, {case.code}, host, notes=bool(case.code))


def _told(style: Style, case: Case, codes: set[str], host: Path, notes: bool) -> tuple[Told, Told]:
    """Return what the checks say of a copy of a host.

    codes -- of the faults that it has
    notes -- whether what the running host makes a note of counts, where it is no fault
    """
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder).resolve() / "host"
        copy_host(style.kit, host, site)
        run_sql = partial(trial(style.kit).run_sql, site)
        apply_fault(Fault(case.name, case.steps, "", "", LIMIT_SECONDS), site, run_sql)
        opened = open_host(HostChoice(str(site), style.kit, str(style.runtime), LIMIT_SECONDS))
        static, live = (check(opened, [], static=from_files) for from_files in (True, False))
        trial(style.kit).stop(site)
        return _causes(static, codes, False), _causes(live, codes, notes)


def _causes(result: CheckResult, codes: set[str], notes: bool) -> Told:
    """Return what a check said; a note by which it says that it cannot tell counts only where it should be able to."""
    found = [one for one in result.findings if not one.follows_from]
    if not notes:
        found = [one for one in found if one.severity is not Severity.NOTE or one.code in codes]
    return Told(tuple(found), result.setups[0].failure)


def lines(style: Style) -> Iterator[tuple[str, bool]]:
    """Yield a line of a table for each case of a style, and whether the running host was judged rightly."""
    with tempfile.TemporaryDirectory() as folder:
        host = prepared(style, Path(folder).resolve())
        for healthy in (True, False):
            for case, static, live in itertools.chain.from_iterable(
                tell(style, batch, host) for batch in sharing(cases(style, healthy))
            ):
                good = live.first == case.wanted
                said = [static.first == case.wanted, not static.findings] if case.code else [not static.findings]
                from_files = "yes" if said[0] else "silent" if len(said) > 1 and said[1] else "no"
                got = "" if good else f"  got: {live.first or live.failure or 'nothing'}"
                yield f"{style.name:<10} {case.name:<44} {from_files:<7} {'yes' if good else 'no':<4}{got}", good


def main(names: list[str]) -> int:
    """Print the table of the named styles, or all; returns 1 where one case was not judged rightly."""
    print(f"{'style':<10} {'case':<44} files   live")
    wrong = 0
    for style in styles():
        for line, good in lines(style) if not names or style.name in names else ():
            print(line, flush=True)
            wrong += not good
    return 1 if wrong else 0
