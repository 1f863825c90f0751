"""The program that runs a host: where it is, and which version it says it has."""

from __future__ import annotations

import re
import shutil
from functools import cached_property
from pathlib import Path

from ...core.errors import HostFailed
from ...core.hostfacts import Missing
from ...running.process import run
from ..contract.kitdata import matches
from ..contract.kitfacts import Program

LIMIT_SECONDS = 20


class FoundProgram:
    """A program that was found.

    path   -- where it is
    origin -- how it was found, for people
    """

    def __init__(self, facts: Program, path: str, origin: str) -> None:
        self.facts = facts
        self.path = path
        self.origin = origin

    @cached_property
    def version(self) -> str:
        """Its version, as it says itself; empty where it does not. Raises HostFailed where it does not run."""
        try:
            ended = run([self.path, *self.facts.version], Path.cwd(), LIMIT_SECONDS)
        except OSError as error:
            sentence = f"--runtime {self.path}: it does not run: {error.strerror}."
            raise HostFailed("no-program", sentence, self.facts.install or "Name another.") from None
        found = re.search(self.facts.version_text, ended.output)
        return found[1] if found else ""


def find_program(facts: Program, given: str | None) -> FoundProgram | None:
    """Return the program that ``--runtime`` names, else the one on the path; None where there is none."""
    path = given or shutil.which(facts.name)
    return FoundProgram(facts, path, "--runtime" if given else "on the path") if path else None


def missing_program(facts: Program, program: FoundProgram | None) -> list[Missing]:
    """Return what is missing where there is no program, or one of another version than what works."""
    remedy = facts.install or f"install {facts.name}, or name it with --runtime PATH"
    if program is None:
        return [Missing(facts.name, remedy)]
    if not program.version:
        return [Missing(f"{facts.name}: {program.path} tells no version", remedy)]
    if not matches(program.version, facts.needs):
        return [Missing(f"{facts.name} {facts.needs}: {program.path} is {program.version}", remedy)]
    return []


def need_program(facts: Program, program: FoundProgram | None) -> FoundProgram:
    """Return the program; raises HostFailed where there is none."""
    if program is None:
        remedy = facts.install or f"Install {facts.name}, or name it with --runtime PATH."
        raise HostFailed("no-program", f"There is no {facts.name} here.", remedy)
    return program
