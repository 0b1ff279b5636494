"""A copy to listen to: what is taken and what is made of it, side by side in one track of four
channels, so that one is switched for the other in place.

Runs inside the child process.
"""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import numpy.typing as npt
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.container import OutputContainer

from ..core.formats import BROWSER_SOUND, BROWSER_WRAPPER
from ..core.units import loudspeakers
from ..core.units.loudspeakers import Speakers
from . import wrappers

COPY = wrappers.ROWS[BROWSER_WRAPPER]
RATE, LAYOUT, BIT_RATE = 48000, "4.0", 256_000
Samples = npt.NDArray[np.float32]


class Pairs:
    """Writes two pairs of channels to a track of a file: left and right of what is taken, then of
    what is made.

    Args:
        target: the file, to which nothing was written yet.
        rate: samples a second that come in.
        taken, made: loudspeakers of the channels that are taken, and of those that are made.
    """

    def __init__(self, target: OutputContainer, rate: int, taken: Speakers, made: Speakers) -> None:
        stream = target.add_stream(BROWSER_SOUND, rate=RATE, layout=LAYOUT)
        assert isinstance(stream, AudioStream)
        stream.codec_context.bit_rate = BIT_RATE
        self._target, self._stream, self._rate, self._count = target, stream, rate, 0
        pairs = [_to_a_pair(one) for one in (taken, made)]
        # Both are turned down alike, so that what is louder stays so, and neither is cut.
        most = max(float(pair.sum(axis=1).max()) for pair in pairs)
        self._pairs = [(pair / max(1.0, most)).astype(np.float32) for pair in pairs]

    @property
    def seconds(self) -> Fraction:
        """Give how much was written."""
        return Fraction(self._count, self._rate)

    def write(self, taken: Samples, made: Samples) -> None:
        """Write the same samples of both."""
        blocks = zip(self._pairs, (taken, made), strict=True)
        both = np.concatenate([pair @ block for pair, block in blocks])
        frame = AudioFrame.from_ndarray(np.ascontiguousarray(both), format="fltp", layout=LAYOUT)
        frame.sample_rate, frame.pts = self._rate, self._count
        frame.time_base = Fraction(1, self._rate)
        self._count += both.shape[1]
        self._target.mux(self._stream.encode(frame))

    def finish(self) -> None:
        """Write the rest."""
        self._target.mux(self._stream.encode(None))


class Listening(Pairs):
    """Writes such a copy.

    Args:
        out: its path.
        rate, taken, made: as of `Pairs`.
    """

    def __init__(self, out: str, rate: int, taken: Speakers, made: Speakers) -> None:
        target = av.open(out, "w", format=COPY.muxer, options=COPY.index_in_front)
        super().__init__(target, rate, taken, made)

    def close(self) -> None:
        """Write the rest."""
        self.finish()
        self._target.close()


def _to_a_pair(speakers: Speakers) -> npt.NDArray[np.float64]:
    """Give what each channel gives to left and right (ITU-R BS.775)."""
    gains = loudspeakers.mix(speakers, loudspeakers.LAYOUTS["stereo"]).gains
    return np.array([[float(gain) for gain in row] for row in gains])
