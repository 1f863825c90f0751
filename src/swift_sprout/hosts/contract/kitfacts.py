"""What every kit says in its ``kit.toml``, key by key; the page on kits is made from the texts below."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, Literal, NamedTuple

from ...core.parts.own import OwnKind
from ...core.refresh import RefreshRule

NOTHING: Mapping[str, Any] = MappingProxyType({})
TEXTS = (".html", ".xml", ".toml", ".json", ".yaml", ".cfg", ".ini", ".po", ".css", ".js", ".txt", ".md")
SKIPPED = ("__pycache__", "site-packages", "node_modules", "media")


class FileSign(NamedTuple):
    """A file by which the root of a host is known.

    file  -- its name, or a pattern of files
    holds -- text that it must hold
    """

    file: str
    holds: str


class Recognise(NamedTuple):
    """How the root of a host is known.

    file   -- the file that it holds, or a pattern of such files
    unless -- a file that a root never holds, such as the marker of a package
    others -- further files by which it is known, each with what it must hold
    holds  -- text that the file must hold
    within -- patterns of further files, one of which must hold `says`
    says   -- that text
    """

    file: str
    holds: str = ""
    within: tuple[str, ...] = ()
    says: str = ""
    unless: str = ""
    others: tuple[FileSign, ...] = ()


class Naming(NamedTuple):
    """The law for names of modules.

    pattern             -- regular expression for the internal name
    longest             -- characters that there is room for
    spelling            -- the member of the name family that is the internal name
    taken               -- names that the host keeps for itself
    reserved_fields     -- names that no field can have
    reserved_records    -- names that no record can have
    reserved_parameters -- names that no parameter of an address can have
    means_module        -- patterns of code in which a name can only mean its module; `{label}` stands for its internal
                           name, `{camel}` for the same in joined capitals
    joined_after        -- patterns of code behind which the words of a name stand in small letters with nothing between
                           them; `{mark}` stands for another name
    record_identifiers  -- by what the host's database knows a record of a module, where a refresh can rename that:
                           `{module}` and `{record}` stand for their names
    kept_files          -- patterns of files that the host remembers by name: outside of a module they are never
                           renamed, and what records are called in them stays
    named_files         -- files of a module that bear its name, for a name of one word; `{label}` stands for it
    """

    pattern: str
    longest: int
    spelling: Literal["snake", "kebab", "camel", "lower_camel"]
    taken: tuple[str, ...] = ()
    reserved_fields: tuple[str, ...] = ()
    reserved_records: tuple[str, ...] = ()
    reserved_parameters: tuple[str, ...] = ()
    means_module: tuple[str, ...] = ()
    joined_after: tuple[str, ...] = ()
    kept_files: tuple[str, ...] = ()
    named_files: tuple[str, ...] = ()
    record_identifiers: tuple[str, ...] = ()


class MadeFile(NamedTuple):
    """A file of a module that a template makes.

    template -- its name below `templates/`
    writes   -- where it goes, below the module's folder
    why      -- what it is for
    when     -- a value that must hold; empty: always
    each     -- a list of which every entry makes a file; empty: one file
    """

    template: str
    writes: str
    why: str
    when: str = ""
    each: str = ""


class Sources(NamedTuple):
    """The files that modules are written in.

    code -- endings of code, such as `.py`; texts of other kinds are known
    skip -- folders of the host's own, or of what is installed or made there, in which nobody writes
    """

    code: tuple[str, ...] = ()
    skip: tuple[str, ...] = ()

    @property
    def endings(self) -> tuple[str, ...]:
        """The endings of all files that people write."""
        return (*self.code, *TEXTS)

    @property
    def skipped(self) -> frozenset[str]:
        """The names of all folders in which nobody writes."""
        return frozenset((*self.skip, *SKIPPED))


class OwnTests(NamedTuple):
    """The tests that a module brings.

    folder  -- where they are made
    by_hand -- files or folders that show that somebody wrote tests by hand
    command -- what runs them in the host's root: `{runtime}`, `{module}`, `{folder}` of the module, `{above}` of that;
               empty where nothing is known that does
    failed_at -- regular expression for a place in what failed tests print, with the groups `file` and `line`
    variables -- of the environment for that command
    runner    -- what runs them, for people
    apart     -- true where the runner gives tests a database of their own, so that they can be run in the host itself
    recorded  -- what runs those of many modules and records each test: `{modules}` and `{folders}` are their names and
                 folders, a word each, `{recorder}` is what records; `{runtime}` and `{above}` as in `command`
    pytest_needs -- packages without which pytest cannot run tests of such a host
    """

    folder: str = ""
    by_hand: tuple[str, ...] = ()
    command: tuple[str, ...] = ()
    failed_at: str = ""
    variables: Mapping[str, str] = NOTHING
    runner: str = ""
    apart: bool = False
    recorded: tuple[str, ...] = ()
    pytest_needs: tuple[str, ...] = ()


class FurtherScene(NamedTuple):
    """What the demo tells beside the story of all kits.

    brief   -- the brief in the demo world
    says    -- what is told when it is made
    asks    -- what is told when it is checked
    samples -- what is told when its samples are loaded; empty for none
    content -- what is told when its content is taken; empty for none
    """

    brief: str
    says: str
    asks: str
    samples: str = ""
    content: str = ""


class Demo(NamedTuple):
    """What the demo shows beside the story of all kits.

    further -- further modules
    """

    further: tuple[FurtherScene, ...] = ()


class Program(NamedTuple):
    """The program that runs the host, where it is no interpreter of Python.

    name         -- its name on the path
    version      -- the words that make it print its version
    version_text -- regular expression whose first group is the version in what it prints
    needs        -- the versions that work, such as `>=20`; empty for any
    install      -- how to get it, as a sentence
    """

    name: str
    version: tuple[str, ...] = ("--version",)
    version_text: str = r"(\d+(?:\.\d+)*)"
    needs: str = ""
    install: str = ""


class LeftOut(NamedTuple):
    """What an archive goes without.

    leave_out -- patterns of paths
    """

    leave_out: tuple[str, ...] = ()


class SandboxCopy(NamedTuple):
    """How a host is copied into a sandbox.

    leave_out -- paths that the copy goes without
    link      -- names of folders of installed dependencies: the copy links to the host's own, which it only reads
    """

    leave_out: tuple[str, ...] = ()
    link: tuple[str, ...] = ("node_modules",)


class KitFacts(NamedTuple):
    """What every kit says.

    format          -- `"swift-sprout/kit/1"`
    id              -- the word that `--kit` takes
    title           -- the name for people
    sort            -- the sort of host
    checked         -- versions that the tests run
    works           -- the range of versions such as `>=8.2,<8.3`; outside of it `survey` says that rules are unsure
    needs           -- what must be there, in words
    limits          -- what is not supported, and what is peculiar, in words
    about           -- paragraphs for the kit's page: what commands do on this host
    recognise       -- how the root of a host is known
    naming          -- the law for names of modules
    parts           -- each part that modules can carry, with what it becomes
    rungs           -- what each rung means on this host
    file            -- the files of a module that templates make
    builds_on       -- the id of one of our own kits: its data, rules, templates and demo world hold as well, where this
                       kit says nothing else; tables are joined, a `[[file]]` that writes the same takes the other's
                       place, `[[refresh]]` comes first. Of two kits that recognise a folder, the one that builds on
                       another is taken
    instead         -- for parts that modules cannot carry: the nearest thing, as a sentence
    then            -- what is left to do by hand after a part was made
    refresh         -- which refresh a change of a file asks for; the first that fits counts
    made_with       -- by patterns of files: files that are made with them where a module never had them
    sources         -- the files that modules are written in
    own_tests       -- the tests that a module brings
    made_once       -- patterns of files that are never made again
    other_files     -- patterns of files made by other means, with what they are for
    modules_folder  -- where modules lie, for hosts that use `BaseHost`
    brief_alone     -- facts of a module that stay in its brief, for its files have no place for them: some of `author`,
                       `group`, `licence`, `owner`
    settings_variable -- the environment variable in which a host is told its settings, for `--settings`
    reading_runs    -- true where the program that runs the host reads its files too, as a compiler: even a check of the
                       files alone starts it then
    addresses_apart -- true where modules have addresses of their own, so that two may say the same path
    demo            -- what the demo shows
    pack            -- what is left out of a module's archive; without it, hosts of the kind take no archives
    sandbox         -- how the host is copied into a sandbox
    program         -- the program that runs the host, for hosts that use `BaseHost`
    escapes         -- by the ending of a made file: the syntax that its values are spelled in, one of `html`, `ini`,
                       `json`, `php`, `python`, `script`, `sql`, `xml`
    merges          -- by the ending of a file: how a change is carried into it, one of `catalogue`, `ini`, `json`,
                       `lines`, `python`, `xml`
    own_part        -- by their names: kinds of parts that only this kit has
    follows         -- codes of the kit below, each with codes that explain it away here
    """

    format: str
    id: str
    title: str
    sort: str
    checked: tuple[str, ...]
    works: str
    needs: tuple[str, ...]
    recognise: Recognise
    naming: Naming
    parts: Mapping[str, str]
    rungs: Mapping[str, str]
    file: tuple[MadeFile, ...]
    limits: str = ""
    about: tuple[str, ...] = ()
    builds_on: str = ""
    instead: Mapping[str, str] = NOTHING
    then: Mapping[str, str] = NOTHING
    refresh: tuple[RefreshRule, ...] = ()
    made_with: Mapping[str, tuple[str, ...]] = NOTHING
    sources: Sources = Sources()
    own_tests: OwnTests = OwnTests()
    made_once: tuple[str, ...] = ()
    other_files: Mapping[str, str] = NOTHING
    modules_folder: str = "."
    brief_alone: tuple[str, ...] = ()
    settings_variable: str = ""
    reading_runs: bool = False
    addresses_apart: bool = False
    demo: Demo = Demo()
    pack: LeftOut | None = None
    sandbox: SandboxCopy = SandboxCopy()
    program: Program | None = None
    escapes: Mapping[str, Literal["html", "ini", "json", "php", "python", "script", "sql", "xml"]] = NOTHING
    merges: Mapping[str, Literal["catalogue", "ini", "json", "lines", "python", "xml"]] = NOTHING
    own_part: Mapping[str, OwnKind] = NOTHING
    follows: Mapping[str, tuple[str, ...]] = NOTHING
