"""``swift-sprout completion``."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ...actions.hosting import open_host
from ...core.errors import SproutError
from .. import options as shared
from .. import output

if TYPE_CHECKING:
    from ...core.hostfacts import ModuleState

SHELLS = ("bash", "zsh", "fish")
EXAMPLE = """examples:
  swift-sprout completion bash > ~/.local/share/bash-completion/completions/swift-sprout
  swift-sprout completion zsh > "${fpath[1]}/_swift-sprout"
  swift-sprout completion fish > ~/.config/fish/completions/swift-sprout.fish

`completion modules` prints the names of the nearest host's modules, from its files: the completions ask for them."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("what", metavar="SHELL", choices=(*SHELLS, "modules"), help="bash, zsh, fish; or modules")
    parser.add_argument(
        "--begun", metavar="WORD", help="only modules of which a spelling begins so, as in tide-b or TideB"
    )
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    if options.what == "modules":
        return _modules(options)
    from .. import completing
    from ..describing import described

    script: str = getattr(completing, options.what)(described())
    if output.wants_json(options):
        output.document({"format": "swift-sprout/completion/1", "shell": options.what, "script": script})
    else:
        print(script, end="")
    return 0


def _spellings(module: ModuleState) -> tuple[str, ...]:
    return module.name, module.name.rpartition(".")[2], module.title


def _letters(spelling: str) -> str:
    """Return what all spellings of a name share: its letters and digits, in one case."""
    return "".join(letter for letter in spelling.lower() if letter.isalnum())


def _modules(options: argparse.Namespace) -> int:
    """Print the modules' names; nothing where there is no host, for nobody reads an error while they type."""
    try:
        modules = open_host(shared.host_choice(options)).host.modules()
        begun = _letters(options.begun or "")
        names = [one.name for one in modules if any(_letters(said).startswith(begun) for said in _spellings(one))]
    except SproutError:
        names = []
    if output.wants_json(options):
        output.document({"format": "swift-sprout/modules/1", "modules": names})
    elif names:
        print(" ".join(names))
    return 0
