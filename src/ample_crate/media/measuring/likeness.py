"""How near one picture is to another, frame by frame, by the codec library's filters.

Runs inside the child process.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import partial
from typing import NamedTuple

import av
import av.filter
import numpy as np
from av.video.format import VideoFormat
from av.video.frame import VideoFrame

from ...core.errors import BadMedia
from ...core.quality.figures import ALIKE
from ..graphs import Filtered, added
from .seams import seams

FOUND = "lavfi."  # what filters say of a frame, beside what its file does


Laid = Callable[[VideoFrame], VideoFrame]


class _Graph(NamedTuple):
    """Filters that hold two pictures against each other.

    Attributes:
        head, other: take the picture that is wanted, and the one that was made.
        laid: gives of each what is taken.
        prefix: of the names of what it finds.
    """

    head: Filtered
    other: av.filter.FilterContext
    laid: Laid
    prefix: str = ""

    def said_of(
        self, wanted: VideoFrame, made: VideoFrame, place: int, rate: Fraction
    ) -> dict[str, str]:
        """Give what filters find of a pair of frames."""
        wanted, made = self.laid(wanted), self.laid(made)
        # Both lie at the same place of one clock, whatever their files' clocks say.
        for frame in (made, wanted):
            frame.pts, frame.time_base = place, 1 / rate
        self.other.push(made)
        return {
            self.prefix + key: text
            for shown in self.head.push(wanted)
            for key, text in shown.metadata.items()
            # Beside what the frame's own file says.
            if key.startswith(FOUND)
        }


@dataclass
class LikenessMeter:
    """Holds pairs of frames against each other, and keeps what is found of each.

    Attributes:
        rate: frames a second: XPSNR looks at more of them where they follow quickly.
        every: of how many frames one is looked at for what coding left (`seams`); 0 for none.
        identical: frames without any error.
        count: frames so far.
    """

    rate: Fraction
    every: int = 0
    identical: int = 0
    _found: dict[str, list[float]] = field(default_factory=dict)
    _graphs: Sequence[_Graph] = ()
    count: int = 0
    _seen: tuple[int, int, str] | None = None
    _left: dict[str, float] = field(default_factory=dict)

    def take(self, wanted: VideoFrame, made: VideoFrame) -> None:
        """Take the next pair."""
        seen = made.width, made.height, made.format.name
        if self._seen is None:
            self._seen = seen
            self._graphs = _graphs(wanted, made, self.rate)
        if self._seen != seen:
            raise BadMedia(
                f"The picture changes its size or its samples at frame {self.count}.",
                "Ask for the file again.",
            )
        said: dict[str, str] = {}
        for graph in self._graphs:
            said |= graph.said_of(wanted, made, self.count, self.rate)
        if self.every and self.count % self.every == 0:
            grey = self._graphs[1].laid
            self._left = seams(grey(wanted), grey(made))._asdict()
        self.count += 1
        self._keep(said)

    def _keep(self, said: dict[str, str]) -> None:
        value = {key: min(ALIKE, float(text)) for key, text in said.items()}
        planes = [value[f"lavfi.psnr.psnr.{p}"] for p in "uv" if f"lavfi.psnr.psnr.{p}" in value]
        found = {
            "psnr": value["lavfi.psnr.psnr.y"],
            "ssim": float(said["lavfi.ssim.Y"]),
            "xpsnr": value["lavfi.xpsnr.xpsnr.y"],
        }
        if planes:
            found["colour"] = min(planes)
        clear = value.get("alpha.lavfi.psnr.psnr.y")
        if clear is not None:
            found["alpha"] = clear
        for key, one in (found | self._left).items():
            self._found.setdefault(key, []).append(round(one, 5))
        exact = float(said["lavfi.psnr.psnr_avg"])
        self.identical += math.isinf(exact) and clear in {None, ALIKE}

    def curves(self) -> dict[str, list[float]]:
        """Give what was found, a list of values a measure."""
        return dict(self._found)


def _clear(f: VideoFormat) -> bool:
    return any(component.is_alpha for component in f.components)


def _graphs(wanted: VideoFrame, made: VideoFrame, rate: Fraction) -> list[_Graph]:
    pixels = _compared_in(made.format)
    laid = partial(_laid_out, pixels=pixels)
    # Two measures are of the luma: to look at colour too would take longer.
    grey = partial(_luma, pixels=pixels)
    graphs = [_graph(("psnr",), laid(made), laid, rate)]
    graphs.append(_graph(("ssim", "xpsnr"), grey(made), grey, rate))
    if _clear(wanted.format) and _clear(made.format):
        graphs.append(_of_alpha(wanted, made, rate))
    return graphs


def _graph(measures: Sequence[str], like: VideoFrame, laid: Laid, rate: Fraction) -> _Graph:
    graph = av.filter.Graph()
    head, other = (_head(graph, like, rate) for _ in range(2))
    shared = added(graph, other, "split", str(len(measures)))
    last = head
    for place, name in enumerate(measures):
        # The first input is what XPSNR takes for the original.
        meter = graph.add(name)
        last.link_to(meter, 0, 0)
        shared.link_to(meter, place, 1)
        last = meter
    return _Graph(_closed(graph, last, head), other, laid)


def _of_alpha(wanted: VideoFrame, made: VideoFrame, rate: Fraction) -> _Graph:
    graph = av.filter.Graph()
    heads = [_head(graph, frame, rate) for frame in (wanted, made)]
    grey = "gray" if made.format.components[0].bits == 8 else "gray16le"
    meter = graph.add("psnr")
    for place, head in enumerate(heads):
        clear = added(graph, head, "alphaextract")
        added(graph, clear, "format", grey).link_to(meter, 0, place)
    return _Graph(_closed(graph, meter, heads[0]), heads[1], lambda frame: frame, "alpha.")


def _closed(
    graph: av.filter.Graph, last: av.filter.FilterContext, head: av.filter.FilterContext
) -> Filtered:
    added(graph, last, "buffersink")
    graph.configure()
    return Filtered(graph, head)


def _head(graph: av.filter.Graph, frame: VideoFrame, rate: Fraction) -> av.filter.FilterContext:
    fields = {
        "video_size": f"{frame.width}x{frame.height}",
        "pix_fmt": frame.format.name,
        "time_base": f"{rate.denominator}/{rate.numerator}",
        "frame_rate": f"{rate.numerator}/{rate.denominator}",
    }
    return graph.add("buffer", ":".join(f"{name}={value}" for name, value in fields.items()))


def _laid_out(frame: VideoFrame, pixels: str) -> VideoFrame:
    """Lay samples out to be compared; code values stay, but of R'G'B', which becomes Y'CbCr."""
    if frame.format.name == pixels:
        return frame
    if frame.format.is_rgb:
        return frame.reformat(
            format=pixels, dst_colorspace="ITU709", src_color_range="JPEG", dst_color_range="MPEG"
        )
    return frame.reformat(format=pixels, src_color_range="JPEG", dst_color_range="JPEG")


SIDE = 8  # samples: lines of a multiple of them can lie close together


def _luma(frame: VideoFrame, pixels: str) -> VideoFrame:
    """Give the luma alone, its lines close together, and without the last columns of a width that
    is no multiple of 8: of more than 8 bit XPSNR takes lines to lie so in what it holds against
    the original, and finds nonsense elsewhere (measured; a test holds it).
    """
    whole = _laid_out(frame, pixels)
    bits = whole.format.components[0].bits
    width = frame.width if bits == 8 else frame.width - frame.width % SIDE
    made = VideoFrame(width, frame.height, "gray" if bits == 8 else f"gray{bits}le")
    here, there = whole.planes[0], made.planes[0]
    if here.line_size == there.line_size and here.height == there.height:
        there.update(bytes(here))
        return made
    lines = np.frombuffer(memoryview(here), np.uint8).reshape(-1, here.line_size)
    spread = np.zeros((there.height, there.line_size), np.uint8)
    wide = min(here.line_size, there.line_size)
    spread[:, :wide] = lines[: there.height, :wide]
    there.update(spread.tobytes())
    return made


# How chroma lies, by the samples of it that 64 by 64 of luma have.
CHROMA = {
    (32, 32): "420",
    (32, 64): "422",
    (64, 64): "444",
    (16, 64): "411",
    (64, 32): "440",
    (16, 16): "410",
}
MORE_BITS = 2  # that R'G'B' needs for its luma to tell as much


def _compared_in(f: VideoFormat) -> str:
    """Name how samples are laid out to be compared: as they are, without transparency; of R'G'B'
    the luma and colour difference that they stand for.
    """
    bits = f.components[0].bits
    if f.is_rgb or f.has_palette:
        bits = min(16, bits + MORE_BITS)
        return f"yuv444p{bits + bits % 2}le"
    depth = "" if bits == 8 else f"{bits}le"
    if len([c for c in f.components if not c.is_alpha]) == 1:
        return f"gray{depth}"
    return f"yuv{CHROMA[f.chroma_width(64), f.chroma_height(64)]}p{depth}"
