"""One Flask site behind the contract: what makes its application, and the packages and files with blueprints."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....caching.rests_on import RestsOn
from ....core.changes import ChangeSet
from ....core.errors import Refused
from ....core.hostfacts import Missing, ModuleState, StepRun
from ....core.modulefolders import ModuleFolder
from ....core.nearest import nearest, said_near
from ....running.interpreter import Search, find_interpreter
from ...contract.exchange import Edit, StartUp
from ...python.formatting import formatted, tidied
from ...python.interpreter import PythonFacts
from ...python.layouts import LAYOUT_NAMES, SiteLayout, layout_in
from ...python.naming import check_inner_names, check_python_name
from ...python.run_by import RunByPython
from ...shared.base import BaseHost
from ...shared.making import free_folder, making
from .application import Application
from .entry import Entry, dotted_of, find_entry, source_roots
from .mapping import Mapper, classes_of_records, find_mapper
from .places import Place, Places
from .registration import switch_off, switch_on
from .settling import settle

if TYPE_CHECKING:
    from ....core.brief import Brief
    from ....core.names import NameFamily
    from ....core.parts.records import Record
    from ....core.renaming.identifiers import Identifiers
    from ....core.renaming.spellings import Renaming
    from ....core.results import ModuleCheck, SetupCheck
    from .asking import Database


class FlaskHost(RunByPython, BaseHost):
    """A folder in which an application is made."""

    takes_address = True

    @cached_property
    def search(self) -> Search:
        """How the interpreter was looked for."""
        python = self.data.section(PythonFacts)
        return find_interpreter(self.options.runtime, self.root, python.package, python.environments)

    @property
    def version(self) -> str:
        """The installed version of Flask."""
        found = self.search.found
        return (found.distribution_version("flask") or "") if found is not None else ""

    def missing(self) -> list[Missing]:
        """Return what is missing to work here."""
        missing = []
        if self.search.found is None:
            missing.append(Missing("no interpreter with Flask", "name one with --runtime PATH"))
        if self.entry is None:
            remedy = "say it as FLASK_APP in .flaskenv, or make the application in wsgi.py or app.py"
            missing.append(Missing("no file that makes the application is found", remedy))
        return missing

    # -- files ----------------------------------------------------------------------------------------------------

    @cached_property
    def entry(self) -> Entry | None:
        """How the site's application is come by; None where that cannot be told."""
        return find_entry(self.root)

    @cached_property
    def application(self) -> Application | None:
        """What the files say that make the application; None where they are not found."""
        return Application(self.root, self.entry) if self.entry is not None else None

    @cached_property
    def mapper(self) -> Mapper | None:
        """The site's object mapper; None where it has none that is found."""
        return find_mapper(self.root)

    @cached_property
    def places(self) -> Places:
        """The modules of the site, where they lie."""
        return self.application.places if self.application is not None else Places(self.root, None)

    def look_again(self) -> None:
        """Forget what the files said."""
        for read in ("entry", "application", "mapper", "places"):
            self.__dict__.pop(read, None)

    def need_application(self) -> Application:
        """Return what makes the application; raises Refused where it cannot be edited."""
        found = self.application
        if found is None or found.broken:
            reason = found.broken if found is not None else "no file makes one that is found"
            raise Refused("factory-unclear", f"What makes the application cannot be read: {reason}.", "Fix that file.")
        return found

    def place(self, module: str) -> Place:
        """Return where a module lies; raises WrongUse naming the nearest."""
        known = self.places.by_name
        return known[module] if module in known else known[self.find(module)]

    @property
    def record_renamed(self) -> str:
        """What becomes of the rows of a record that has another name."""
        return "its table keeps its rows" if self.drops_what_is_gone else super().record_renamed

    @property
    def drops_what_is_gone(self) -> bool:
        """True where revisions lead the tables."""
        return self.mapper is not None and self.mapper.folder is not None

    def modules(self) -> list[ModuleState]:
        """Return the packages and files that make a blueprint, have a brief, or are registered."""
        application = self.application
        on = {*application.by_module, *application.handed_to} if application is not None else set()
        return [
            ModuleState(
                name, place.label, place.label.replace("_", " ").capitalize(), "", self.relative(place.path), True,
                name in on, None,
            )
            for name, place in self.places.by_name.items()
        ]  # fmt: skip

    def module_folders(self) -> list[ModuleFolder]:
        """Return the folders in which modules lie, that with most of them first."""
        counted = Counter(place.path.parent for place in self.places.by_name.values() if not place.is_file)
        if not counted:
            inner = self.places.application_folder
            beside = [place.path.parent for place in self.places.by_name.values()]
            counted = Counter(beside or ([inner] if inner is not None else [self.root]))
        folders = [folder for folder, _ in counted.most_common()]
        found = [ModuleFolder(self._spelled(one), self._prefix(one), "modules lie there") for one in folders]
        return found if any(one.folder == "." for one in found) else [*found, *super().module_folders()]

    def _spelled(self, folder: Path) -> str:
        return self.relative(folder) if folder != self.root else "."

    def _prefix(self, folder: Path) -> str:
        dotted = dotted_of(self.root, folder / "__init__.py")
        return f"{dotted}." if dotted else ""

    def check_name(self, name: NameFamily) -> None:
        """Raise when a new module cannot have this name here."""
        check_python_name(self.data, name.snake)
        super().check_name(name)
        for folder in {self.root / one.folder for one in self.module_folders()}:
            if (folder / name.snake).exists() or (folder / f"{name.snake}.py").exists():
                place = self.relative(folder / name.snake)
                raise Refused("name-taken", f"There is something named {place} already.", "Choose another name.")

    def values(self, brief: Brief) -> dict[str, Any]:
        """Return all values that the templates take."""
        from .composing.module import values_of

        check_inner_names(self.data, brief)
        layout = self._layout()
        entry, mapper = self.entry, self.mapper_of(self.label(brief.name))
        made_in = dotted_of(self.root, entry.file) if entry is not None else "wsgi"
        imports = [f"from {made_in} import {entry.imported_as if entry is not None else 'app'}"]
        imports += [f"from {mapper.module} import {mapper.name}"] if mapper is not None else []
        return {
            **values_of(
                self.data,
                brief,
                layout.template,
                mapper.names if mapper is not None else None,
            ),
            "site_block": layout.block,
            "site_title": layout.title,
            "site_title_stays": layout.title_stays,
            "site_head": layout.head,
            "site_scripts": layout.scripts,
            "application": self.said_application,
            "application_module": made_in,
            "site_imports": [{"line": line} for line in sorted(imports)],
            "application_name": entry.name if entry is not None else "app",
            "application_import": entry.imported_as if entry is not None else "app",
            "application_factory": entry is not None and entry.gives_factory,
        }

    def _layout(self) -> SiteLayout:
        """Return the site's own layout: that of the application first, then those of its packages."""
        folders = [self.entry.builder.parent / "templates"] if self.entry is not None else []
        folders += [self.root / "templates", *sorted(self.root.glob("*/templates"))]
        files = (folder / name for folder in folders for name in LAYOUT_NAMES)
        found = (layout_in(one.name, one.read_text("utf-8", "replace")) for one in files if one.is_file())
        return next((layout for layout in found if layout is not None), SiteLayout())

    def mapper_of(self, label: str) -> Mapper | None:
        """Return what keeps the records of a module; None for rows of a SQLite file, which one made so goes on with."""
        rows = any(one.label == label and one.within("schema.sql") for one in self.places.by_name.values())
        return None if rows else self.mapper

    def _loads_modules(self, file: Path) -> bool:
        """True for a file that makes the application, and so registers modules, outside of any function."""
        return self.entry is not None and not self.entry.factory and self.entry.builder == file

    def _refuse_records(self, records: Sequence[Record]) -> None:
        """Raise Refused for records that the mapper could not keep here: it is in a circle, or knows their names.

        Mapped classes are looked up by their names among all of a site.
        """
        if records and self.mapper is not None and self._loads_modules(self.mapper.file):
            place = self.relative(self.mapper.file)
            raise Refused(
                "mapper-circular",
                f"{place} makes {self.mapper.name} and registers modules as it is loaded: a module that asks it for "
                f"{self.mapper.name} is loaded twice, in a circle.",
                f"Make it in a file of its own, such as extensions.py: {self.mapper.name} = SQLAlchemy(); then in "
                f"{place}: {self.mapper.name}.init_app({self.entry.name if self.entry is not None else 'app'})",
            )
        taken = classes_of_records(self.root) if self.mapper is not None else {}
        for record in records:
            if record.name.camel in taken:
                raise Refused(
                    "record-taken",
                    f"The site has a record {record.name.camel} already, in "
                    f"{self.relative(taken[record.name.camel])}: code that names it would find two.",
                    "Give the record another name, such as one with the module's name before it.",
                )

    def tidied(self, made: Sequence[ChangeSet]) -> list[ChangeSet]:
        """Return change sets that make modules with their Python as the project formats it."""
        return tidied(made, self.root)

    def compose(self, brief: Brief, place: ModuleFolder) -> ChangeSet:
        """Return the change set that makes a module of a brief; ``tidied`` formats it."""
        label = self.label(brief.name)
        self._refuse_records(brief.records)
        return making(self.data, label, free_folder(self.root, place, label), self._generated(brief, None), {})

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module."""
        return formatted(self._generated(brief, last), self.root)

    def _generated(self, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None) -> dict[str, bytes]:
        files = super().generate("", brief, last)
        if brief.endpoints:
            from ...shared.openapi import described

            files["openapi.json"] = described(brief).encode("utf-8")
        return files

    # -- switching ------------------------------------------------------------------------------------------------

    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return the edit that imports and registers a blueprint, and the revision that makes its tables."""
        from .composing.mapped import table_of

        edit = switch_on(self, module, at)
        brief = self.read_brief(module).brief
        mapper = self.mapper_of(self.place(module).label)
        if mapper is not None and not any(mapper.makes(table_of(brief, one)) for one in brief.records):
            self._add_revision(mapper, edit.changes, None, brief)
        return edit

    def placements(self, module: str, before: Brief, after: Brief) -> ChangeSet:
        """Return the revision that leads a module's tables from one brief to another, where it is switched on."""
        changes = super().placements(module, before, after)
        mapper = self.mapper_of(self.place(module).label)
        if mapper is None:
            return changes
        known = {record.name for record in before.records}
        self._refuse_records([record for record in after.records if record.name not in known])
        if any(one.name == module and one.registered for one in self.modules()):
            self._add_revision(mapper, changes, before, after)
        return changes

    def _add_revision(self, mapper: Mapper, changes: ChangeSet, before: Brief | None, after: Brief) -> None:
        from .composing.revisions import revision

        made = revision(self.data, before, after, mapper.head()) if mapper.folder is not None else None
        if made is not None and mapper.folder is not None:
            path = self.relative(mapper.folder / made.file)
            changes.add(path, None, formatted({path: made.text.encode("utf-8")}, self.root)[path])

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return the edit that takes a blueprint's import and registration out."""
        return switch_off(self, module)

    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Make the tables that are not there, by the site's revisions or the modules' own commands."""
        return settle(self, modules)

    def carry_data(
        self, module: str, renaming: Renaming, moves: Mapping[str, str], files: Mapping[str, bytes]
    ) -> dict[str, bytes]:
        """Return no files: tables are renamed in the database; refuses those that the site's revisions lead."""
        from .renaming import refuse_led_by_revisions

        refuse_led_by_revisions(self, module)
        return {}

    carries_state = True

    def carry_state(self, module: str, changed: Identifiers) -> list[StepRun]:
        """Rename the module's tables, then make those that are not there."""
        from .renaming import carry_state

        steps = carry_state(self, module, changed)
        return [*steps, *super().carry_state(module, changed)]

    def start_up(self) -> StartUp:
        """Load the application, and tell whose blueprints it has."""
        from .asking import start_up

        return start_up(self)

    @cached_property
    def kept(self) -> Database:
        """What the running application keeps, and where; raises HostFailed where it does not tell."""
        from .asking import database_of

        return database_of(self)

    @property
    def database(self) -> Path | None:
        """The SQLite file that the running application names, None where it names none; raises HostFailed."""
        return self.kept.file

    def kept_data(self, module: str) -> dict[str, int]:
        """Return the rows of a module's tables."""
        from .dropping import kept_data

        return kept_data(self, module)

    def try_drop(self, module: str) -> None:
        """Try on a copy whether a module's tables can be taken away."""
        from .dropping import try_drop

        try_drop(self, module)

    def save_rows(self, module: str, rows_file: Path) -> int:
        """Write a module's rows and the statements that make their tables to a file."""
        from .dropping import save_rows

        return save_rows(self, module, rows_file)

    def drop_data(self, module: str) -> list[StepRun]:
        """Take a module's tables away."""
        from .dropping import drop

        return drop(self, module)

    def load_rows(self, module: str, rows_file: Path) -> None:
        """Make a module's tables again, and put their rows back."""
        from .dropping import load_rows

        load_rows(self, rows_file)

    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs the site's own server."""
        return [
            str(self.interpreter().path),
            "-m",
            "flask",
            "--app",
            self.said_application,
            "run",
            "--no-reload",
            "--host",
            "127.0.0.1",
            "--port",
            str(port),
        ]

    def serve_environment(self, port: int) -> dict[str, str]:
        """Return what the host's own commands must be told, so that code below ``src`` is found."""
        below = [str(folder) for folder in source_roots(self.root) if folder != self.root]
        said = [one for one in (os.environ.get("PYTHONPATH"),) if one]
        return {"PYTHONPATH": os.pathsep.join([*below, *said])} if below else {}

    @property
    def entry_file(self) -> Path:
        """The file that servers load."""
        return self.entry.file if self.entry is not None else self.root / "wsgi.py"

    @property
    def said_application(self) -> str:
        """What the host's own command takes after ``--app``."""
        return self.entry.said if self.entry is not None else "wsgi"

    def addresses(self, module: str) -> list[str]:
        """Return the addresses of a module's views that need no parameters."""
        from .reading import SiteFiles

        files = SiteFiles(self)
        prefix = files.prefixes.get(module, "")
        paths = [prefix + rule for view in files.views(module) for rule in view.rules]
        return [path for path in dict.fromkeys(paths) if "<" not in path]

    def relative(self, path: Path) -> str:
        """Return a path relative to the root."""
        return path.relative_to(self.root).as_posix() if path.is_relative_to(self.root) else str(path)

    def settings_files(self) -> list[Path]:
        """Return the files that make the application."""
        application = self.application
        return list(dict.fromkeys([application.entry.file, application.path])) if application is not None else []

    def rests_on(self) -> RestsOn:
        """Return the site's folder and the names of what is installed for it."""
        found = self.search.found
        return RestsOn((str(self.root),), tuple(map(str, found.libraries)) if found else ())

    def judge(self, modules: Sequence[str], live: bool, result: SetupCheck) -> Iterable[ModuleCheck]:
        """Yield the check of each module."""
        from .examining import judge

        return judge(self, modules, live, result)

    def nearest_module(self, name: str) -> str:
        """Return a clause that names the module nearest to a name; empty when none is near."""
        found = nearest(name, [one.name for one in self.modules()])
        return said_near(found)
