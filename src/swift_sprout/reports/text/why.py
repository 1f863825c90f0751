"""The answer to why, as text."""

from __future__ import annotations

from ...core.conditions import Answer, Condition
from ...core.ladder import State
from ..terminal import Terminal
from .check import SIGNS, spoken

_STYLES = {State.PASS: "good", State.FAIL: "bad"}


def why(out: Terminal, answer: Answer) -> None:
    """Write the answer: yes or no, what is seen now, the tree of conditions, what would make it appear."""
    verdict = out.style("yes", "good") if answer.seen else out.style("no", "bad")
    out.line(f"{out.style(answer.thing, 'strong')} of {answer.module}, as {answer.person}: seen? {verdict}")
    out.wrapped(answer.now, "          ", "  now     ")
    out.line()
    for condition in answer.conditions:
        _condition(out, condition, "  ")
    if answer.commands:
        out.line()
        out.line(out.style("What would make it appear, in order:", "strong"))
        for number, command in enumerate(answer.commands, 1):
            out.wrapped(command, "     ", f"  {number}. ")


def _condition(out: Terminal, condition: Condition, indent: str) -> None:
    sign = (
        f"{spoken(condition.state)}:"
        if out.words
        else out.style(SIGNS[condition.state], _STYLES.get(condition.state, "dim"))
    )
    out.wrapped(condition.text, indent + "  ", f"{indent}{sign} ")
    if condition.evidence:
        out.wrapped(condition.evidence, f"{indent}    ", style="dim")
    for child in condition.children:
        _condition(out, child, indent + "    ")
