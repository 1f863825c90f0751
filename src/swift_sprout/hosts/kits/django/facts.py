"""``[django]``: what kits of hosts that Django carries say beside what every kit says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Literal, NamedTuple

from ...contract.kitfacts import NOTHING

if TYPE_CHECKING:
    from ...contract.kitdata import KitData


class FieldType(NamedTuple):
    """A type of field: how models, migrations, forms and tests write it.

    field_class   -- the class of the model field
    example       -- a value for the module's tests, as code
    arguments     -- of the class, with sizes in braces
    in_migrations -- the arguments in a migration, where they differ
    optional      -- how an optional one is kept: as an empty text, as no value, or as no value already
    filler        -- what rows get that are there before the field is added, as code
    as_html       -- the value of a template that draws it; empty: as it is
    label         -- the keyword under which it takes its label, where that is not the first argument
    needs_last_of -- the app whose last migration it needs
    """

    field_class: str
    example: str
    arguments: tuple[str, ...] = ()
    in_migrations: tuple[str, ...] | None = None
    optional: Literal["blank", "null", "null already"] = "null"
    filler: str = ""
    as_html: str = ""
    label: str = ""
    needs_last_of: str = ""


class Event(NamedTuple):
    """What a neutral event is on the host.

    signal -- the dotted name of the signal
    gives  -- what it gives to a listener
    tells  -- what the made listener writes to the log: a format and its values, as code
    """

    signal: str
    gives: tuple[str, ...]
    tells: str


class Inclusion(NamedTuple):
    """A way in which the root addresses take in a module.

    line    -- the element of ``urlpatterns``
    imports -- what it needs imported
    config  -- bases of config classes that it is for; none: any
    """

    line: str
    imports: tuple[str, ...]
    config: tuple[str, ...] = ()


class TemplateBlock(NamedTuple):
    """A template and one of its blocks.

    template -- the template's name
    block    -- the block's name
    """

    template: str
    block: str


class PageTypes(NamedTuple):
    """What types of pages are made of.

    pointer         -- the field that leads to the host's page, in a migration
    bases           -- their bases, in a migration
    needs_last_of   -- the app whose last migration they need
    reserved_fields -- fields that every page has
    """

    pointer: str
    bases: str
    needs_last_of: str
    reserved_fields: tuple[str, ...]


class SettingsRecord(NamedTuple):
    """The record of a module's settings, on hosts that have a form of their own for it.

    file     -- the file of its own that it stands in, without ending
    extra    -- the field that the host wants in each, in a migration
    field    -- the name of that field
    needs_last_of -- the app whose last migration it needs
    """

    file: str = ""
    extra: str = ""
    field: str = ""
    needs_last_of: str = ""


class ProbeScript(NamedTuple):
    """The kit's own probe.

    script -- the file below the kit's folder
    steps  -- what it asks beside the steps of Django's
    """

    script: str
    steps: tuple[str, ...] = ()


class DjangoFacts(NamedTuple):
    """What such a kit says.

    include         -- the ways in which the root addresses take in a module; the first that fits
    fields          -- the types of fields that modules carry
    events          -- what the neutral events are
    settle          -- console commands that are called whenever a module is settled; `{label}` stands for the module
    samples         -- console commands that load a module's samples
    catch_all       -- url configurations behind which no address is reached
    layout          -- the layout that all modules have
    places          -- places for blocks that only the host's own templates have, which are laid over
    homes           -- addresses that send on, with where to
    front_templates -- names of front pages' templates
    page_type       -- what types of pages are made of
    pieces          -- the pieces of structured content, as code
    imports         -- texts in the code of fields, with the import that each needs
    settings        -- the record of settings, where the host has a form of its own for it
    probe           -- a probe script of the kit's own
    content         -- the script that takes and puts content, below the kit's folder
    host_apps       -- the package of the host's own apps, which modules may override
    """

    include: tuple[Inclusion, ...]
    fields: Mapping[str, FieldType]
    events: Mapping[str, Event]
    settle: tuple[str, ...] = ()
    samples: tuple[str, ...] = ()
    catch_all: tuple[str, ...] = ()
    layout: TemplateBlock | None = None
    places: Mapping[str, TemplateBlock] = NOTHING
    homes: Mapping[str, str] = NOTHING
    front_templates: tuple[str, ...] = ()
    page_type: PageTypes | None = None
    pieces: Mapping[str, str] = NOTHING
    imports: Mapping[str, str] = NOTHING
    settings: SettingsRecord | None = None
    probe: ProbeScript | None = None
    content: str = ""
    host_apps: str = ""


def django(data: KitData) -> DjangoFacts:
    """Return what a kit of a host that Django carries says beside what every kit says."""
    return data.section(DjangoFacts)
