"""Named tuples that are defined in a tenth of the time.

``typing.NamedTuple`` looks at every annotation and compiles a ``__new__`` for every class, whether one of it is ever
made or not. Making a module imports some forty such classes: that was a tenth of the whole run. Here a class compiles
its ``__new__`` when many of it are made. Type checkers see the standard library's, and it behaves as that does.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__all__ = ["NamedTuple"]

if TYPE_CHECKING:
    from typing import NamedTuple
else:
    try:  # what the standard library's own named tuples use, where there is one
        from _collections import _tuplegetter as field_getter
    except ImportError:
        from operator import itemgetter

        def field_getter(index: int, doc: str) -> property:
            """Return what reads the field at an index."""
            return property(itemgetter(index), doc=doc)

    WORTH_COMPILING = 25  # a ``__new__`` of its own costs as much as that many without
    _made: dict[type, int] = {}

    class _Defining(type):
        """Makes the fields of a class from its annotations, and their defaults from what is set beside them."""

        def __new__(meta, name: str, bases: tuple[type, ...], members: dict[str, Any]) -> type:
            if bases != (tuple,) and NamedTuple in bases:
                fields = tuple(members.get("__annotations__", ()))
                members["_field_defaults"] = {field: members[field] for field in fields if field in members}
                members.update(__slots__=(), _fields=fields, __match_args__=fields)
                for index, field in enumerate(fields):
                    members[field] = field_getter(index, field)
            return type.__new__(meta, name, bases, members)

    class NamedTuple(tuple, metaclass=_Defining):
        """Base of a class that lists its fields as annotations, with their defaults."""

        __slots__ = ()

        def __new__(cls, /, *values: Any, **named: Any) -> Any:
            """Make one of its fields, given by place and by name; compile what does so when many are made."""
            made = _made[cls] = _made.get(cls, 0) + 1
            if made < WORTH_COMPILING:
                rest = cls._fields[len(values) :]
                given = cls._field_defaults | named
                if len(values) + len(rest) == len(cls._fields) and named.keys() <= set(rest) <= given.keys():
                    return tuple.__new__(cls, (*values, *[given[field] for field in rest]))
            names = ", ".join(cls._fields)
            compiled = eval(f"lambda cls, {names}: new(cls, ({names},))", {"new": tuple.__new__})
            compiled.__name__, compiled.__defaults__ = "__new__", tuple(cls._field_defaults.values())
            cls.__new__ = compiled
            return compiled(cls, *values, **named)

        def _replace(self, /, **values: Any) -> Any:
            made = tuple.__new__(type(self), map(values.pop, self._fields, self))
            if values:
                raise ValueError(f"no such fields: {', '.join(values)}")
            return made

        def _asdict(self) -> dict[str, Any]:
            return dict(zip(self._fields, self, strict=True))

        def __repr__(self) -> str:
            return f"{type(self).__name__}({', '.join(f'{name}={value!r}' for name, value in self._asdict().items())})"

        def __getnewargs__(self) -> tuple[Any, ...]:
            return tuple(self)
