"""Results that are kept from one run to the next, by the content of all files that they rest on.

A result is kept in the user's cache folder, under the place and the question that it answers, together with the digest
of every file that was read for it. Later the same trees are listed again: where no file's times changed, the result
holds; files whose times did are read, and where their content is what it was, it holds as well. Times of the last
moments are not trusted, since a file may change twice within one tick of the clock. All of it may be deleted at any
time.
"""

from __future__ import annotations

import itertools
import marshal
import os
import time
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import Any

from .. import __version__
from ..disk.digests import short_digest_of
from ..disk.guard import readings
from ..disk.readings import Readings
from ..running.copies import Copy, Line, end_copies, report_at_end, stop_reporting
from ..running.cores import both_cores
from .digesting import digest_of_content, folder_in_short, in_groups, in_short, read_and_digest, same_file, unread
from .listing import FOLDER, Listed, last_change_below, last_change_in, list_directly, list_tree, names_in
from .place import CacheFolder
from .rests_on import RestsOn

FORMAT = "swift-sprout/remembered/1"
TOO_YOUNG_NANOSECONDS = 2_000_000_000
TICK_NANOSECONDS = 50_000_000  # by how much the time of a change may lie before the change
PIECE = 500
FOLDERS_WORTH_COPIES = 300
OF_THE_TERMINAL = frozenset(
    {"_", "COLUMNS", "LINES", "NO_COLOR", "OLDPWD", "PWD", "SHLVL", "SSH_CLIENT", "SSH_CONNECTION", "SSH_TTY", "TERM"}
)


class Remembered:
    """The kept result of one question about one place; ``question`` names both."""

    def __init__(self, question: str, rests_on: RestsOn) -> None:
        self.place = CacheFolder(_digest([question]))
        self.rests_on = rests_on
        self._began = readings().since or time.time_ns()
        self._files: list[Listed] = []
        self._listed = ""  # the digest of the list of files, once they were listed, and the latest change of one
        self._latest = 0
        self._known: dict[str, list[str]] = {}  # by path: what tells that it is the same file, and its digest
        self._copy: Copy | None = None

    def result(self, read: Callable[[Sequence[Listed]], list[str]], in_copies: bool) -> Any | None:
        """Return the kept result where it still holds, else None.

        read      -- returns the digests of files
        in_copies -- whether copies of this process may do it
        """
        kept = self.place.read("result.json")
        if kept is None or kept.get("format") != FORMAT or not {"stamp", "content", "result"} <= set(kept):
            return None
        self._list_in_copies() if in_copies else self._list()
        stamp = self._stamp()
        if not stamp or kept["stamp"] != stamp:
            if in_copies:
                self._list()
            known = self.place.read("files.json") or {}
            self._known = {path: one for path, one in known.items() if isinstance(one, list) and len(one) == 2}
            if kept["content"] != self._content(read):
                return None
            self._write_files()
            self._write_result(kept["content"], kept["result"])
        return kept["result"]

    def keep_aside(self) -> None:
        """Let a copy of this process read the files meanwhile, and keep the result that ``keep`` tells it then.

        Where the files were not listed yet, it does that as well.
        """

        def beside(line: Line) -> None:
            content = self._content(_digests) if self._listed else self._list_and_read()
            self._write_files()
            result, read = line.receive()
            if self._held(read):
                self._write_result(content, result)

        self._copy = Copy(beside)
        self._files = []
        report_at_end(lambda: readings().told(), lambda told: readings().take(told))

    def expect(self) -> None:
        """List the files before the work on a result begins that ``keep`` is told then."""
        if not self._listed:
            self._list()

    def keep(self, result: Any) -> None:
        """Keep a result that was just worked out; nothing is kept when files changed meanwhile, or cannot be read."""
        if self._copy is not None:
            stop_reporting()
            try:
                self._copy.line.send((result, readings()))  # it is waited for when the program ends
            except OSError:
                self._copy.end()
        elif not self._changed():
            content = self._content(_digests)
            self._write_files()
            self._write_result(content, result)

    def _changed(self) -> bool:
        """True when the files are not those that were listed before the work began."""
        now = itertools.chain.from_iterable(in_groups(self.rests_on.trees))
        return any(one != other for one, other in itertools.zip_longest(self._files, now))

    def _held(self, read: Readings) -> bool:
        """True when nothing that the result may rest on has changed since the host was looked at."""
        latest = self._latest
        if read.since and not read.by_others:
            folders = [one[0] for one in self._files if one[2] == FOLDER]
            latest = max(latest, read.latest_change_with([*self.rests_on.trees, *folders], str(self.place.folder)))
        else:
            latest = max(latest, self._latest_change())
        return latest < self._began - TICK_NANOSECONDS

    def _latest_change(self) -> int:
        """Return when any file or folder was changed the last: for when it is not known which were read."""
        told = [last_change_in(tree) for tree in self.rests_on.trees]
        below = both_cores(last_change_below, [folder for _, folders in told for folder in folders])
        return max(0, *(latest for latest, _ in told), *below)

    def _list(self) -> None:
        self._take(list(in_groups(self.rests_on.trees)))

    def _take(self, groups: Sequence[list[Listed]]) -> None:
        self._files = list(itertools.chain.from_iterable(groups))
        self._sum_up([in_short(group) for group in groups])

    def _sum_up(self, groups: Sequence[tuple[str, int]]) -> None:
        self._listed = _digest(digest for digest, _ in groups)
        self._latest = max((latest for _, latest in groups), default=0)

    def _list_in_copies(self) -> None:
        """Find out what the files sum up to, and not which they are: that is enough where nothing has changed."""
        groups: list[tuple[str, int]] = []
        for tree in self.rests_on.trees:
            here, folders = list_directly(tree)
            groups += [in_short(here), *both_cores(folder_in_short, folders, FOLDERS_WORTH_COPIES)]
        self._sum_up(groups)

    def _list_and_read(self) -> str:
        """List the files and read each as it is met, since asking an opened one for its times is quicker."""
        digests: dict[str, str] = {}

        def ask(entry: os.DirEntry[str]) -> os.stat_result:
            if entry.is_file():
                told, digests[entry.path] = read_and_digest(entry.path)
                if told is not None:
                    return told
            return entry.stat()

        self._take(list(in_groups(self.rests_on.trees, ask)))
        self._known = {one[0]: [same_file(one), digests.get(one[0]) or unread(one)] for one in self._files}
        return self._digest_of_known()

    def _stamp(self) -> str:
        """Return the digest of all names, sizes and times; empty where some of them are too young to be trusted."""
        if self._latest > self._began - TOO_YOUNG_NANOSECONDS:
            return ""
        return short_digest_of(self._listed.encode(), marshal.dumps([*self._further()], 2))

    def _content(self, read: Callable[[Sequence[Listed]], list[str]]) -> str:
        """Return the digest of all content; files whose times are those of before are not read again."""
        known = {one[0]: self._known.get(one[0], ["", ""]) for one in self._files}
        unknown = [one for one in self._files if known[one[0]][0] != same_file(one)]
        known |= {one[0]: [same_file(one), digest] for one, digest in zip(unknown, read(unknown), strict=True)}
        self._known = known
        return self._digest_of_known()

    def _digest_of_known(self) -> str:
        return _digest([*sorted(f"{path} {digest}" for path, (_, digest) in self._known.items()), *self._further()])

    def _further(self) -> Iterable[str]:
        return [*self.rests_on.facts, *names_in(self.rests_on.libraries)]

    def _write_files(self) -> None:
        """Write the digests of the files that are old enough; where that cannot be, they are read again next time."""
        old = [one[0] for one in self._files if one[4] <= self._began - TOO_YOUNG_NANOSECONDS]
        self.place.write("files.json", {path: self._known[path] for path in old})

    def _write_result(self, content: str, result: Any) -> None:
        """Write a result; where that cannot be, the next run has to do the work again."""
        self.place.write(
            "result.json", {"format": FORMAT, "stamp": self._stamp(), "content": content, "result": result}
        )


