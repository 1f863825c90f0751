"""Loops over the posts of a page."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...reading.syntax import line_of, parsed, text_of, walk

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_CALLED = re.compile(r"(\w+)\s*\(")
#  what takes the next post, or loads a file that may do it
_GOES_ON = (
    *("the_post", "next_post", "get_template_part", "load_template", "include", "require", "break", "return"),
    *("->", "::"),
)


def endless(exam: Examination) -> Iterator[Finding]:
    """Loops that ask whether there is a post and never take one."""
    for file in exam.module.files_saying(("have_posts",)):
        for node in walk(parsed(file.content).root_node):
            if node.type != "while_statement":
                continue
            asks, body = text_of(node.child_by_field_name("condition")), text_of(node.child_by_field_name("body"))
            calls = _CALLED.findall(body)
            own = any(name.lower() in exam.module.functions for name in calls)
            if "have_posts" in asks and not own and not any(word in asks + body for word in _GOES_ON):
                yield exam.find("served.loop-endless", file.path, line_of(node))
