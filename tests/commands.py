"""The command line called in this process: what it writes, as a process of its own would, without starting one."""

import contextlib
import io
import subprocess
import sys
from unittest import mock

from recensor import cli


def ran(command: str, *arguments: object, stdin: bytes = b"") -> "subprocess.CompletedProcess[bytes]":
    """Run ``recensor COMMAND ARGUMENT...``: its exit status, and the bytes of its two outputs."""
    words = ["recensor", command, *map(str, arguments)]
    out, errors = io.BytesIO(), io.BytesIO()
    streams = [io.TextIOWrapper(stream, encoding="utf-8") for stream in (out, errors)]
    typed = io.TextIOWrapper(io.BytesIO(stdin))
    with mock.patch.object(sys, "argv", words), mock.patch.object(sys, "stdin", typed):
        with contextlib.redirect_stdout(streams[0]), contextlib.redirect_stderr(streams[1]):
            try:
                status = cli.main()
            except SystemExit as stop:  # as argparse ends for words that it does not know
                status = int(stop.code or 0)
        for stream in streams:
            stream.flush()
    return subprocess.CompletedProcess(words, status, out.getvalue(), errors.getvalue())
