"""A line that drops: what goes through it is cut after so many bytes, some times."""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Iterator

PIECE = 4096


class Line:
    """Takes connections on a port of its own and passes them on to another.

    Attributes:
        port: where it takes them.
        cuts: how many connections it still cuts, each after `after` bytes that come back.
        cut: how many it has cut.
        came: bytes that came back over it.
    """

    def __init__(self, to: int, after: int, cuts: int) -> None:
        self._to, self._after = to, after
        self.cuts, self.cut, self.came = cuts, 0, 0
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.port = self._listener.getsockname()[1]
        threading.Thread(target=self._accept, daemon=True).start()

    def close(self) -> None:
        self._listener.close()

    def _accept(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                near, _ = self._listener.accept()
                far = socket.create_connection(("127.0.0.1", self._to))
                for pair in ((near, far, False), (far, near, True)):
                    threading.Thread(target=self._pass, args=pair, daemon=True).start()

    def _pass(self, source: socket.socket, target: socket.socket, comes_back: bool) -> None:
        passed = 0
        with contextlib.suppress(OSError):
            while piece := source.recv(PIECE):
                target.sendall(piece)
                passed += len(piece)
                self.came += len(piece) if comes_back else 0
                if comes_back and passed > self._after and self.cuts > 0:
                    self.cuts, self.cut = self.cuts - 1, self.cut + 1
                    break
        for end in (source, target):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)


@contextlib.contextmanager
def dropping(to: int, after: int, cuts: int) -> Iterator[Line]:
    """Give a line to a port that drops."""
    line = Line(to, after, cuts)
    try:
        yield line
    finally:
        line.close()
