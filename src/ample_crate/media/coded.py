"""A frame of a deliverable as it looks coded, before there is any file: a stretch about it goes
through the route and the encoder, and is decoded again. Runs inside the child process.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import av
from av.container import InputContainer
from av.video.frame import VideoFrame

from ..core.errors import BadMedia
from ..core.planning.plan import Plan
from . import screen, stretches
from .read import decoder, packets, picture_stream


def handle(
    progress: Callable[[dict[str, Any]], None],
    inputs: Sequence[str],
    plan: dict[str, Any],
    place: int,
    look: dict[str, Any],
) -> dict[str, Any]:
    """Give a frame of a stretch as it looks coded, at its display aspect: {jpeg (base64), width,
    height}.

    Args:
        inputs: paths of the plan's inputs.
        plan: of the stretch (`planning.sampled`), as JSON.
        place: of the frame in it.
        look: `width` of the picture, in screen samples, and `ground` that is shown through what is
            clear.

    Raises:
        BadMedia: the stretch has no such frame.
    """
    known = Plan.model_validate(plan)
    frame = frame_of(inputs, known, place)
    picture = known.picture
    assert picture is not None
    f = picture.format
    shown = screen.shown(frame, f.pixel_aspect, f.matrix, look["width"])
    return screen.coded(screen.over(shown, look.get("ground", screen.CHECKER)))


def frame_of(inputs: Sequence[str], plan: Plan, place: int) -> VideoFrame:
    """Give a frame of a stretch, coded and decoded again.

    Raises:
        BadMedia: the stretch has no such frame.
    """
    file = stretches.coded(plan, inputs)
    with av.open(file) as container:
        assert isinstance(container, InputContainer)
        stream = picture_stream(container)
        if stream is None:
            raise BadMedia("The encoder gave no picture.", "Ask for another codec.")
        decode, count = decoder(stream), 0
        for packet in packets(container, stream):
            for frame in () if packet is None else decode(packet):
                if count == place:
                    return frame
                count += 1
    raise BadMedia(f"Only {count} frames of this part were coded.", "Look at another part.")
