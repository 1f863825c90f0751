"""What was taken out of a host is out only when the running host says so; else everything is taken back."""

from __future__ import annotations

from collections.abc import Callable

from ..core.errors import Refused
from ..hosts.contract.exchange import Edit
from .hosting import OpenHost


def confirm_out(
    opened: OpenHost, module: str, edit: Edit, take_back: Callable[[], object], redo: Callable[[], object]
) -> list[str]:
    """Ask the host to start without a module that was just taken out; returns what is to be told beside.

    take_back -- puts everything back as it was; redo -- takes the module out again

    Raises Refused, with everything taken back, where the host still has the module, or does not start as it did with
    it, and where neither files nor host can tell. A host that did not start before either is no reason to refuse:
    perhaps this module is why.
    """
    try:
        after = opened.host.start_up()
    except BaseException:  # it could not even be asked, or somebody has interrupted that: nothing is proven
        take_back()
        raise
    if not after.asked:
        if edit.unsure:
            take_back()
            raise Refused(
                "registration-unsure",
                f"{module} cannot be taken out safely: the files do not tell whether it is registered, and nothing "
                "here runs the host; nothing was changed.",
                "Name its interpreter with --runtime PATH, or take out by hand what is listed.",
                tuple(edit.unsure),
            )
        return ["the host was not asked whether it still starts: nothing here runs it"]
    if module in after.modules:
        take_back()
        raise Refused(
            "still-registered",
            f"The running host still has {module}: it is registered in a way that reading cannot tell. Everything was "
            "taken back.",
            "Take out by hand what registers it, then run this again.",
            tuple(edit.unsure),
        )
    if not after.failures:
        return []
    take_back()
    before = opened.host.start_up()
    new = [one for one in after.failures if one not in before.failures]
    if new:
        raise Refused(
            "host-stops",
            f"Without {module} the host does not start as it did: {new[0]}. Everything was taken back.",
            "Fix what still needs the module first.",
        )
    redo()
    return [f"the host does not start as it should, with the module or without it: {after.failures[0]}"]
