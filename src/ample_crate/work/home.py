"""The installation that a worker of another machine works for: over HTTP it gives masters and takes
what was made, both checked by SHA-256.
"""

from __future__ import annotations

import base64
import fcntl
import json
import os
import shutil
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx

from ..core.errors import AmpleError, Cancelled, Changed, Refused
from ..handover import bag
from ..media import folders as stands_for
from ..media.benches import room_for
from ..store.places import Folders
from . import sums
from .supply import Taken, Tell

PIECE = 1 << 20  # bytes
TRIES, PAUSE = 6, 0.5  # of a line that drops; seconds, doubled each time
TIMEOUT = httpx.Timeout(30.0, read=120.0, write=120.0)
DIGEST = "Repr-Digest"  # RFC 9530
DROPPED = (httpx.TransportError,)


class Home:
    """An installation that is reached over HTTP.

    Args:
        address: of its web server.
        secret: by which it knows its machines (`web.machines`).
        folders: of this machine; masters lie in its media root as long as there is room.
    """

    shared = False

    def __init__(self, address: str, secret: str, folders: Folders) -> None:
        self._client = httpx.Client(
            base_url=address, headers={"Authorization": f"Bearer {secret}"}, timeout=TIMEOUT
        )
        self._fetched = folders.media / "fetched"
        self._fetched.mkdir(parents=True, exist_ok=True)

    def take(self, ids: Sequence[int], told: Tell, stopped: Callable[[], bool]) -> Taken:
        """Fetch masters that are not here already."""
        listed = [self._asked("GET", f"/api/machines/masters/{id}") for id in ids]
        self._clear({one["sha256"] for one in listed}, sum(map(_bytes_of, listed)))
        files = [self._one(one, _Fetching(told, stopped, _bytes_of(one))) for one in listed]
        return Taken(files, "+".join(one["sha256"] for one in listed))

    def check(self, ids: Sequence[int]) -> None:
        """Have masters compared where they lie."""
        for id in ids:
            self._asked("GET", f"/api/machines/masters/{id}")

    def keep(self, run: int, start: int, made: Path) -> Path:
        """Send what was made, and take it away here."""
        base = stands_for.beside(made)
        try:
            names = [file.relative_to(base) for file in stands_for.files_of(made)]
            for name in names:
                self._send(run, start, base / name, name.as_posix())
            named = {"start": start, "name": names[0].parts[0]}
            answer = self._asked("POST", f"/api/machines/runs/{run}/made", json=named)
            return Path(answer["path"])
        finally:
            shutil.rmtree(base, ignore_errors=True)

    def _asked(self, method: str, path: str, **more: Any) -> dict[str, Any]:
        answer = self._patiently(lambda: self._client.request(method, path, **more))
        return dict(answer.json())

    def _patiently(self, ask: Callable[[], httpx.Response]) -> httpx.Response:
        """Ask until there is an answer, a few times."""
        for last in range(TRIES):
            try:
                answer = ask()
            except DROPPED as error:
                if last == TRIES - 1:
                    raise _away(error) from None
            else:
                if answer.status_code != httpx.codes.SERVICE_UNAVAILABLE or last == TRIES - 1:
                    return _good(answer)
            time.sleep(PAUSE * 2**last)
        raise AssertionError("one of them is the last")

    def _one(self, one: dict[str, Any], by: _Fetching) -> Path:
        """Give the path that stands for a master here, fetched once by whoever comes first."""
        folder = self._fetched / str(one["sha256"])
        stands = folder / str(one["stands"])
        with self._alone(one["sha256"]):
            if not stands.exists():
                for n, file in enumerate(one["files"]):
                    self._file(f"{one['at']}/files/{n}", folder / file["name"], file["size"], by)
                _lay_out(folder, one)
                if sums.of(stands) != one["sha256"]:
                    shutil.rmtree(folder)
                    raise Changed(
                        f"'{one['name']}' did not arrive as it was read.",
                        "Run again; if it stays so, have its file compared on its own page.",
                    )
            os.utime(folder)
        return stands

    def _file(self, path: str, to: Path, size: int, by: _Fetching) -> None:
        """Fetch a file; where the line drops it goes on from there."""
        to.parent.mkdir(parents=True, exist_ok=True)
        for last in range(TRIES):
            have = to.stat().st_size if to.exists() else 0
            if have >= size:
                return
            try:
                self._rest(path, to, have, by)
            except DROPPED as error:
                if last == TRIES - 1:
                    raise _away(error) from None
                time.sleep(PAUSE * 2**last)

    def _rest(self, path: str, to: Path, have: int, by: _Fetching) -> None:
        head = {"Range": f"bytes={have}-"} if have else {}
        with self._client.stream("GET", path, headers=head) as answer:
            if answer.is_error:
                answer.read()
            _good(answer)
            whole = answer.status_code == httpx.codes.OK
            with open(to, "wb" if whole else "ab") as file:
                # As they come: what waits for more to come is lost where the line drops.
                for piece in answer.iter_raw():
                    file.write(piece)
                    by.came(len(piece))

    def _send(self, run: int, start: int, file: Path, name: str) -> None:
        path = f"/api/machines/runs/{run}/files"
        query: dict[str, str | int] = {"start": start, "name": name}
        head = {
            DIGEST: digest_of(bag.sha256(file)),
            "Content-Length": str(file.stat().st_size),
            "Content-Type": "application/octet-stream",
        }
        self._patiently(
            lambda: self._client.put(path, params=query, headers=head, content=_pieces(file))
        )

    @contextmanager
    def _alone(self, name: str) -> Iterator[None]:
        """Keep others of this machine from fetching the same."""
        with open(self._fetched / f"{name}.lock", "w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    def _clear(self, wanted: set[str], needed: int) -> None:
        """Make room, of what was fetched the longest ago first."""
        there = sorted(
            (one for one in self._fetched.iterdir() if one.is_dir() and one.name not in wanted),
            key=lambda one: one.stat().st_mtime,
        )
        for one in there:
            if shutil.disk_usage(self._fetched).free > 2 * needed:
                break
            shutil.rmtree(one, ignore_errors=True)
        room_for(self._fetched, needed)


class _Fetching:
    """How far a master has come."""

    def __init__(self, told: Tell, stopped: Callable[[], bool], size: int) -> None:
        self._told, self._stopped, self._size = told, stopped, size or 1
        self._done, self._began, self._looked = 0, time.monotonic(), 0.0

    def came(self, count: int) -> None:
        """Tell that so many bytes more have come.

        Raises:
            Cancelled: it is to be stopped.
        """
        self._done += count
        now = time.monotonic()
        elapsed, share = now - self._began, min(1.0, self._done / self._size)
        self._told(
            {
                "stage": "fetch",
                "frame": 0,
                "speed": 0.0,
                "elapsed": elapsed,
                "share": share,
                "remaining": elapsed / share - elapsed if share > 0.02 else None,
            }
        )
        if now - self._looked > 1.0:
            self._looked = now
            if self._stopped():
                raise Cancelled("The work was stopped.", "Run it again when you like.")


def digest_of(sha256: str) -> str:
    """Write a SHA-256 in hexadecimal as a header does (RFC 9530)."""
    return f"sha-256=:{base64.b64encode(bytes.fromhex(sha256)).decode()}:"


def _bytes_of(one: dict[str, Any]) -> int:
    return sum(int(file["size"]) for file in one["files"])


def _pieces(file: Path) -> Iterator[bytes]:
    with open(file, "rb") as opened:
        while piece := opened.read(PIECE):
            yield piece


def _lay_out(folder: Path, one: dict[str, Any]) -> None:
    """Lay the links of a folder's description out, and the description last."""
    if one["description"] is None:
        return
    for name, to in one["links"]:
        link = folder / name
        link.parent.mkdir(parents=True, exist_ok=True)
        link.unlink(missing_ok=True)
        link.symlink_to(folder / to)
    part = folder / ".part"
    part.write_text(json.dumps(one["description"]), "utf-8")
    os.replace(part, folder / one["stands"])


def _good(answer: httpx.Response) -> httpx.Response:
    """Give an answer that is one.

    Raises:
        AmpleError: the cause, as it was told.
    """
    if not answer.is_error:
        return answer
    try:
        body = answer.json()
        what, way_out = body["detail"], body["way_out"]
    except (ValueError, KeyError):
        what, way_out = f"The installation answered {answer.status_code}.", "See its log."
    raise Refused(what, way_out)


def _away(error: Exception) -> AmpleError:
    return AmpleError(
        f"The installation did not answer: {error or type(error).__name__}.",
        "See that its web server runs and is reached from this machine, then run again.",
    )
