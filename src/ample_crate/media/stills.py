"""Stills that transparency is laid over: the first picture of another file, brought to size."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from av.video.frame import VideoFrame

from ..core.errors import BadMedia
from ..core.planning.steps import Flatten, Still
from ..core.planning.streams import MadePicture
from . import filters
from .lowering import Samples16, picture_chain
from .read import open_media, picture_stream


def under(made: MadePicture, inputs: Sequence[str]) -> dict[int, Samples16]:
    """Give the stills that a picture is laid over, by their input's place in the plan.

    Args:
        made: the picture.
        inputs: paths of the plan's inputs.
    """
    stills = [step.still for step in made.steps if isinstance(step, Flatten) and step.still]
    return {still.input: _drawn(inputs[still.input], still) for still in stills}


def _drawn(path: str, still: Still) -> Samples16:
    """Give rows x columns x 3 in R'G'B' of 16 bit."""
    with open_media(path) as container:
        stream = picture_stream(container)
        frame = None if stream is None else next(container.decode(stream), None)
        if stream is None or frame is None:
            raise BadMedia("The still has no picture.", "Choose another background.")
        chain = picture_chain(still.source, still.steps)
        graph = filters.picture_graph(stream, frame, still.source, chain)
        shown = [one for one in (*graph.push(frame), *graph.push(None))]
    picture = next(one for one in shown if isinstance(one, VideoFrame))
    return np.asarray(picture.to_ndarray(format="rgb48le"), np.uint16)
