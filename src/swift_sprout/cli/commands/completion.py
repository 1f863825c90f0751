"""``swift-sprout completion``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...core.errors import SproutError
from .. import options as shared
from .. import output

SHELLS = ("bash", "zsh", "fish")
EXAMPLE = """examples:
  swift-sprout completion bash > ~/.local/share/bash-completion/completions/swift-sprout
  swift-sprout completion zsh > "${fpath[1]}/_swift-sprout"
  swift-sprout completion fish > ~/.config/fish/completions/swift-sprout.fish

`completion modules` prints the names of the nearest host's modules, from its files: the completions ask for them."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("what", metavar="SHELL", choices=(*SHELLS, "modules"), help="bash, zsh, fish; or modules")
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


def _modules(options: argparse.Namespace) -> int:
    """Print the modules' names; nothing where there is no host, for nobody reads an error while they type."""
    try:
        names = [module.name for module in open_host(shared.host_choice(options)).host.modules()]
    except SproutError:
        names = []
    if output.wants_json(options):
        output.document({"format": "swift-sprout/modules/1", "modules": names})
    elif names:
        print(" ".join(names))
    return 0
