"""The rules: each is a function from a module under examination to its findings."""

from . import classes, data, finding, manifest, rights, routes, serving

STATIC = (
    finding.entry_points,
    finding.package,
    manifest.manifest,
    manifest.lists,
    manifest.needs,
    manifest.state,
    classes.files,
    classes.listed,
    classes.unlisted,
    classes.names,
    classes.fields,
    classes.setup,
    classes.messages,
    data.files,
    data.ids,
    data.references,
    data.models,
    data.views,
    data.actions,
    data.jobs,
    data.catalogues,
    data.samples,
    routes.routes,
    routes.conflicts,
    routes.writers,
    routes.templates,
    rights.access,
    rights.groups,
    rights.menus,
    serving.servers,
)
LIVE = (serving.stopped, serving.tables, serving.views, serving.menus, serving.routes, serving.pages)
