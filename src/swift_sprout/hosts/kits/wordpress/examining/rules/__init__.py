"""The rules, in the order of the rungs; each is a function that yields findings of one module.

What a compiler says of the files is beside them (``code.syntax``): it may be known later than all else.
"""

from __future__ import annotations

from . import code, header, places, rights, routes, serving, state

STATIC = (
    header.seen,
    header.header,
    header.requirements,
    code.includes,
    code.classes,
    code.callbacks,
    code.begun,
    code.activation,
    code.prints,
    code.names_twice,
    state.statements,
    routes.rules,
    routes.endpoints,
    rights.endpoints,
    rights.unchecked,
    places.menu_hooks,
    places.settings_hooks,
    places.blocks,
    places.assets,
    places.catalogues,
    serving.templates,
)
LIVE = (
    header.old_php,
    header.needs_that_are_off,
    code.loading,
    state.enabled,
    state.tables,
    state.rights,
    routes.saved,
    routes.known_endpoints,
    rights.capabilities,
    rights.guards,
    rights.turned_away,
    places.placed,
    serving.pages,
)
