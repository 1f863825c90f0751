"""Which paths of a host lie in its folder, links followed."""

from __future__ import annotations

import os

from ..core.errors import Refused


class InsideHost:
    """Answers for one host; what was found of a folder is kept for the files in it."""

    def __init__(self, root: str) -> None:
        self._root = root
        self._known: dict[str, bool] = {}

    def holds(self, path: str) -> bool:
        """True when the folder of a path, links followed, lies in the host's."""
        if os.path.isabs(path) or ".." in path.split("/"):
            return False
        return self._folder(os.path.dirname(os.path.join(self._root, path)))

    def refuse_outside(self, path: str) -> None:
        """Raise Refused for a path that leads out of the host by dots or by a link, or is a link itself."""
        if not self.holds(path):
            raise Refused(
                "path-outside-host", f"{path} leads out of the host's folder.", "Write there by hand if you mean to."
            )
        if os.path.islink(os.path.join(self._root, path)):
            raise Refused("path-is-link", f"{path} is a symbolic link.", "Change the file that it points at.")

    def _folder(self, folder: str) -> bool:
        if folder not in self._known:
            if os.path.lexists(folder):
                root = os.path.realpath(self._root)
                self._known[folder] = os.path.join(os.path.realpath(folder), "").startswith(os.path.join(root, ""))
            else:  # not there yet, so it is no link
                self._known[folder] = self._folder(os.path.dirname(folder))
        return self._known[folder]
