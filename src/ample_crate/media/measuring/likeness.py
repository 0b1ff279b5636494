"""How near one picture is to another, frame by frame, by the codec library's filters.

Runs inside the child process.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import NamedTuple

import av
import av.filter
import numpy as np
from av.video.format import VideoFormat
from av.video.frame import VideoFrame

from ...core.errors import BadMedia
from ...core.quality import ALIKE
from ..graphs import Filtered, added

FOUND = "lavfi."  # what filters say of a frame, beside what its file does


class _Graph(NamedTuple):
    """Filters that hold two pictures against each other.

    Attributes:
        head, other: take the picture that is wanted, and the one that was made.
        pixels: how the samples of both are laid out for it; empty for as they are.
        close: whether their lines are to lie close together.
        prefix: of the names of what it finds.
    """

    head: Filtered
    other: av.filter.FilterContext
    pixels: str = ""
    close: bool = False
    prefix: str = ""

    def said_of(
        self, wanted: VideoFrame, made: VideoFrame, place: int, rate: Fraction
    ) -> dict[str, str]:
        """Give what filters find of a pair of frames."""
        if self.pixels:
            wanted, made = (_laid_out(frame, self.pixels) for frame in (wanted, made))
        if self.close:
            wanted, made = (_close(frame) for frame in (wanted, made))
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
        identical: frames without any error.
        count: frames so far.
    """

    rate: Fraction
    identical: int = 0
    _found: dict[str, list[float]] = field(default_factory=dict)
    _graphs: Sequence[_Graph] = ()
    count: int = 0
    _seen: tuple[int, int, str] | None = None

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
        for key, one in found.items():
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
    graphs = [_of_samples(made, pixels, rate), _weighted(made, pixels, rate)]
    if _clear(wanted.format) and _clear(made.format):
        graphs.append(_of_alpha(wanted, made, rate))
    return graphs


def _of_samples(made: VideoFrame, pixels: str, rate: Fraction) -> _Graph:
    """Build the graph of PSNR and SSIM."""
    graph = av.filter.Graph()
    head, other = (_head(graph, made.width, made.height, pixels, rate) for _ in range(2))
    twice = added(graph, other, "split", "2")
    last = head
    for place, name in enumerate(("psnr", "ssim")):
        meter = graph.add(name)
        last.link_to(meter, 0, 0)
        twice.link_to(meter, place, 1)
        last = meter
    return _Graph(_closed(graph, last, head), other, pixels)


def _weighted(made: VideoFrame, pixels: str, rate: Fraction) -> _Graph:
    """Build the graph of XPSNR."""
    graph = av.filter.Graph()
    deep = pixels.endswith("le")
    width = _close_width(made.width) if deep else made.width
    head, other = (_head(graph, width, made.height, pixels, rate) for _ in range(2))
    meter = graph.add("xpsnr")
    # The first input is what it takes for the original.
    for place, end in enumerate((head, other)):
        end.link_to(meter, 0, place)
    return _Graph(_closed(graph, meter, head), other, pixels, close=deep)


def _of_alpha(wanted: VideoFrame, made: VideoFrame, rate: Fraction) -> _Graph:
    graph = av.filter.Graph()
    heads = [_head(graph, f.width, f.height, f.format.name, rate) for f in (wanted, made)]
    grey = "gray" if made.format.components[0].bits == 8 else "gray16le"
    meter = graph.add("psnr")
    for place, head in enumerate(heads):
        clear = added(graph, head, "alphaextract")
        added(graph, clear, "format", grey).link_to(meter, 0, place)
    return _Graph(_closed(graph, meter, heads[0]), heads[1], prefix="alpha.")


def _closed(
    graph: av.filter.Graph, last: av.filter.FilterContext, head: av.filter.FilterContext
) -> Filtered:
    added(graph, last, "buffersink")
    graph.configure()
    return Filtered(graph, head)


def _head(
    graph: av.filter.Graph, width: int, height: int, pixels: str, rate: Fraction
) -> av.filter.FilterContext:
    fields = {
        "video_size": f"{width}x{height}",
        "pix_fmt": pixels,
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


def _close_width(width: int) -> int:
    return width - width % SIDE


def _close(frame: VideoFrame) -> VideoFrame:
    """Lay lines of more than 8 bit close together, without the last columns of a width that is no
    multiple of 8: XPSNR takes what it holds against the original to lie so, and finds nonsense
    elsewhere (measured; a test holds it).
    """
    width = _close_width(frame.width)
    if frame.width == width and frame.planes[0].line_size == 2 * width:
        return frame
    made = VideoFrame(width, frame.height, frame.format.name)
    for one, other in zip(frame.planes, made.planes, strict=True):
        lines = np.frombuffer(memoryview(one), np.uint8).reshape(-1, one.line_size)
        spread = np.zeros((other.height, other.line_size), np.uint8)
        wide = min(one.line_size, other.line_size)
        spread[:, :wide] = lines[: other.height, :wide]
        other.update(spread.tobytes())
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
