"""Sets a confinement up from inside, and starts the program in it: ``python -m swift_sprout.running.confined``.

Run as the first process of new namespaces, with all rights in them and none outside. It lays an overlay over the host's
folder, so that the host may write there and nothing of it stays; makes everything else read-only; hides where programs
of the system listen, and where keys of people lie; brings up the loopback interface, which leads nowhere else; limits
memory, processes and files; and gives up every right before it starts the program.
"""

from __future__ import annotations

import ctypes
import fcntl
import json
import os
import resource
import socket
import struct
import sys
from pathlib import Path

#  linux/mount.h, linux/prctl.h, linux/sockios.h
MS_RDONLY, MS_NOSUID, MS_NODEV, MS_NOEXEC = 1, 2, 4, 8
MS_REMOUNT, MS_BIND, MS_REC, MS_PRIVATE = 32, 4096, 16384, 1 << 18
_FLAGS = {
    "nosuid": MS_NOSUID,
    "nodev": MS_NODEV,
    "noexec": MS_NOEXEC,
    "noatime": 1024,
    "nodiratime": 2048,
    "relatime": 1 << 21,
}
PR_CAPBSET_DROP, PR_SET_NO_NEW_PRIVS = 24, 38
SIOCGIFFLAGS, SIOCSIFFLAGS, IFF_UP = 0x8913, 0x8914, 1
ROOMS = ("/tmp", "/var/tmp", "/mnt", "/media", "/srv", "/opt")  # one of them becomes a room of this run's own
HIDDEN = ("/tmp", "/var/tmp", "/dev/shm", "/run", "/var/run", "/mnt")
OF_PEOPLE = (".ssh", ".gnupg", ".aws", ".config", ".netrc", ".docker", ".kube", ".pgpass", ".my.cnf", ".local/state")
KEPT = ("/proc", "/dev/pts", "/dev/mqueue")  # of these namespaces alone, or nothing that stays
LIMITS = {
    resource.RLIMIT_AS: 6 << 30,
    resource.RLIMIT_FSIZE: 1 << 30,
    resource.RLIMIT_NPROC: 1024,
    resource.RLIMIT_CORE: 0,
}
ROOM_BYTES = 1 << 30
SET_UP_FAILED = 125
_libc = ctypes.CDLL(None, use_errno=True)


def main() -> None:
    """Set up, and become the program."""
    try:
        question = json.loads(sys.argv[1])
        room = set_up(Path(question["root"]), [question["root"], *question["needed"]])
    except (OSError, ValueError, KeyError) as error:
        print(f"confinement: {error}", file=sys.stderr)
        os._exit(SET_UP_FAILED)
    environment = {
        **os.environ,
        "TMPDIR": room,
        "SWIFT_SPROUT_SCRATCH": room,
        "SWIFT_SPROUT_STATE": f"{room}/state",
        "XDG_CACHE_HOME": f"{room}/cache",
    }
    os.execve(sys.executable, [sys.executable, "-m", "swift_sprout", *sys.argv[2:]], environment)


def set_up(root: Path, needed: list[str]) -> str:
    """Do all that the module's text says; returns the folder that may be written to. Raises OSError."""
    _mount(None, "/", None, MS_REC | MS_PRIVATE)
    paths = [os.path.realpath(one) for one in needed]
    room = next(one for one in ROOMS if os.path.isdir(one) and not _holds(one, paths))
    _mount("tmpfs", room, "tmpfs", MS_NOSUID | MS_NODEV, f"size={ROOM_BYTES},mode=700")
    for name in ("upper", "work", "own"):
        os.mkdir(f"{room}/{name}", 0o700)
    target = os.path.realpath(root)
    layers = f"lowerdir={_escaped(target)},upperdir={room}/upper,workdir={room}/work,userxattr"
    _mount("overlay", target, "overlay", MS_NOSUID | MS_NODEV, layers)
    own = {room, target}
    for place in (*HIDDEN, *(f"{Path.home()}/{name}" for name in OF_PEOPLE)):
        if os.path.isdir(place) and not os.path.islink(place) and not _holds(place, [*paths, room]):
            _mount("tmpfs", place, "tmpfs", MS_NOSUID | MS_NODEV, "size=64m,mode=700")
            own.add(place)
        elif os.path.isfile(place):
            _mount("/dev/null", place, None, MS_BIND)
    _read_only_but(own)
    _loopback_up()
    _limit_processes()
    for limit, most in LIMITS.items():
        hard = resource.getrlimit(limit)[1]
        most = most if hard == resource.RLIM_INFINITY else min(most, hard)
        resource.setrlimit(limit, (most, most))
    os.chdir(os.getcwd())  # what was laid over the folder counts from now on
    _give_up_rights()
    return f"{room}/own"


def _holds(place: str, paths: list[str]) -> bool:
    return any(path == place or path.startswith(place.rstrip("/") + "/") for path in paths)


def _escaped(path: str) -> str:
    return path.replace("\\", "\\\\").replace(",", "\\,").replace(":", "\\:")


def _mount(source: str | None, target: str, kind: str | None, flags: int, data: str | None = None) -> None:
    words = [None if one is None else os.fsencode(one) for one in (source, target, kind, data)]
    if _libc.mount(words[0], words[1], words[2], ctypes.c_ulong(flags), words[3]) != 0:
        number = ctypes.get_errno()
        raise OSError(number, os.strerror(number), target)


def _read_only_but(writable: set[str]) -> None:
    """Make every mount read-only but a few, keeping what else is said of it."""
    with open("/proc/self/mountinfo", encoding="utf-8", errors="surrogateescape") as handle:
        lines = handle.read().splitlines()
    for line in lines:
        fields = line.split()
        place = fields[4].encode("utf-8", "surrogateescape").decode("unicode_escape")
        if place in writable or any(place == one or place.startswith(f"{one}/") for one in KEPT):
            continue
        flags = sum(_FLAGS.get(option, 0) for option in fields[5].split(","))
        try:
            _mount(None, place, None, MS_REMOUNT | MS_BIND | MS_RDONLY | flags)
        except OSError:
            if os.path.lexists(place) and os.access(place, os.W_OK):
                raise


def _limit_processes() -> None:
    """Let there be few processes in these namespaces: of the superuser the usual limit does not count them."""
    try:
        with open("/proc/sys/kernel/pid_max", "w", encoding="ascii") as handle:  # of these namespaces alone: Linux 6.14
            handle.write(str(LIMITS[resource.RLIMIT_NPROC]))
    except OSError:
        return


def _loopback_up() -> None:
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as line:
        asked = struct.pack("16sH14s", b"lo", 0, b"")
        (flags,) = struct.unpack("16xH14x", fcntl.ioctl(line, SIOCGIFFLAGS, asked))
        fcntl.ioctl(line, SIOCSIFFLAGS, struct.pack("16sH14s", b"lo", flags | IFF_UP, b""))


def _give_up_rights() -> None:
    """Give up every right of these namespaces, for this process and all that it starts."""
    for right in range(64):
        if _libc.prctl(PR_CAPBSET_DROP, right, 0, 0, 0) != 0:
            break  # there are no more
    _libc.prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0)
    header = struct.pack("Ii", 0x20080522, 0)  # _LINUX_CAPABILITY_VERSION_3, this process
    none = struct.pack("6I", *([0] * 6))
    if _libc.capset(header, none) != 0:
        number = ctypes.get_errno()
        raise OSError(number, os.strerror(number), "capset")


if __name__ == "__main__":
    main()
