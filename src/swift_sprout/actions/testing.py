"""``test``: modules' own tests, run by the host's own runner, and which of the files that hold some it never finds."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path

from ..core.errors import HostFailed, Refused, WrongUse
from ..core.masking import known_values, masked
from ..core.nearest import did_you_mean
from ..core.project import NamedSetup
from ..core.testing import ModuleTests, Outcome, OwnTest, RunnerTold, SetupTests, TestForm, share_out
from ..hosts.contract.testing import TestProgram
from ..hosts.registry import around
from ..running.activity import doing
from ..running.process import run
from ..running.scratch import scratch_folder
from .hosting import OpenHost, open_host
from .sandboxing import copy_of

REAL, SANDBOX = "real", "sandbox"
LAST_LINES = 20
DATABASES = (".sqlite", ".sqlite3", ".db")


def run_tests(
    opened: OpenHost, names: Sequence[str], setups: Sequence[str], limit_seconds: float, must_fail: bool
) -> list[SetupTests]:
    """Run the own tests of modules (all where none is named) in set-ups.

    setups        -- ``real``, ``sandbox`` or names that the project gives; none: the host itself where its runner gives
                     tests a database of their own, else a copy
    limit_seconds -- how long one start of a runner may take
    must_fail     -- put a test that must fail into a copy first, to prove that failures are seen

    Raises WrongUse for modules and set-ups that are not there.
    """
    modules = [opened.host.find(name) for name in names] or _own_modules(opened)
    if not modules:
        raise WrongUse("no-modules", "This host has no modules of its own.", "Make one: swift-sprout new NAME")
    known = opened.project.settings.setups
    for name in setups:
        if name not in (REAL, SANDBOX) and name not in known:
            near = did_you_mean(name, [REAL, SANDBOX, *known])
            raise WrongUse("setup-unknown", f"There is no set-up {name!r}.", f"{near} Name others under [setups.NAME].")
    chosen = list(dict.fromkeys(setups)) or [REAL if opened.kit.data.facts.own_tests.apart else SANDBOX]
    return [_in_setup(opened, modules, name, limit_seconds, must_fail, bool(setups)) for name in chosen]


def exit_status(done: Sequence[SetupTests]) -> int:
    """Return 0 when every test was found, run and passed, 3 when no runner could be started, 1 otherwise."""
    if any(one.failure for one in done):
        return 3
    return 0 if all(one.well for one in done) else 1


def why_not_well(done: Sequence[SetupTests]) -> str:
    """Return in one sentence why tests do not end with 0; empty for those that do."""
    for one in done:
        if one.failure:
            return one.failure
    failed = sum(len(module.failed) for one in done for module in one.modules) + sum(len(one.others) for one in done)
    unseen = sum(len(module.never_found) for one in done for module in one.modules)
    problems = sum(bool(module.problem) for one in done for module in one.modules)
    told = [f"{failed} failed"] * bool(failed) + [f"{unseen} never found"] * bool(unseen)
    return ", ".join([*told, *[f"{problems} not as they should be"] * bool(problems)])


def _own_modules(opened: OpenHost) -> list[str]:
    left_out = opened.left_out()
    return [one.name for one in opened.host.modules() if one.name not in left_out]


def _in_setup(
    opened: OpenHost, modules: Sequence[str], name: str, limit_seconds: float, must_fail: bool, ask_states: bool
) -> SetupTests:
    """Run the tests in one set-up; what cannot be run there is told, and the others go on."""
    done = SetupTests(name)
    began = time.monotonic()
    setup = opened.project.settings.setups.get(name, NamedSetup())
    apart = opened.kit.data.facts.own_tests.apart
    try:
        if name == REAL and not apart and not must_fail:
            raise Refused(
                "tests-in-copy",
                "Tests of such a host use its own database, and would change it; nothing was run.",
                "Run them in a copy: --setup sandbox",
            )
        before = _databases(opened)
        with _as_in(opened, setup) as here, _copied(here, done, name == SANDBOX or must_fail or not apart) as host:
            done.modules = [ModuleTests(one, host.host.folder(one)) for one in modules]
            for module in done.modules:
                module.files = host.host.test_files(module.module)
            if must_fail:
                _put_failing(host, done)
            told = _told(host, opened, modules, setup, limit_seconds)
            done.runner = ", ".join(dict.fromkeys(one.runner for one in told))
            done.others = share_out(done.modules, told)
            if must_fail:
                _take_failing(host, done)
            _judge(host, opened, done, told)
            changed = sorted(path for path, stamp in _databases(opened).items() if before.get(path) != stamp)
            if changed:
                told_by = "by them, or by a running server"
                done.notes.append(f"{', '.join(changed)} of the host itself changed while the tests ran: {told_by}")
            if ask_states:
                done.states = {one.name: one for one in host.host.facts(True).modules}
    except (HostFailed, Refused) as error:
        done.failure = f"{error.sentence.rstrip('.')}. {error.remedy}"
    _hide_secrets(done)
    done.seconds = time.monotonic() - began
    return done


def _databases(opened: OpenHost) -> dict[str, tuple[int, int]]:
    """Return the database files in the host's folder, each with what changes when it is written to."""
    found = {}
    for place, folders, files in os.walk(opened.host.root):
        folders[:] = [one for one in folders if one not in opened.kit.data.facts.sources.skipped]
        for name in files:
            if name.endswith(DATABASES):
                told = os.lstat(os.path.join(place, name))
                found[os.path.relpath(os.path.join(place, name), opened.host.root)] = (told.st_size, told.st_mtime_ns)
    return found


