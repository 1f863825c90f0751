"""Where the benchmarks find the program and the hosts, and the sites that they work on."""

from __future__ import annotations

import shutil
import sys
from pathlib import Path

from .measure import command

REPOSITORY = Path(__file__).parent.parent
PYTHON = Path(sys.executable)
PROGRAM = PYTHON.parent / "swift-sprout"
DJANGO = REPOSITORY / ".cache/hosts/django-5.2/bin/python"
TRYTOND = REPOSITORY / ".cache/hosts/trytond-8.2/bin/python"
TRYTOND_MODULES = REPOSITORY / ".cache/hosts/trytond-8.2-modules/bin/python"
FLASK = REPOSITORY / ".cache/hosts/flask-3.1/bin/python"
WORDPRESS = REPOSITORY / ".cache/hosts/wordpress-6.1"
INTERPRETERS = {"django": DJANGO, "trytond": TRYTOND, "flask": FLASK, "wordpress": WORDPRESS}
WORLD = REPOSITORY / "src/swift_sprout/demo_world"
BRIEF = WORLD / "tide_board.toml"


def build_site(folder: Path) -> Path:
    """Build the Brindle Quay site with its database."""
    site = folder / "site"
    shutil.copytree(WORLD / "django", site, ignore=shutil.ignore_patterns("__pycache__"))
    command([DJANGO, "manage.py", "migrate", "--no-input", "-v", "0"], site)()
    return site
