"""Copies a folder with all its files."""

import shutil
import sys

shutil.copytree(sys.argv[1], sys.argv[2])