@contextmanager
def _as_in(opened: OpenHost, setup: NamedSetup) -> Iterator[OpenHost]:
    """Open the host as in a named set-up; its variables hold for all that is started meanwhile."""
    if setup == NamedSetup():
        yield opened
        return
    kept = dict(os.environ)
    try:
        os.environ.update(setup.environment)
        yield open_host(opened.choice._replace(settings=setup.settings or opened.choice.settings))
    finally:
        os.environ.clear()
        os.environ.update(kept)


@contextmanager
def _copied(opened: OpenHost, done: SetupTests, needed: bool) -> Iterator[OpenHost]:
    """Yield the host, or a throw-away copy of it."""
    if not needed:
        yield opened
        return
    with copy_of(opened) as copy:
        done.notes += copy.notes
        if done.setup == REAL:
            done.notes.append("it was run in a copy of the host")
        yield copy.opened


def _told(
    host: OpenHost, opened: OpenHost, modules: Sequence[str], setup: NamedSetup, limit_seconds: float
) -> list[RunnerTold]:
    """Start the runners, one after the other, and return what they told; raises HostFailed, and Refused."""
    project = around(opened.host.root)[0][1:]
    programs = host.host.test_programs(modules, project)
    return [_run(host, program, setup.environment, limit_seconds) for program in programs]


def _run(host: OpenHost, program: TestProgram, more: Mapping[str, str], limit_seconds: float) -> RunnerTold:
    doing(f"running the tests with {program.runner}")
    with scratch_folder() as folder:
        records = Path(folder) / "records"
        command = [word.replace("{records}", str(records)) for word in program.command]
        variables = {**more, **program.variables, "SPROUT_RECORDS": str(records)}
        try:
            ended = run(command, host.host.root, limit_seconds, variables)
        except OSError as error:
            raise HostFailed("host-broke", f"{command[0]} could not be started: {error}.", "Name another.") from None
        text = records.read_text("utf-8", "replace") if records.is_file() else ""
    return RunnerTold(program.runner, program.form, program.read(text, ended.output), ended.status, ended.output)


def _judge(host: OpenHost, real: OpenHost, done: SetupTests, told: Sequence[RunnerTold]) -> None:
    """Say which files the runner never found, and what is wrong beside single tests.

    host, real -- as it is in this set-up, and the host itself
    """
    for one in told:
        if one.status is None:
            done.failure = f"{one.runner} did not end in time; it was ended, with all that it had started"
        elif not one.recorded.each:
            lines = [line for line in one.output.splitlines() if line.strip()]
            done.printed = "\n".join(lines[-LAST_LINES:])
            verb = "ended well" if one.status == 0 else f"ended with status {one.status}"
            said = f": {lines[-1].strip()}" if lines and one.status else ""
            done.failure = f"{one.runner} {verb} and told of no single test{said}"
    installed = next((one.recorded.installed for one in told if one.recorded.installed is not None), None)
    form = told[0].form if told else TestForm()
    refused = {module: says for one in told for module, says in one.recorded.refused.items()}
    for module in done.modules:
        says = refused.get(module.module, refused.get(module.folder, ""))
        found = {*module.found, *(test.file for test in module.tests)}
        unseen = [host.host.never_found(module.module, file, form) for file in module.files if file not in found]
        module.never_found = [one for one in unseen if one.sure or not (says or done.failure)]
        if says and module.files:  # without tests there is nothing to look into
            module.problem = f"the runner cannot look into it: {says}"
        elif installed is not None and module.module not in installed:
            if real.host.state(module.module).registered:
                module.problem = "it is registered in the real set-up, but not where its tests run"
        elif module.found and not module.tests and not done.failure:
            module.problem = "the runner found its tests and ran none"


def _put_failing(host: OpenHost, done: SetupTests) -> None:
    """Put a test that must fail beside each module's own."""
    for module in done.modules:
        made = host.host.failing_test(module.module)
        if made is None:
            done.notes.append(f"{module.module}: it is not known how to put in a test that must fail")
            continue
        place = host.host.root / made[0]
        if place.exists() or not place.parent.resolve().is_relative_to(host.host.root.resolve()):
            raise Refused(
                "in-the-way", f"No test can be put in as {made[0]}; nothing was run.", "Look what lies there."
            )
        place.write_bytes(made[1])


def _take_failing(host: OpenHost, done: SetupTests) -> None:
    """Say whether the tests that had to fail were seen to; they do not count among the module's own."""
    for module in done.modules:
        made = host.host.failing_test(module.module)
        if made is None:
            continue
        seen = [one for one in module.tests if one.file == made[0]]
        module.tests = [one for one in module.tests if one.file != made[0]]
        module.found = [one for one in module.found if one != made[0]]
        if any(one.outcome is Outcome.FAILED for one in seen):
            done.notes.append(f"{module.module}: a test that must fail was put in, and seen to fail")
        else:
            verb = "passed" if seen else "was never found"
            module.problem = f"a test that must fail was put in as {made[0]}, and {verb}"


def _hide_secrets(done: SetupTests) -> None:
    values = known_values()

    def shown(test: OwnTest) -> OwnTest:
        return test._replace(says=masked(test.says, values))

    done.failure, done.printed = masked(done.failure, values), masked(done.printed, values)
    done.others = [shown(one) for one in done.others]
    for module in done.modules:
        module.tests = [shown(one) for one in module.tests]
