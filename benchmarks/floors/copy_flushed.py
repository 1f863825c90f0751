"""Copies a tree as ``copy_tree.py`` does, and flushes every file and folder of it to the disk."""

import os
import shutil
import sys

source, target = sys.argv[1:3]
shutil.copytree(source, target)
for folder, _, names in os.walk(target):
    for path in (*(os.path.join(folder, name) for name in names), folder):
        descriptor = os.open(path, os.O_RDONLY)
        os.fsync(descriptor)
        os.close(descriptor)
