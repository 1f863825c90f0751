"""Properties that are worked out once for each object."""

from __future__ import annotations

from typing import TYPE_CHECKING

__all__ = ["cached_property"]

if TYPE_CHECKING:
    from functools import cached_property
else:
    import sys

    if sys.version_info >= (3, 12):
        from functools import cached_property
    else:

        class cached_property:
            """The standard library's without its lock, as it is from Python 3.12 on: most of the time went there."""

            def __init__(self, work):
                self.work = work
                self.__doc__ = work.__doc__

            def __set_name__(self, owner, name):
                self.name = name

            def __get__(self, one, owner=None):
                if one is None:
                    return self
                found = one.__dict__[self.name] = self.work(one)
                return found
