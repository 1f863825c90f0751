#!/usr/bin/env python
"""The slipway's console."""
import os
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent


def main():
    sys.path[:0] = [str(HERE / "src"), str(HERE / "src" / "parts")]
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "slipway.conf." + os.environ.get("SLIPWAY", "local"))
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()
