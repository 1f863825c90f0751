"""Whether code does more than work on what a check keeps apart: files, programs, and machines elsewhere."""

import os
import re

REACHES_OUT = re.compile(
    rb"\b(?:subprocess|shutil|socket|paramiko|ftplib|smtplib|boto3|docker|zipfile|tarfile)\b"
    rb"|\bos\.(?:remove|unlink|rename|replace|rmdir|removedirs|mkdir|makedirs|system|popen|exec\w*|spawn\w*|kill|truncate)\b"
    rb"|\.(?:write_text|write_bytes|unlink|rmdir|touch)\("
    rb"|\bImage\.open\(|\bopen\([^)\n]*[\"'][rb]*[wax+]"
)
ASIDE = ("tests", "migrations", "management", "node_modules", "__pycache__")


def reaches_out(place):
    """True where the code of a module, a folder or a file, may do what nothing takes back.

    What is tried on copies of databases is not tried with such code.
    """
    if not os.path.isdir(place):
        return is_reaching(place)  # what is nowhere cannot be known
    for where, folders, names in os.walk(place):
        folders[:] = [one for one in folders if one not in ASIDE]
        for name in names:
            if name.endswith(".py") and not name.startswith("test") and is_reaching(os.path.join(where, name)):
                return True
    return False


def is_reaching(path):
    try:
        with open(path, "rb") as handle:
            return REACHES_OUT.search(handle.read()) is not None
    except OSError:
        return True
