"""The Flask kit."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

from ..kitdata import KitData, load_kit_data, recognised
from ..protocol import Host, HostOptions


class FlaskKit:
    """Recognises folders whose ``wsgi.py`` calls an application factory; what opens them is imported only then."""

    @cached_property
    def data(self) -> KitData:
        """The kit's data."""
        return load_kit_data(Path(__file__).parent)

    def recognises(self, folder: Path) -> bool:
        """True when the folder holds an entry that names the application factory."""
        return recognised(Path(__file__).parent, folder)

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import FlaskHost

        return FlaskHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay site in an empty folder."""
        from ..demo import copy_world, demo_interpreter, demo_step

        python = demo_interpreter(self.data, options)
        copy_world(self.data, folder)
        demo_step([str(python.path), "-c", "import wsgi"], folder)
        return options._replace(python=str(python.path))


KIT = FlaskKit()