def remembered(
    question: str, rests_on: RestsOn, judges: Iterable[Path], work: Callable[[], Any], aside: bool = True
) -> Any:
    """Return the kept result of a question, or work it out and keep it.

    judges -- folders of the code and data that the result is made by: others may judge otherwise
    aside  -- whether copies of this process may do some of it: not where other threads are at work
    """
    end_copies()  # of the question before, where one program asks several
    facts = (*rests_on.facts, *_environment(), __version__, *_times_of_files(judges))
    known = Remembered(question, rests_on._replace(facts=facts))
    result = known.result(_digests_on_both_cores if aside else _digests, in_copies=aside)
    if result is None:
        known.keep_aside() if aside else known.expect()
        result = work()
        known.keep(result)
    return result


def _environment() -> Iterable[str]:
    """Return the environment but for what differs from one terminal to the next."""
    return sorted(f"{name}={value}" for name, value in os.environ.items() if name not in OF_THE_TERMINAL)


def _times_of_files(folders: Iterable[Path]) -> Iterable[str]:
    files = [one for folder in folders for one in list_tree(str(folder))]
    return [f"{path} {size} {modified}" for path, _, size, modified, _ in sorted(files) if size > 0]


def _digests_on_both_cores(files: Sequence[Listed]) -> list[str]:
    pieces = [files[at : at + PIECE] for at in range(0, len(files), PIECE)]
    return [digest for piece in both_cores(_digests, pieces, worth_it=4) for digest in piece]


def _digests(files: Sequence[Listed]) -> list[str]:
    return [digest_of_content(one) for one in files]


def _digest(texts: Iterable[str]) -> str:
    return short_digest_of("\0".join(texts).encode("utf-8", "surrogateescape"))
