"""Processes that the launcher starts, and everything that they start: none outlives it, whatever ends it."""

import contextlib
import ctypes
import fcntl
import os
import signal
import subprocess
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

_PR_SET_PDEATHSIG = 1  # of prctl: the signal that a child gets when its parent ends
_LOOK_AGAIN = 0.1


class FolderInUseError(RuntimeError):
    """Somebody else holds the folder; the message is for the person starting."""


def hold(folder: Path) -> int:
    """Lock a folder for this process; the lock goes with it. Raises `FolderInUseError`."""
    lock = os.open(folder / "lock", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(lock)
        raise FolderInUseError("Recensor is already running from this folder; stop it there first.") from None
    return lock


def start(command: Sequence[str], pid_file: Path | None = None, *, quiet: bool = False) -> "subprocess.Popen[bytes]":
    """Start a child in a session of its own, so that Ctrl-C in the terminal reaches nobody before us.

    It is told to end when this process ends, however that happens.
    """
    out = subprocess.DEVNULL if quiet else None
    child = subprocess.Popen(command, stdout=out, stderr=out, start_new_session=True, preexec_fn=_end_with_parent)
    if pid_file:
        write_whole(pid_file, f"{child.pid}\n")
    return child


def stop(child: "subprocess.Popen[bytes]", seconds: float) -> None:
    """Ask a child to end, and after so many seconds end it with all that it started."""
    if child.poll() is None:
        child.terminate()
        with contextlib.suppress(subprocess.TimeoutExpired):
            child.wait(seconds)
    _end_group(child.pid)
    child.wait()


def stop_orphan(pid_file: Path, mark: str, seconds: float) -> None:
    """End what an earlier start left behind: the process of a pid file, and all in its group, with this mark.

    The mark is one of the words of their command lines. To be called by the one who holds the folder, since only then
    nobody looks after them.
    """
    try:
        group = int(pid_file.read_text())
    except (OSError, ValueError):
        return
    if not any(_has_mark(pid, mark) for pid in group_members(group)):
        return
    with contextlib.suppress(ProcessLookupError):
        os.kill(group, signal.SIGTERM)
    deadline = time.monotonic() + seconds
    while Path(f"/proc/{group}").exists() and time.monotonic() < deadline:
        time.sleep(_LOOK_AGAIN)
    _end_group(group)


def group_members(group: int) -> Iterator[int]:
    """The processes of a group, also once the one that it is named after has ended."""
    for place in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            if os.getpgid(int(place.name)) == group:
                yield int(place.name)


def _has_mark(pid: int, mark: str) -> bool:
    try:
        return os.fsencode(mark) in Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")
    except OSError:
        return False


def write_whole(file: Path, text: str, mode: int = 0o600) -> None:
    """Write a file beside its place and move it there: half of it never counts."""
    beside = file.with_name(f"{file.name}.new")
    beside.unlink(missing_ok=True)
    beside.touch(mode=mode)
    with beside.open("w", encoding="utf-8") as half:
        half.write(text)
        half.flush()
        os.fsync(half.fileno())
    beside.rename(file)


def _end_with_parent() -> None:
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def _end_group(group: int) -> None:
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(group, signal.SIGKILL)
