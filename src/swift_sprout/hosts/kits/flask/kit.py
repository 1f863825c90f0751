"""The Flask kit."""

from __future__ import annotations

from pathlib import Path

from ...contract.host import Host
from ...contract.kit import HostOptions
from ...python.interpreter import PythonFacts, demo_interpreter
from ...shared.folderkit import FolderKit
from .facts import FlaskFacts


class FlaskKit(FolderKit):
    """Recognises folders in which an application is made; what opens them is imported only then."""

    def recognises(self, folder: Path) -> bool:
        """True when a folder is the root of a host of this kind."""
        from .entry import makes_an_application

        return super().recognises(folder) and makes_an_application(folder)

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import FlaskHost

        return FlaskHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay site in an empty folder."""
        from ...shared.demo import copy_world, demo_step

        python = demo_interpreter(self.data, options)
        copy_world(self.data, folder)
        demo_step([str(python.path), "-c", "import wsgi"], folder)
        return options._replace(runtime=str(python.path))


KIT = FlaskKit(Path(__file__).parent, python=PythonFacts, flask=FlaskFacts)
