"""The web server's worker: gunicorn's threads, with a limit on how long one client may keep one of them waiting."""

import errno
import socket
import time
from typing import Any

from gunicorn.workers.gthread import TConn, ThreadWorker

MOST_SECONDS = 20.0  # from the first byte of a request to its last, and for each part of the answer


class LimitedSocket:
    """A socket whose reads together, until `begin` is said again, take no longer than `seconds`."""

    def __init__(self, inner: socket.socket, seconds: float = MOST_SECONDS) -> None:
        self._inner, self._seconds = inner, seconds
        self.begin()

    def begin(self) -> None:
        """A request begins."""
        self._until = time.monotonic() + self._seconds

    def recv(self, size: int) -> bytes:
        """Read; a client that is too slow is one that has gone."""
        self._inner.settimeout(max(self._until - time.monotonic(), 0.001))
        try:
            return self._inner.recv(size)
        except TimeoutError:
            raise ConnectionResetError(errno.ECONNRESET, "the client is too slow") from None

    def sendall(self, data: bytes) -> None:
        """Write, to a client that reads."""
        self._inner.settimeout(self._seconds)
        try:
            self._inner.sendall(data)
        except TimeoutError:
            raise ConnectionResetError(errno.ECONNRESET, "the client does not read") from None

    def __getattr__(self, name: str) -> Any:
        return getattr(self._inner, name)


class Worker(ThreadWorker):
    """Threads that no client holds for longer than that."""

    def handle(self, conn: TConn) -> Any:
        """Handle one request of a connection."""
        if not isinstance(conn.sock, LimitedSocket):
            conn.sock = LimitedSocket(conn.sock)
        conn.sock.begin()
        return super().handle(conn)
