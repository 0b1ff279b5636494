"""Pictures of files for the screen, each through a child that sees its file alone."""

from __future__ import annotations

import base64
import contextlib
import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ..core.errors import AmpleError
from ..core.planning.plan import Plan
from . import confine, guard, limits
from .ops import present

TRIES = 5  # a child may be dropped for another's sake between being found and being asked


class _Seat:
    """One child of a viewer, with those who wait for it."""

    def __init__(self, files: tuple[Path, ...]) -> None:
        self.child = guard.Child(limits.PICTURES, confine.reading(*files))
        self.lock = threading.Lock()


class Viewer:
    """Gives pictures of any file, each through a child that sees this file alone; the last few
    children are kept.

    Args:
        most: how many children are kept.
    """

    def __init__(self, most: int = 4) -> None:
        self._most = most
        self._seats: OrderedDict[str, _Seat] = OrderedDict()
        self._lock = threading.Lock()

    def picture(
        self,
        path: Path,
        frame: int,
        width: int,
        display: dict[str, Any] | None = None,
        mark: str = "",
    ) -> bytes:
        """Give frame `frame` of a file as JPEG: at its display aspect, or sample for sample where
        `width` is 0.

        `display` says how: see `pictures`. `mark` says which bytes a sequence had: its description
        stays as its images change.
        """
        file = present(path)
        return self._request(
            "picture",
            {"path": str(file), "frame": frame, "width": width, "display": display, "mark": mark},
            file,
        )

    def planned(
        self, inputs: Sequence[Path], plan: Plan, place: int, look: Mapping[str, Any]
    ) -> bytes:
        """Give frame `place` of a deliverable as a plan will make it of its inputs, as JPEG; `look`
        says how: see `planned.handle`.
        """
        return self._of_plan("planned", inputs, plan, place, look)

    def coded(
        self, inputs: Sequence[Path], plan: Plan, place: int, look: Mapping[str, Any]
    ) -> bytes:
        """Give frame `place` of a stretch as it looks coded, as JPEG; see `coded.handle`."""
        return self._of_plan("coded", inputs, plan, place, look)

    def difference(
        self,
        path: Path,
        inputs: Sequence[Path],
        plan: Plan,
        place: int,
        look: Mapping[str, int],
    ) -> bytes:
        """Give what frame `place` of a file differs from what a plan makes of its inputs, as JPEG;
        `look` says how: see `planned.answer_difference`.
        """
        files, args = _pair(path, inputs, plan, place)
        return self._request("difference", {**args, "look": dict(look)}, *files)

    def magnified(
        self, path: Path, inputs: Sequence[Path], plan: Plan, place: int, at: tuple[int, int]
    ) -> dict[str, Any]:
        """Give the samples about a place of frame `place` of a file, and of what a plan makes of
        its inputs; see `magnified.handle`.
        """
        files, args = _pair(path, inputs, plan, place)
        return self._answer("magnified", {**args, "at": at}, *files)

    def _of_plan(
        self, op: str, inputs: Sequence[Path], plan: Plan, place: int, look: Mapping[str, Any]
    ) -> bytes:
        files = [present(path) for path in inputs]
        args = {
            "inputs": [str(file) for file in files],
            "plan": plan.model_dump(mode="json"),
            "place": place,
            "look": dict(look),
        }
        return self._request(op, args, *files)

    def _request(self, op: str, args: dict[str, Any], *files: Path) -> bytes:
        return base64.b64decode(self._answer(op, args, *files)["jpeg"])

    def _answer(self, op: str, args: dict[str, Any], *files: Path) -> dict[str, Any]:
        for _ in range(TRIES):
            seat = self._seat(files)
            with seat.lock:
                if seat.child.alive:
                    return seat.child.request(op, args)
        raise AmpleError(
            "No process for pictures stays alive.",
            "See the server's log; the machine may be short of memory.",
        )

    def _seat(self, files: tuple[Path, ...]) -> _Seat:
        """Give the child for these files as they are now: what took a file's place is not what a
        child sees under its name.
        """
        key = "|".join(
            f"{f}|{t.st_size}|{t.st_mtime_ns}|{t.st_ino}" for f in files for t in (f.stat(),)
        )
        dropped: list[_Seat] = []
        with self._lock:
            seat = self._seats.pop(key, None)
            if seat is None or not seat.child.alive:
                dropped += [seat] if seat is not None else []
                seat = _Seat(files)
            self._seats[key] = seat
            while len(self._seats) > self._most:
                dropped.append(self._seats.popitem(last=False)[1])
        for old in dropped:
            with old.lock:  # whoever has it at work is answered first
                old.child.close()
        return seat

    def close(self) -> None:
        """End the children."""
        with self._lock:
            seats = list(self._seats.values())
            self._seats.clear()
        for seat in seats:
            with seat.lock, contextlib.suppress(OSError):
                seat.child.close()


def _pair(
    path: Path, inputs: Sequence[Path], plan: Plan, place: int
) -> tuple[list[Path], dict[str, Any]]:
    files = [present(one) for one in (path, *inputs)]
    return files, {
        "path": str(files[0]),
        "inputs": [str(file) for file in files[1:]],
        "plan": plan.model_dump(mode="json"),
        "place": place,
    }
