"""The interpreter of a host that Python runs, and what kits of such hosts say of it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ...core.errors import HostFailed
from ...running.interpreter import Interpreter, Search, find_interpreter

if TYPE_CHECKING:
    from ..contract.kit import HostOptions
    from ..contract.kitdata import KitData

INSIDE = Path(__file__).parent / "inside"  # what probes import in the host's own interpreter


class PythonFacts(NamedTuple):
    """``[python]``: what kits of hosts that Python runs say beside.

    package      -- what is imported of the host
    distribution -- the name under which it is installed
    beside       -- further packages that its modules are written against
    environments -- folders of environments beside the host, the first that fits
    """

    package: str
    distribution: str
    beside: tuple[str, ...] = ()
    environments: tuple[str, ...] = (".venv", "venv", "env")


def found_interpreter(search: Search, data: KitData) -> Interpreter:
    """Return the interpreter that was found for a host; raises HostFailed when there is none, with what was tried."""
    if search.found is not None:
        return search.found
    file = data.facts.recognise.file
    tried = "; ".join(search.tried) or f"no environment is active, and none lies beside {file}"
    raise HostFailed(
        "no-interpreter",
        f"No interpreter with {data.title} was found for this host: {tried}.",
        "Name one with --runtime PATH (a program or an environment's folder).",
    )


def demo_interpreter(data: KitData, options: HostOptions) -> Interpreter:
    """Return an interpreter that has a kit's host; raises HostFailed when there is none."""
    python = data.section(PythonFacts)
    search = find_interpreter(options.runtime, Path.cwd(), python.package, python.environments)
    if search.found is None:
        raise HostFailed(
            "no-interpreter",
            f"The demo needs an interpreter with {data.title} {data.checked[-1]}.",
            f"Run `make demo HOST={data.id}`, which makes one, or name one with --runtime PATH.",
        )
    return search.found


def own_code(found: Interpreter | None, data: KitData) -> list[Path]:
    """Return the folders of the packages that a host's modules are written against, as an interpreter has them."""
    python = data.section(PythonFacts)
    libraries = found.libraries if found is not None else ()
    places = (folder / name for folder in libraries for name in (python.package, *python.beside))
    return [place for place in places if place.is_dir()]
