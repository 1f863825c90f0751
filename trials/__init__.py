"""Real hosts to try the program on: what installs them, healthy and faulty ones, and commands that are interrupted.

The tests and the benchmarks stand on this. What differs between hosts is in the ``trial`` of each kit.
"""
