"""A graph of modules as DOT, as an SVG picture, and as data."""

from __future__ import annotations

import html
import itertools
from typing import Any

from ..core.graphs import ModuleGraph, Need
from ..core.plaintext import spelled_out

BOX_HEIGHT, GAP_ABOVE, GAP_BESIDE, MARGIN = 46, 54, 26, 24


def document(graph: ModuleGraph) -> dict[str, Any]:
    """Return the graph as data: ``swift-sprout/graph/1``."""
    return {
        "format": "swift-sprout/graph/1",
        "modules": [node._asdict() for node in graph.nodes],
        "needs": [need._asdict() for need in graph.needs],
        "order": graph.order(),
        "missing": [[need.module, need.needs] for need in graph.missing()],
        "circles": graph.circles(),
        "superfluous": [[need.module, need.needs, over] for need, over in graph.superfluous()],
        "listed_later": [[need.module, need.needs] for need in graph.out_of_order()],
    }


def dot(graph: ModuleGraph) -> str:
    """Return the graph in the DOT language; an arrow leads from a module to what it needs."""
    missing = {need.needs for need in graph.missing()}
    lines = ["digraph modules {", "    rankdir=BT;", "    node [shape=box];"]
    for node in graph.nodes:
        style = "" if node.enabled is not False else ", style=dashed"
        lines.append(f"    {_quoted(node.name)} [label={_quoted(node.title or node.name)}{style}];")
    lines += [f"    {_quoted(name)} [style=dotted, color=red];" for name in sorted(missing)]
    for need in graph.needs:
        style = " [style=dashed]" if not need.said else ""
        lines.append(f"    {_quoted(need.module)} -> {_quoted(need.needs)}{style};")
    return "\n".join([*lines, "}"]) + "\n"


def _quoted(text: str) -> str:
    return '"' + spelled_out(text).replace("\n", " ").replace("\\", "\\\\").replace('"', '\\"') + '"'


def svg(graph: ModuleGraph) -> str:
    """Return the graph as a picture: what is needed stands above, circles are red, what is off is dashed."""
    places, width, height = _laid_out(graph)
    circles = {(a, b) for circle in graph.circles() for a, b in itertools.pairwise(circle)}
    missing = {need.needs for need in graph.missing()}
    nodes = {node.name: node for node in graph.nodes}
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" width="{width}" height="{height}" '
        'font-family="sans-serif" font-size="14">',
        "<title>Modules and what they need</title>",
        '<defs><marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="8" markerHeight="8" '
        'orient="auto-start-reverse"><path d="M0 0L8 4L0 8z" fill="context-stroke"/></marker></defs>',
        f'<rect width="{width}" height="{height}" fill="#fff"/>',
    ]
    for need in graph.needs:
        if need.module in places and need.needs in places:
            parts.append(_arrow(places, need, (need.module, need.needs) in circles))
    for name, (x, y, wide) in places.items():
        node = nodes.get(name)
        dashed = ' stroke-dasharray="5 4"' if node is None or node.enabled is False else ""
        colour = "#b3261e" if name in missing else "#17495c" if node is not None else "#7a8790"
        title = node.title if node is not None and node.title else name
        below = name if node is not None else "missing" if name in missing else "of the host"
        parts.append(
            f'<g><rect x="{x - wide / 2:.0f}" y="{y:.0f}" width="{wide:.0f}" height="{BOX_HEIGHT}" rx="6" '
            f'fill="#f4f1ea" stroke="{colour}" stroke-width="1.5"{dashed}/>'
            f'<text x="{x:.0f}" y="{y + 19:.0f}" text-anchor="middle" fill="#17313e">{_text(title)}</text>'
            f'<text x="{x:.0f}" y="{y + 36:.0f}" text-anchor="middle" fill="#5b6b73" font-size="11">'
            f"{_text(below)}</text></g>"
        )
    return "\n".join([*parts, "</svg>"]) + "\n"


def _text(text: str) -> str:
    return html.escape(spelled_out(text))


def _laid_out(graph: ModuleGraph) -> tuple[dict[str, tuple[float, float, float]], int, int]:
    """Place the boxes: centre, top and width of each, and the size of the picture."""
    from grandalf.graphs import Edge, Graph, Vertex
    from grandalf.layouts import SugiyamaLayout, VertexViewer

    titles = {node.name: node.title or node.name for node in graph.nodes}
    names = list(dict.fromkeys([*titles, *(need.needs for need in graph.needs)]))
    boxes = {}
    for name in names:
        box = Vertex(name)
        wide = 30 + 8 * max(len(titles.get(name, name)), len(name))
        box.view = VertexViewer(w=wide, h=BOX_HEIGHT)
        boxes[name] = box
    edges = [Edge(boxes[need.needs], boxes[need.module]) for need in graph.needs if need.needs != need.module]
    whole = Graph(list(boxes.values()), edges)
    places: dict[str, tuple[float, float, float]] = {}
    left, tallest = float(MARGIN), 0.0
    for core in whole.C:
        layout = SugiyamaLayout(core)
        layout.xspace, layout.yspace = GAP_BESIDE, GAP_ABOVE
        layout.init_all()
        layout.draw(3)
        held = [(vertex.data, vertex.view) for vertex in core.sV]
        first = min(view.xy[0] - view.w / 2 for _, view in held)
        top = min(view.xy[1] for _, view in held)
        for name, view in held:
            places[name] = (view.xy[0] - first + left, view.xy[1] - top + MARGIN, view.w)
        left = max(x + wide / 2 for x, _, wide in (places[name] for name, _ in held)) + 2 * GAP_BESIDE
        tallest = max(tallest, *(places[name][1] + BOX_HEIGHT for name, _ in held))
    return places, int(left - 2 * GAP_BESIDE + MARGIN) if places else 200, int(tallest + MARGIN)


def _arrow(places: dict[str, tuple[float, float, float]], need: Need, circle: bool) -> str:
    x1, y1, _ = places[need.module]
    x2, y2, _ = places[need.needs]
    up = y2 <= y1
    start, end = (y1, y2 + BOX_HEIGHT) if up else (y1 + BOX_HEIGHT, y2)
    if y1 == y2:
        start = end = y1 + BOX_HEIGHT / 2
    middle = (start + end) / 2
    colour = "#b3261e" if circle else "#4d6470"
    dashed = ' stroke-dasharray="4 3"' if not need.said else ""
    return (
        f'<path d="M{x1:.0f} {start:.0f}C{x1:.0f} {middle:.0f} {x2:.0f} {middle:.0f} {x2:.0f} {end:.0f}" fill="none" '
        f'stroke="{colour}" stroke-width="1.5"{dashed} marker-end="url(#tip)"/>'
    )
