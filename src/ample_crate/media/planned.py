"""A frame of a master as its route will show it: the real frames through the route's real chain of
filters.

Runs inside the child process.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from typing import Any

from av.video.frame import VideoFrame
from PIL import Image

from ..core.errors import BadMedia
from ..core.planning.plan import Plan
from ..core.planning.streams import CopiedPicture, MadePicture
from . import filters, stills
from .graphs import Filtered
from .lowering import Samples16, picture_chain
from .pictures import coded, reader_of

# Frames before and after the wanted one: what deinterlaces and what changes the rate looks at its
# neighbours.
AROUND = 3


def handle(
    progress: Callable[[dict[str, Any]], None],
    inputs: Sequence[str],
    plan: dict[str, Any],
    frame: int,
    width: int,
    mark: str = "",
) -> dict[str, Any]:
    """Give frame `frame` of a master as the plan will make it of its inputs, at its display aspect:
    {jpeg (base64), width, height}.
    """
    path = inputs[0]
    made = Plan.model_validate(plan).picture
    if made is None:
        raise BadMedia("The route makes no picture.", "Look at a route that does.")
    shown = (
        reader_of(path, True, mark).frame(frame)
        if isinstance(made, CopiedPicture)
        else _planned(path, made, frame, mark, stills.under(made, inputs))
    )
    aspect = made.format.pixel_aspect
    high = max(2, round(width / (Fraction(shown.width, shown.height) * aspect)))
    matrix = {"BT.709": "ITU709", "BT.601": "ITU601", "BT.2020": "BT2020"}.get(
        made.format.matrix, "ITU709"
    )
    plain = shown.reformat(
        width=width, height=high, format="rgb24", src_colorspace=matrix, interpolation="BICUBIC"
    )
    return coded(Image.fromarray(plain.to_ndarray()))


def _planned(
    path: str, made: MadePicture, number: int, mark: str, under: Mapping[int, Samples16]
) -> VideoFrame:
    """Push the frames about a place through the chain, and give the one that comes out at its
    time.
    """
    reader = reader_of(path, True, mark)
    first = max(0, number - AROUND)
    rate, chain = made.source.rate, picture_chain(made.source, made.steps, under)
    graph: Filtered | None = None
    shown: list[VideoFrame] = []
    for at in range(first, number + AROUND + 1):
        frame = reader.frame(at)
        # The chain's clock is the plan's, wherever in the file the frames lie.
        own = frame.reformat(format=frame.format.name)
        own.pts, own.time_base = at - first, 1 / rate
        if graph is None:
            graph = filters.picture_graph(reader.stream, own, made.source, chain, 1 / rate)
        shown += [f for f in graph.push(own) if isinstance(f, VideoFrame)]
    if graph is not None:
        shown += [f for f in graph.push(None) if isinstance(f, VideoFrame)]
    if not shown:
        raise BadMedia("The route gives no picture at this place.", "Look at another frame.")
    # Counted, as the writer counts: filters that weave fields shift the times by half a frame.
    place = int(Fraction(number - first) / rate * made.format.rate)
    return shown[min(len(shown) - 1, place)]
