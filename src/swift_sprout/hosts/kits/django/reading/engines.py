"""The template engines that the settings set up, with what of each can be told."""

from __future__ import annotations

from pathlib import Path
from typing import Any, NamedTuple

from .settings import UNKNOWN, Settings

#  the host's own loaders (Django 5.2), which look where DIRS and APP_DIRS would have them look
_BY_APP = "django.template.loaders.app_directories.Loader"
_USUAL = {_BY_APP, "django.template.loaders.filesystem.Loader", "django.template.loaders.cached.Loader"}


class TemplateEngine(NamedTuple):
    """One engine of the setting TEMPLATES.

    folders            -- those that it names, as far as they can be told
    app_dirs           -- whether it looks into the modules' own folders; None where that cannot be told
    context_processors -- None where they are no list that can be told
    libraries          -- the names that it gives to libraries of tags; builtins -- those that every template has
    loaders            -- whether it names others than the host's usual loaders
    sure               -- True where everything that it says can be told
    """

    backend: str
    folders: tuple[Path, ...]
    app_dirs: bool | None
    context_processors: tuple[str, ...] | None
    libraries: frozenset[str]
    builtins: tuple[str, ...]
    loaders: bool
    sure: bool


def template_engines(settings: Settings | None) -> list[TemplateEngine]:
    """Return the engines in their order; none where the settings do not say them."""
    value = settings.get("TEMPLATES") if settings is not None else None
    if value is None or not isinstance(value.plain, list):
        return []
    return [_engine(said if isinstance(said, dict) else {None: UNKNOWN}, value.sure) for said in value.plain]


def _engine(said: dict[Any, Any], listed: bool) -> TemplateEngine:
    options = said.get("OPTIONS", {})
    sure = listed and _is_told(said)
    options = options if isinstance(options, dict) else {}
    processors = options.get("context_processors")
    app_dirs = said.get("APP_DIRS", UNKNOWN if None in said else False)
    libraries = options.get("libraries")
    loaders = _loaders(options["loaders"]) if "loaders" in options else None
    if loaders is not None and loaders <= _USUAL:
        app_dirs = _BY_APP in loaders
    return TemplateEngine(
        backend=_text(said.get("BACKEND")),
        folders=tuple(Path(one) for one in _list(said.get("DIRS")) if isinstance(one, str | Path)),
        app_dirs=bool(app_dirs) if listed and app_dirs is not UNKNOWN else None,
        context_processors=tuple(processors) if _is_told(processors) and isinstance(processors, list) else None,
        libraries=frozenset(str(name) for name in libraries) if isinstance(libraries, dict) else frozenset(),
        builtins=tuple(one for one in _list(options.get("builtins")) if isinstance(one, str)),
        loaders=loaders is not None and not loaders <= _USUAL,
        sure=sure,
    )


def _loaders(plain: Any) -> set[str]:
    """Return the names of loaders, those that others hold as well; one that cannot be told has an empty name."""
    found: set[str] = set()
    for one in _list(plain):
        found |= {one} if isinstance(one, str) else _loaders(one) or {""}
    return found


def _is_told(plain: Any) -> bool:
    """False for a value that is unknown, or holds one that is."""
    if isinstance(plain, dict):
        return all(_is_told(one) for one in plain.values())
    if isinstance(plain, list | tuple):
        return all(map(_is_told, plain))
    return plain is not UNKNOWN


def _list(plain: Any) -> list[Any]:
    return list(plain) if isinstance(plain, list | tuple) else []


def _text(plain: Any) -> str:
    return plain if isinstance(plain, str) else ""
