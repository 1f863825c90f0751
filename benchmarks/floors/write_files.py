"""Writes files with their folders: a pickled dictionary of path and content, into a folder."""

import os
import pathlib
import pickle
import sys

root = pathlib.Path(sys.argv[2])
for path, content in pickle.loads(pathlib.Path(sys.argv[1]).read_bytes()).items():
    target = root / path
    target.parent.mkdir(parents=True, exist_ok=True)
    target.write_bytes(content)
os._exit(0)
