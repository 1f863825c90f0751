"""Hosts that are read through a view: what their files and state say, read once until something is changed."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable
from functools import cached_property, wraps
from typing import Concatenate, Generic, ParamSpec, Protocol, TypeVar

from ..contract.host import Host

View = TypeVar("View")
Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")
Changed = TypeVar("Changed", bound=Host)


class Named(Protocol):
    """A module as a view knows it."""

    @property
    def name(self) -> str:
        """Its name."""


Module = TypeVar("Module", bound=Named)


class ViewedHost(Host, Generic[View, Module]):
    """A host whose kit says how its files are viewed, and how a module is found in the view."""

    @abstractmethod
    def look(self) -> View:
        """Return a fresh view of the host."""

    @abstractmethod
    def module(self, name: str) -> Module:
        """Return a module of the view by any of its spellings; raises WrongUse naming the nearest."""

    @cached_property
    def view(self) -> View:
        """The host as its files showed it when it was looked at."""
        return self.look()

    def look_again(self) -> None:
        """Forget the view."""
        self.__dict__.pop("view", None)

    def find(self, name: str) -> str:
        """Return the module's name from any of its spellings or its title; raises WrongUse naming the nearest."""
        return self.module(name).name


def work_out(held: object, *names: str) -> None:
    """Work properties out now which are worked out once: before copies of this process are made that all need them."""
    for name in names:
        getattr(held, name)


def changes_state(
    method: Callable[Concatenate[Changed, Arguments], Result],
) -> Callable[Concatenate[Changed, Arguments], Result]:
    """Mark a method that changes what the host keeps: it is looked at anew afterwards, whether it came to its end."""

    @wraps(method)
    def changing(host: Changed, /, *arguments: Arguments.args, **named: Arguments.kwargs) -> Result:
        try:
            return method(host, *arguments, **named)
        finally:
            host.look_again()

    return changing
