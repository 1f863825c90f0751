"""Found, described, registered, compatible: what the files alone tell."""

from __future__ import annotations

from collections.abc import Iterator

from .....core.findings import Finding
from .....core.nearest import nearest
from ..examination import Examination


def folder_name(one: Examination) -> Iterator[Finding]:
    """A folder that cannot be imported."""
    name = one.module.folder.name
    if not name.isidentifier():
        suggestion = "".join(letter if letter.isalnum() else "_" for letter in name)
        yield one.find("found.folder-name", one.module.folder, folder=name, suggestion=suggestion)


def description(one: Examination) -> Iterator[Finding]:
    """The config class in apps.py disagrees with the package, or does not parse."""
    path = one.module.folder / "apps.py"
    source = one.view.project.parse(path)
    if source is None:
        return
    if source.broken:
        yield one.find("described.broken", path, source.broken.line, reason=source.broken.reason)
        return
    for config in one.module.configs:
        said, line = config.values.get("name", ("", config.line))
        if isinstance(said, str) and said and said != one.module.name:
            yield one.find("described.name-disagrees", path, line, said=said)
    entry = one.view.entry_of(one.module)
    plain = entry is None or entry.value == one.module.name
    if len(one.module.configs) > 1 and one.module.config is None and plain:
        yield one.find("described.several-configs", path, one.module.configs[1].line, count=len(one.module.configs))


def registration(one: Examination) -> Iterator[Finding]:
    """The module's entry in INSTALLED_APPS: missing, doubled, conditional, or naming a class that is not there."""
    view, module = one.view, one.module
    settings = view.settings
    mine = [
        entry for entry in view.listed if entry.value == module.name or entry.value.startswith(f"{module.name}.apps.")
    ]
    if not mine:
        value = settings.get("INSTALLED_APPS") if settings else None
        if value is not None and not value.sure and one.live is not None and one.registered_as is not None:
            return  # listed in a way that reading cannot tell; the running host has it
        where = value.literals[-1] if value is not None and value.literals else None
        file = where.file if where else (settings.path if settings and settings.path else "")
        line = where.node.lineno if where else 0
        yield one.find("registered.not-listed", file or "", line)
        return
    certain = [entry for entry in mine if not entry.conditional]
    if not certain:
        yield one.find("registered.listed-conditionally", mine[0].file, mine[0].line)
    elif len(certain) > 1:
        yield one.find("registered.listed-twice", certain[1].file, certain[1].line, count=len(certain))
    for entry in mine:
        _, apps, name = entry.value.partition(".apps.")
        if apps and name not in {config.name for config in module.configs} and module.has("apps.py"):
            there = ", ".join(f"{module.name}.apps.{config.name}" for config in module.configs) or "none"
            yield one.find(
                "registered.class-absent",
                entry.file,
                entry.line,
                entry=entry.value,
                name=name,
                file_name=view.relative(module.folder / "apps.py"),
                there=there,
            )


def label(one: Examination) -> Iterator[Finding]:
    """Two listed modules with one label."""
    if one.view.entry_of(one.module) is None:
        return
    for other in one.view.listed:
        theirs = other.value.partition(".apps.")[0]
        module = one.view.module(theirs)
        label = module.label if module else theirs.rpartition(".")[2]
        if theirs != one.module.name and label == one.module.label:
            config = one.module.config
            line = config.values["label"][1] if config and "label" in config.values else (config.line if config else 0)
            yield one.find("compatible.label-taken", one.module.folder / "apps.py", line, other=theirs)


def needs(one: Examination) -> Iterator[Finding]:
    """Modules that the brief says it needs."""
    view = one.view
    labels = {module.label: module for module in view.modules} | {module.name: module for module in view.modules}
    listed = {entry.value.partition(".apps.")[0] for entry in view.listed}
    listed |= {name.rpartition(".")[2] for name in listed}
    for need in one.module.brief.get("module", {}).get("needs") or []:
        if need in labels:
            if view.entry_of(labels[need]) is None:
                yield one.find("compatible.need-off", one.module.folder / "sprout.toml", need=need)
        elif need not in listed:
            match = nearest(need, [*labels, *listed])
            near = f" (nearest here: {match})" if match else ""
            yield one.find("compatible.need-absent", one.module.folder / "sprout.toml", need=need, nearest=near)


def host_version(one: Examination) -> Iterator[Finding]:
    """A host version that the rules were not checked on."""
    data, version = one.view.data, one.view.version
    if version and not data.in_range(version):
        yield one.find("compatible.host-version", host=data.title, version=version, range=data.raw["works"])


RULES = (folder_name, description, registration, label, needs, host_version)
