"""``swift-sprout graph``."""

from __future__ import annotations

import argparse
from pathlib import Path

from ...actions.hosting import open_host
from ...core.errors import Refused
from ...core.graphs import ModuleGraph
from ...reports import graphs
from ...reports.terminal import Terminal
from .. import options as shared
from .. import output

EXAMPLE = """examples:
  swift-sprout graph
  swift-sprout graph berth_register
  swift-sprout graph --as dot
  swift-sprout graph --as svg --output modules.svg

An arrow leads from a module to what it needs; dashed where the code shows it and the brief does not say it."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", nargs="?", help="only this module, what it needs and who needs it")
    parser.add_argument("--as", dest="form", choices=("text", "dot", "svg"), default="text", help="the form")
    parser.add_argument("--output", metavar="FILE", help="write it to a new file")
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command; the exit status is 1 for circles and for needs that nothing meets."""
    opened = open_host(shared.host_choice(options))
    graph = opened.host.graph()
    if options.module:
        graph = _around(graph, opened.host.find(options.module).rpartition(".")[2])
    status = 1 if graph.circles() or graph.missing() else 0
    if status:
        output.because("the needs hold a circle, or something that is not there")
    if output.wants_json(options):
        output.document(graphs.document(graph))
        return status
    if options.form == "text" and not options.output:
        _text(output.terminal(options), graph)
        return status
    content = graphs.svg(graph) if options.form == "svg" else graphs.dot(graph)
    if options.output:
        path = Path(options.output)
        try:
            with path.open("x", encoding="utf-8") as handle:
                handle.write(content)
        except FileExistsError:
            raise Refused("file-there", f"{path} is there already; nothing was written.", "Name another.") from None
    else:
        print(content, end="")
    return status


def _around(graph: ModuleGraph, name: str) -> ModuleGraph:
    """Return the part of a graph that one module rests on, or that rests on it."""
    kept = {name}
    for step in (
        lambda one: [need.needs for need in graph.of(one)],
        graph.needed_by,
    ):
        waiting, seen = [name], {name}
        while waiting:
            for other in step(waiting.pop()):
                if other not in seen:
                    seen.add(other)
                    waiting.append(other)
        kept |= seen
    nodes = [node for node in graph.nodes if node.name in kept]
    needs = [need for need in graph.needs if need.module in kept and need.needs in kept]
    return ModuleGraph(nodes, needs, graph.elsewhere)


def _text(out: Terminal, graph: ModuleGraph) -> None:
    nodes = {node.name: node for node in graph.nodes}
    order = graph.order()
    wide = max((len(name) for name in order), default=0)
    missing = {need.needs for need in graph.missing()}
    over = {(need.module, need.needs): other for need, other in graph.superfluous()}
    for number, name in enumerate(order, 1):
        needs = graph.of(name)
        by = graph.needed_by(name)
        state = {True: "", False: "  (off)", None: "  (not asked whether it is on)"}[nodes[name].enabled]
        tail = f"  ← {', '.join(by)}" if by else ""
        shown = f"{name:<{wide}}" if state or tail else name
        out.line(f"{number:>3}  {out.style(shown, 'strong')}{state}{tail}")
        for need in needs:
            said = []
            if need.needs in missing:
                said.append(out.style("missing", "bad"))
            if not need.said:
                said.append("the brief does not say it")
            elif not need.used:
                said.append("nothing in the code asks for it")
            if (need.module, need.needs) in over:
                said.append(f"met over {over[need.module, need.needs]} anyway")
            more = f"  ({'; '.join(said)})" if said else ""
            out.wrapped(f"{need.needs}  {need.place}{more}", "         ", "       → ")
    for circle in graph.circles():
        out.line(out.style(f"circle: {' → '.join(circle)}", "bad"))
    for need in graph.out_of_order():
        out.line(f"order: {need.module} is listed before {need.needs}, which it needs")
    if not order:
        out.line("This host has no modules of its own.")
