"""Records that have another name: what people wrote takes it on, in the module and where other files import it."""

from __future__ import annotations

import re

from ..core.brief import BRIEF_FILE, Brief, brief_from_toml
from ..core.brieftext import brief_text
from ..core.made import MADE_FILE
from ..core.parts.records import Record
from ..core.parts.renamed import renamed_records
from ..core.patterns.origin import ORIGIN_FILE
from ..core.plurals import number_of
from ..core.renaming.briefs import rename_in_brief
from ..core.renaming.contents import LARGEST_BYTES
from ..core.renaming.records import RenamedRecords, record_renaming
from ..disk.walking import written_files
from .merging import Refreshed
from .modulefiles import ModuleOnDisk
from .naming import family_of, is_in, other_families
from .patterns.store import joined_after


def names_of_records(module: ModuleOnDisk, before: Brief, brief: Brief) -> RenamedRecords:
    """Return what the records that a brief names otherwise are called in the module's files now."""
    pairs = renamed_records(before.records, brief.records)
    facts = module.opened.kit.data.facts
    if not pairs:
        return RenamedRecords((), (), {}, {})
    renamed = before
    for old, new in pairs:
        renamed = _with_name(renamed, old, new)
    host = module.opened.host
    others = [family_of(module), *other_families(module)]
    for one in (*before.records, *brief.records):
        if all(one.name.words not in (old.name.words, new.name.words) for old, new in pairs):
            others.append(one.name)
    made, made_now = host.generate(module.name, before), host.generate(module.name, renamed)
    label = module.name.rpartition(".")[2]
    joined = joined_after(module.opened, re.escape(label))
    return RenamedRecords(pairs, others, made, made_now, module.folder, facts.naming.kept_files, label, joined)


def _with_name(brief: Brief, old: Record, new: Record) -> Brief:
    """Return a brief with one of its records renamed, and nothing else."""
    renaming = record_renaming(old, new, ())
    text = rename_in_brief(brief_text(brief), BRIEF_FILE, renaming).text
    named = brief_from_toml(text, BRIEF_FILE)
    records = tuple(one._replace(plural_title=new.plural_title) if one.key == new.key else one for one in named.records)
    return named._replace(records=records)


def carry_names(module: ModuleOnDisk, names: RenamedRecords, result: Refreshed) -> None:
    """Bring the new names of records into files that nothing was merged into, and into those that import them."""
    if not names:
        return
    opened, changes = module.opened, result.changes
    facts = opened.kit.data.facts
    label = re.escape(module.name.rpartition(".")[2])
    camel = re.escape(family_of(module).camel)
    names_module = re.compile(rf"(?<![\w-])(?:{label}|{camel})(?![\w-])")
    made = {change.path for change in changes.changes}
    left: dict[str, int] = {}
    for file in written_files(opened.host.root, facts.sources.skipped, (*facts.sandbox.leave_out,)):
        inside = is_in(file.path, module.folder)
        own = file.path.removeprefix(f"{module.folder}/") if inside else ""
        if file.size > LARGEST_BYTES or file.path in made or own in (BRIEF_FILE, MADE_FILE, ORIGIN_FILE):
            continue
        content = file.read()
        if inside:
            after, doubtful = names.changed(own, content, file.path.endswith(facts.sources.code))
        else:
            after, doubtful = names.elsewhere(file.path, content, names_module)
        changes.add(file.path, content, after)
        if inside and doubtful:
            left[file.path] = len(doubtful)
    for path, times in left.items():
        result.left.append(f"{path} holds the old name in {number_of(times, 'place')} that may be common words")
