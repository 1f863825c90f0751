"""A host that is nothing but a folder: what acts on hosts is tried on it without a program, and without running one."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from swift_sprout.actions.hosting import HostChoice, OpenHost
from swift_sprout.core.brief import Brief
from swift_sprout.core.changes import ChangeSet
from swift_sprout.core.errors import HostFailed
from swift_sprout.core.hostfacts import ModuleState, StepRun
from swift_sprout.core.ladder import Rung, State
from swift_sprout.core.results import ModuleCheck, SetupCheck
from swift_sprout.disk.journal import Journal
from swift_sprout.hosts.contract.exchange import Edit, Mend
from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.shared.base import BaseHost, BaseKit
from swift_sprout.hosts.shared.judging import judged

from ..support import Case

KIT_TOML = """
format = "swift-sprout/kit/1"
id = "ledger"
title = "Ledger"
sort = "ledger"
checked = ["1"]
works = ">=1"
needs = ["ledger.json"]
modules_folder = "sheets"
[recognise]
file = "ledger.json"
[naming]
pattern = "[a-z][a-z0-9_]*"
longest = 30
spelling = "snake"
taken = ["index"]
[parts]
record = "a column of the sheet"
page = "a line of the sheet"
[instead]
menu = "The nearest is a page."
[rungs]
registered = "ledger.json lists it"
[sources]
code = [".txt"]
[[refresh]]
files = ["*.json"]
kind = "reload"
why = "the ledger reads its list at every call"
[[refresh]]
files = ["*"]
kind = "nothing"
why = "no running part"
[[file]]
template = "sheet.html.mustache"
writes = "sheet.txt"
why = "what the sheet says"
[[file]]
template = "columns.json.mustache"
writes = "columns.json"
when = "records"
why = "its columns"
"""
RULES_TOML = """
["registered.not-listed"]
cause = "ledger.json does not list {module}"
effect = "nobody reads {module}"
mend = "swift-sprout enable {module}"
mendable = true
mended_when_named = true
["installed.unsettled"]
cause = "{module} was never settled"
effect = "it keeps nothing"
mend = "swift-sprout settle {module}"
mendable = true
["found.blot"]
cause = "a blot in {file}"
effect = "it is hard to read"
mend = "wipe it away"
mendable = true
["placed.leaning"]
cause = "{module} leans on a blot, and there is none"
effect = "it falls over"
mend = "make a blot"
"""
TEMPLATES = {
    "sheet.html.mustache": "«#pages»\n«&path» «&title»\n«/pages»\nend\n",
    "columns.json.mustache": "{\n«#records»\n  «name»: «count»«&comma»\n«/records»\n}\n",
}


class LedgerHost(BaseHost):
    """A folder with ledger.json; what it keeps beside is in ``kept.json``, of which turning modules on tells."""

    def _read(self, name: str) -> list[str]:
        path = self.root / name
        found: list[str] = json.loads(path.read_text("utf-8")) if path.exists() else []
        return found

    def modules(self) -> list[ModuleState]:
        listed = self._read("ledger.json")
        names = sorted(path.name for path in (self.root / "sheets").glob("*/"))
        return [ModuleState(one, one, one, "", f"sheets/{one}", True, one in listed, None) for one in names]

    def values(self, brief: Brief) -> dict[str, Any]:
        last = len(brief.records) - 1
        records = [
            {"name": record.name.snake, "count": str(len(record.fields)), "comma": "," if number < last else ""}
            for number, record in enumerate(brief.records)
        ]
        return {"pages": [{"path": page.path, "title": page.title} for page in brief.pages], "records": records}

    def _listed(self, module: str, names: list[str]) -> Edit:
        edit = Edit(ChangeSet(f"list {module}"))
        if names != self._read("ledger.json"):
            edit.changes.add("ledger.json", (self.root / "ledger.json").read_bytes(), json.dumps(names).encode())
        else:
            edit.already.append(f"{module} is as it should be")
        return edit

    def switch_on(self, module: str, at: str | None) -> Edit:
        return self._listed(module, [*(one for one in self._read("ledger.json") if one != module), module])

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        return self._listed(module, [one for one in self._read("ledger.json") if one != module])

    def set_enabled(self, module: str, on: bool) -> list[StepRun]:
        if (self.root / f"sheets/{module}/refuses").exists() and on:
            raise HostFailed("refused", f"The ledger refuses {module}.", "Take the file refuses away.")
        kept = self._read("kept.json")
        if (module in kept) == on:
            return []
        now = [*kept, module] if on else [one for one in kept if one != module]
        (self.root / "kept.json").write_text(json.dumps(now), "utf-8")
        return [StepRun("kept", True)]

    def serve_command(self, port: int) -> list[str]:
        return ["false"]

    def addresses(self, module: str) -> list[str]:
        return [f"/{module}"]

    def judge(self, modules: Sequence[str], live: bool, result: SetupCheck) -> Iterable[ModuleCheck]:
        for name in modules:
            state = self.state(name)
            findings = [] if state.registered else [self.finding("registered.not-listed", name, "ledger.json", 1)]
            if "blot" in self._sheet(name):
                findings.append(self.finding("found.blot", name, f"sheets/{name}/sheet.txt", 1))
            if "unsettled" in self._sheet(name) and name not in self._read("settled.json"):
                findings.append(self.finding("installed.unsettled", name, f"sheets/{name}/sheet.txt", 1))
            if "leans" in self._sheet(name) and not any("blot" in self._sheet(one) for one in modules):
                findings.append(self.finding("placed.leaning", name, f"sheets/{name}/sheet.txt", 1))
            seen: Mapping[Rung, tuple[State, str]] = {Rung.FOUND: (State.PASS, state.folder)}
            yield judged(name, name, findings, seen)

    def _sheet(self, module: str) -> str:
        path = self.root / f"sheets/{module}/sheet.txt"
        return path.read_text("utf-8") if path.exists() else ""

    def mend(self, finding: Any) -> Mend:
        if finding.code == "found.blot":
            before = self._sheet(finding.module)
            changes = ChangeSet("wipe")
            changes.add(finding.file, before.encode(), before.replace("blot", "", 1).encode())
            return Mend(changes)
        if finding.code == "installed.unsettled":
            return Mend(ChangeSet("settle"), settle=True)
        return Mend(self.switch_on(finding.module, None).changes)

    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        (self.root / "settled.json").write_text(json.dumps([*self._read("settled.json"), *modules]), "utf-8")
        return [StepRun("settled", True)]


class LedgerKit(BaseKit):
    host = LedgerHost


class LedgerCase(Case):
    """A test on a ledger with nothing in it."""

    def setUp(self) -> None:
        super().setUp()
        self.write("kit/kit.toml", KIT_TOML)
        self.write("kit/rules.toml", RULES_TOML)
        for name, text in TEMPLATES.items():
            self.write(f"kit/templates/{name}", text)
        self.root = self.folder / "ledger"
        self.write("ledger/ledger.json", "[]")
        (self.root / "sheets").mkdir()
        self.kit = LedgerKit(self.folder / "kit")
        self.host = LedgerHost(self.root, self.kit.data, HostOptions())
        journal = Journal(self.root, changed=self.host.look_again)
        self.opened = OpenHost(self.kit, self.host, journal, HostChoice(str(self.root), writes=True))

    def text(self, path: str) -> str:
        return (self.root / path).read_text("utf-8")

    def listed(self) -> list[str]:
        found: list[str] = json.loads(self.text("ledger.json"))
        return found
