"""The samples about one place of a frame, with their values: of a finished file, and of what goes
into it. Runs inside the child process.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame

from ..core.planning.plan import Plan
from . import screen
from .measuring.grids import plane
from .pictures import reader_of
from .planned import format_of, frame_of

COLUMNS, ROWS = 16, 10  # samples shown
# Forms whose samples lie mixed, as the ones with a plane for each that lose nothing.
PARTED = {
    "nv12": "yuv420p",
    "nv16": "yuv422p",
    "p010le": "yuv420p10le",
    "p210le": "yuv422p10le",
    "uyvy422": "yuv422p",
    "yuyv422": "yuv422p",
}
LUMA, COLOURS = ("Y", "Cb", "Cr"), ("R", "G", "B")
OF_PLANES = {"R": 2, "G": 0, "B": 1}  # planes of R'G'B' begin with green


def handle(
    progress: Callable[[dict[str, Any]], None],
    path: str,
    inputs: Sequence[str],
    plan: dict[str, Any],
    place: int,
    at: tuple[int, int],
) -> dict[str, Any]:
    """Give samples of a finished file's frame, and of what its plan makes of its inputs.

    Args:
        path: the finished file.
        inputs: paths of the plan's inputs.
        plan: as JSON.
        place: of the frame in the deliverable, counted from 0.
        at: column and line of the sample in the middle, from 0.

    Returns:
        {width, height, left, top, interlaced, sides: [{names, stored, depth, values, colours}]}:
        what goes in first; `stored` is the bits of a sample, `depth` those that `values` are told
        at; `values` is lines x columns x components, `colours` lines x columns, as #rrggbb.
    """
    known = Plan.model_validate(plan)
    f = format_of(known)
    frames = (frame_of(inputs, known, place), reader_of(path, True, "").frame(place))
    made = frames[1]
    left, top = (
        max(0, min(middle - many // 2, size - many))
        for middle, many, size in zip(at, (COLUMNS, ROWS), (made.width, made.height), strict=True)
    )
    woven = f.fields is not None
    sides = [_side(one, left, top, woven, f.matrix) for one in frames]
    return {
        "width": made.width,
        "height": made.height,
        "left": left,
        "top": top,
        "interlaced": woven,
        "sides": _of_one_depth(sides),
    }


def _of_one_depth(sides: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Bring values to the fewest bits that either has: some decoders give more than went in."""
    depth = min(side["stored"] for side in sides)
    return [
        {**side, "depth": depth, "values": _at(side["values"], side["stored"], depth).tolist()}
        for side in sides
    ]


def _at(values: npt.NDArray[np.int64], bits: int, depth: int) -> npt.NDArray[np.int64]:
    if bits == depth:
        return values
    shift = bits - depth
    told: npt.NDArray[np.int64] = (values + (1 << (shift - 1))) >> shift
    return told.clip(0, (1 << depth) - 1)


def _side(frame: VideoFrame, left: int, top: int, woven: bool, matrix: str) -> dict[str, Any]:
    right, bottom = min(left + COLUMNS, frame.width), min(top + ROWS, frame.height)
    shown = screen.over(
        screen.colours(frame, (frame.width, frame.height), matrix), screen.CHECKER
    ).crop((left, top, right, bottom))
    apart = _parted(frame)
    names = _names(apart)
    values = np.stack(
        [
            _samples(apart, OF_PLANES.get(name, number), range(top, bottom), left, right, woven)
            for number, name in enumerate(names)
        ],
        axis=-1,
    )
    return {
        "names": list(names),
        "stored": apart.format.components[0].bits,
        "values": values,
        "colours": [[f"#{bytes(sample).hex()}" for sample in line] for line in np.asarray(shown)],
    }


def _parted(frame: VideoFrame) -> VideoFrame:
    """Give a frame with a plane for each component, its samples as they are."""
    name, components = frame.format.name, frame.format.components
    if name.startswith(("yuv4", "yuva4", "yuvj4", "gbr")) and not name.endswith("be"):
        return frame
    if name in {"gray", "gray10le", "gray12le", "gray16le"}:
        return frame
    alpha, deep = any(c.is_alpha for c in components), max(c.bits for c in components) > 8
    if frame.format.is_rgb or name == "pal8":
        return frame.reformat(format=f"gbr{'a' if alpha else ''}p{'16le' if deep else ''}")
    if name in PARTED:
        return frame.reformat(format=PARTED[name])
    return frame.reformat(format=f"yuv{'a' if alpha else ''}444p{'16le' if deep else ''}")


def _names(frame: VideoFrame) -> tuple[str, ...]:
    components = frame.format.components
    alpha = ("A",) if any(c.is_alpha for c in components) else ()
    colours = LUMA[:1] if len(components) < 3 else COLOURS if frame.format.is_rgb else LUMA
    return (*colours, *alpha)


def _samples(
    frame: VideoFrame, number: int, lines: range, left: int, right: int, woven: bool
) -> npt.NDArray[np.int64]:
    """Give a component's samples for each place of the picture: where it has fewer, the one that
    colours that place. Fields have colour of their own.
    """
    held = plane(frame, number)
    down = frame.height // held.shape[0] if number in {1, 2} else 1
    across = frame.width // frame.planes[number].width if number in {1, 2} else 1
    rows = [_line(line, down, woven) for line in lines]
    columns = [column // across for column in range(left, right)]
    return held[np.ix_(rows, columns)].astype(np.int64)


def _line(line: int, down: int, woven: bool) -> int:
    if not woven or down == 1:
        return line // down
    field = line % 2
    return line // 2 // down * 2 + field
