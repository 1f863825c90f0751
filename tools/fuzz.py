"""Fuzzes the readers with a coverage-guided fuzzer: ``python tools/fuzz.py TARGET [SECONDS]``, or ``make fuzz``.

What makes a reader fail otherwise than with one of our own errors is kept in ``tests/fuzzing/found/TARGET/``, where the
tests try it from then on.
"""

from __future__ import annotations

import hashlib
import sys
import tempfile
from pathlib import Path

REPOSITORY = Path(__file__).parent.parent
sys.path[:0] = [str(REPOSITORY), str(REPOSITORY / "src")]


def main(words: list[str]) -> int:
    """Fuzz one target for some seconds; returns 1 when something was found."""
    import atheris

    with atheris.instrument_imports(include=["swift_sprout"]):
        from tests.fuzzing.targets import FOUND, TARGETS
        from tests.fuzzing.test_fuzz import seeds

        for known in TARGETS.values():
            known(b"")  # so that what they import when they run is watched as well
    if not words or words[0] not in TARGETS:
        print(f"usage: python tools/fuzz.py TARGET [SECONDS]\ntargets: {', '.join(TARGETS)}", file=sys.stderr)
        return 2
    target, seconds = words[0], words[1] if len(words) > 1 else "60"
    read = TARGETS[target]

    def one(content: bytes) -> None:
        try:
            read(content)
        except Exception:
            kept = FOUND / target / hashlib.sha256(content).hexdigest()[:16]
            kept.parent.mkdir(parents=True, exist_ok=True)
            kept.write_bytes(content)
            print(f"kept: {kept.relative_to(REPOSITORY)}", file=sys.stderr)
            raise

    with tempfile.TemporaryDirectory() as corpus:
        for number, content in enumerate(seeds(target)):
            Path(corpus, str(number)).write_bytes(content)
        limits = [f"-max_total_time={seconds}", "-timeout=20", "-rss_limit_mb=2048", f"-artifact_prefix={corpus}/"]
        atheris.Setup([sys.argv[0], *limits, corpus], one)
        atheris.Fuzz()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
