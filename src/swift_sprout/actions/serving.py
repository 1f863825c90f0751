"""``serve``: the host on loopback until it is interrupted."""

from __future__ import annotations

import subprocess
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

from ..core.errors import HostFailed, WrongUse
from ..running import loopback, process
from .hosting import OpenHost


@dataclass
class Served:
    """A host that is being served: its port, the addresses to open, and its process."""

    port: int
    addresses: list[tuple[str, list[str]]]
    running: subprocess.Popen[bytes]

    def wait(self) -> int:
        """Wait until the host ends by itself; returns its status."""
        return self.running.wait()


def _switched_on(opened: OpenHost) -> list[str]:
    """Return the modules that are on: as the files say it, or the running host where they do not."""
    known = opened.host.modules()
    if any(one.registered is None for one in known):
        on = opened.host.start_up().modules
        return [one.name for one in known if one.name in on]
    return [one.name for one in known if one.registered]


@contextmanager
def serving(opened: OpenHost, names: Sequence[str], port: int | None) -> Iterator[Served]:
    """Run the host on a loopback port while the block runs; at its end nothing of it is left.

    Raises WrongUse when the port is taken and HostFailed when the host does not come up in time.
    """
    modules = [opened.host.find(name) for name in names] or _switched_on(opened)
    if port is not None:
        _refuse_port(port)
    port = port or loopback.free_port()
    command = opened.host.serve_command(port)
    addresses = [(module, opened.host.addresses(module)) for module in modules]
    running = process.start(command, opened.host.root, opened.host.serve_environment(port))
    assert running.stdout is not None
    output = process.TailReader(running.stdout)
    try:
        if not _comes_up(running, port, opened.choice.limit_seconds):
            process.end(running)
            lines = [line for line in output.text().splitlines() if line.strip()]
            raise HostFailed(
                "host-not-up",
                f"The host did not come up on port {port}: {lines[-1][:300] if lines else 'it printed nothing'}",
                "`swift-sprout check` tells where and why.",
            )
        yield Served(port, addresses, running)
    finally:
        process.end(running)
        running.stdout.close()


def _refuse_port(port: int) -> None:
    remedy = "Name another, such as 8021, or leave --port out."
    try:
        free = loopback.port_is_free(port)
    except PermissionError:
        sentence = f"--port {port}: you have no right to listen there; ports below 1024 are the system's."
        raise WrongUse("port-not-allowed", sentence, remedy) from None
    if not free:
        raise WrongUse("port-taken", f"--port {port}: something listens there.", remedy)


def _comes_up(running: subprocess.Popen[bytes], port: int, limit_seconds: float) -> bool:
    deadline = time.monotonic() + limit_seconds
    while time.monotonic() < deadline and running.poll() is None:
        if loopback.wait_until_answering(port, 0.2):
            return True
    return False
