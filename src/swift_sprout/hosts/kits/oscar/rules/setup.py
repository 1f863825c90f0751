"""What the host itself must have for the modules of a shop: where it is absent, modules fail in ways that mislead."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...django.reading.engines import template_engines
from ..facts import oscar
from .reading import is_shop_config, line_with

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


def settings(exam: Examination) -> Iterator[Finding]:
    """Middleware, context processors and a search engine that the shop's own templates and views rest on."""
    if not is_shop_config(exam) or exam.view.settings is None or exam.view.settings.path is None:
        return
    path = exam.view.settings.path
    own = oscar(exam.view.data)
    middleware = exam.view.settings.get("MIDDLEWARE")
    if middleware is not None and isinstance(middleware.plain, list) and middleware.sure:
        for name in own.middleware:
            if name not in middleware.plain:
                line = line_with(path, "MIDDLEWARE")
                yield exam.find("compatible.middleware-absent", path, line, name=name)
    for engine in template_engines(exam.view.settings):
        for name in own.context_processors if engine.context_processors is not None else ():
            if name not in (engine.context_processors or ()):
                line = line_with(path, "context_processors")
                yield exam.find("compatible.context-processor-absent", path, line, name=name)
    if exam.view.settings.get("HAYSTACK_CONNECTIONS") is None:
        yield exam.find("compatible.search-engine-absent", path, 0)


def languages(exam: Examination) -> Iterator[Finding]:
    """The addresses that change the language, which the shop's layout always names."""
    if not is_shop_config(exam) or not exam.view.root_urls:
        return
    conf = exam.view.addresses.file(exam.view.root_urls)
    if conf is None or not conf.routes:
        return
    wanted = oscar(exam.view.data).languages
    source = exam.view.project.parse(conf.path)
    text = source.source.text if source is not None and source.source is not None else wanted
    if wanted not in text and "set_language" not in text and "i18n.urls" not in text:
        yield exam.find("compatible.languages-absent", conf.path, conf.routes[0].line, wanted=wanted)


RULES = (settings, languages)
