"""What every block of sound is listened to for when everything is measured: silence, dead and same
channels, phase, tone, shape.
"""

from __future__ import annotations

import zlib
from array import array
from fractions import Fraction

import numpy as np
import numpy.typing as npt
from av.audio.frame import AudioFrame

from ...core.facts.events import Event
from ...core.units.values import Value

Samples = npt.NDArray[np.float32]
SILENT_BELOW = 10 ** (-60 / 20)  # of full scale
SILENT_SECONDS, TONE_SECONDS = Fraction(1, 2), Fraction(1)
TONE_SHARE = 0.98  # of a block's energy within two bins of its strongest
SAME_WITHIN = (
    0.01  # of the louder channel's peak, for codecs that code two like channels a little apart
)
BLOCK = Fraction(1, 10)  # seconds
MOST_POINTS = 2000  # of a drawn curve
TYPES: dict[str, npt.DTypeLike] = {
    "u8": np.uint8,
    "s16": np.int16,
    "s32": np.int32,
    "s64": np.int64,
    "flt": np.float32,
    "dbl": np.float64,
}
SCALE = {"u8": 2**7, "s16": 2**15, "s32": 2**31, "s64": 2**63}


def samples(frame: AudioFrame) -> Samples:
    """Give a frame as channels x samples, full scale at 1."""
    plain, channels = frame.format.name.rstrip("p"), len(frame.layout.channels)
    # With eight channels there seem to be nine planes, and the ninth is no memory.
    planes = frame.planes[:channels] if frame.format.is_planar else frame.planes
    held = [np.frombuffer(bytes(plane), TYPES[plain]) for plane in planes]
    if frame.format.is_planar:
        data = np.stack([one[: frame.samples] for one in held])
    else:
        data = held[0][: frame.samples * channels].reshape(-1, channels).T
    if plain in SCALE:
        made: Samples = data.astype(np.float32) / np.float32(SCALE[plain])
        return made - 1 if plain == "u8" else made
    return data.astype(np.float32)


class SoundContent:
    """Listens to one track from its start to its end."""

    def __init__(self, rate: int, channels: int, track: int) -> None:
        self.rate, self.channels, self.track = rate, channels, track
        self.block = max(1, int(BLOCK * rate))
        self._kept: list[Samples] = []
        self._waiting = 0
        self.heard = 0  # samples
        self._quiet_from: int | None = 0
        self.quiet: list[tuple[int, int]] = []
        self.peaks = np.zeros(channels, np.float32)
        self.marks = [0] * channels
        self._apart = np.zeros((channels, channels), np.float32)
        self._power = np.zeros(3)
        self._tone: list[float | None] = []
        # Block after block, all channels of each: an array a block would take far more.
        self._low, self._high = array("f"), array("f")
        self.momentary, self.short = array("d"), array("d")

    def take(self, frame: AudioFrame) -> None:
        """Listen to one frame; a frame of another layout is passed over."""
        data = samples(frame)
        if data.shape[0] != self.channels:
            return
        self._kept.append(data)
        self._waiting += data.shape[1]
        while self._waiting >= self.block:
            whole = np.concatenate(self._kept, axis=1)
            self._listen(whole[:, : self.block])
            self._kept, self._waiting = [whole[:, self.block :]], whole.shape[1] - self.block

    def _listen(self, block: Samples) -> None:
        size = np.abs(block)
        self._silence(size.max(axis=0))
        self.peaks = np.maximum(self.peaks, size.max(axis=1))
        self._low.frombytes(block.min(axis=1).tobytes())
        self._high.frombytes(block.max(axis=1).tobytes())
        for channel in range(self.channels):
            self.marks[channel] = zlib.crc32(
                np.ascontiguousarray(block[channel]).data, self.marks[channel]
            )
        for one in range(self.channels):
            for other in range(one + 1, self.channels):
                self._apart[one, other] = max(
                    self._apart[one, other], float(np.abs(block[one] - block[other]).max())
                )
        if self.channels >= 2:
            left, right = block[0].astype(np.float64), block[1].astype(np.float64)
            self._power += (float(left @ left), float(right @ right), float(left @ right))
        self._tone.append(self._pitch(block))
        self.heard += block.shape[1]

    def _silence(self, loudest: Samples) -> None:
        loud = np.flatnonzero(loudest >= SILENT_BELOW)
        if not len(loud):
            return
        first, last = self.heard + int(loud[0]), self.heard + int(loud[-1])
        if self._quiet_from is not None and first > self._quiet_from:
            self._note(self._quiet_from, first)
        # Within a block nothing is long enough: only what follows its last loud sample counts.
        self._quiet_from = last + 1

    def _note(self, start: int, end: int) -> None:
        if end - start >= SILENT_SECONDS * self.rate:
            self.quiet.append((start, end))

    def _pitch(self, block: Samples) -> float | None:
        """Give the pitch in Hz where a block's first loud channel is one pure tone, else None."""
        loud = np.flatnonzero(np.abs(block).max(axis=1) >= SILENT_BELOW)
        if not len(loud) or block.shape[1] < self.block:
            return None
        power = np.abs(np.fft.rfft(block[loud[0]] * np.hanning(block.shape[1]))) ** 2
        top = int(power.argmax())
        total = float(power.sum())
        if top < 2 or float(power[max(0, top - 2) : top + 3].sum()) < TONE_SHARE * total:
            return None
        return float(top * self.rate / block.shape[1])

    def finish(self) -> None:
        """Listen to what is left at the end."""
        if self._waiting:
            self._listen(np.concatenate(self._kept, axis=1))
            self._kept, self._waiting = [], 0
        if self._quiet_from is not None:
            self._note(self._quiet_from, self.heard)

    @property
    def tones(self) -> list[tuple[int, int, float]]:
        """Give stretches of one pitch as (first block, last block, Hz)."""
        found: list[tuple[int, int, float]] = []
        for number, pitch in enumerate(self._tone):
            if pitch is None:
                continue
            if found and found[-1][1] == number - 1 and abs(found[-1][2] - pitch) <= 12:
                found[-1] = (found[-1][0], number, found[-1][2])
            else:
                found.append((number, number, pitch))
        return [t for t in found if (t[1] - t[0] + 1) * BLOCK >= TONE_SECONDS]

    @property
    def lined_up(self) -> int:
        """Count the blocks of a tone that stands at the start."""
        return next((last + 1 for first, last, _ in self.tones if first == 0), 0)

    def facts(self) -> dict[str, Value | None]:
        """Give what was found over the whole."""
        if not self.heard:
            return {}
        dead = [str(n + 1) for n, peak in enumerate(self.peaks) if peak < SILENT_BELOW]
        values: dict[str, Value | None] = {
            "sound.silence": Fraction(sum(b - a for a, b in self.quiet), self.rate),
            "sound.tone": sum(((b - a + 1) * BLOCK for a, b, _ in self.tones), Fraction(0)),
            "sound.tone_before": self.lined_up * BLOCK,
            "sound.dead_channels": ", ".join(dead) or "none",
            "sound.same_channels": self._same(dead),
        }
        left, right, both = self._power
        if self.channels >= 2 and left > 1e-9 and right > 1e-9:
            values["sound.phase"] = Fraction(round(100 * both / (left * right) ** 0.5), 100)
        return values

    def _same(self, dead: list[str]) -> str:
        pairs = [
            f"{one + 1} = {other + 1}"
            for one in range(self.channels)
            for other in range(one + 1, self.channels)
            if self._apart[one, other] <= SAME_WITHIN * max(self.peaks[one], self.peaks[other])
            and str(one + 1) not in dead
        ]
        return ", ".join(pairs) or "none"

    def events(self, offset: Fraction, rate: Fraction | None) -> list[Event]:
        """Give silent stretches and tones.

        Args:
            offset: seconds from the first picture to the first sample.
            rate: frames a second, for the frames' numbers; None for sound alone.
        """

        def event(kind: str, start: Fraction, end: Fraction, what: str) -> Event:
            start, end = start + offset, end + offset
            first = max(0, int(start * rate)) if rate else None
            last = max(0, -int(-end * rate // 1) - 1) if rate else None
            return Event(kind, start, end, what, first, last, self.track)  # type: ignore[arg-type]

        made = [
            event(
                "silent",
                Fraction(a, self.rate),
                Fraction(b, self.rate),
                f"silent for {(b - a) / self.rate:.2f} s",
            )
            for a, b in self.quiet
        ]
        made += [
            event("tone", a * BLOCK, (b + 1) * BLOCK, f"a steady tone of {pitch:.0f} Hz")
            for a, b, pitch in self.tones
        ]
        return made

    def trace(self) -> dict[str, object]:
        """Give the curve for the screen: lowest and highest sample by channel (percent of full
        scale), and momentary loudness.
        """
        count = len(self._low) // self.channels
        if not count:
            return {}
        join = -(-count // MOST_POINTS)
        low, high = (
            np.frombuffer(kept, np.float32).reshape(count, self.channels)
            for kept in (self._low, self._high)
        )
        starts = np.arange(0, count, join)
        low, high = np.minimum.reduceat(low, starts), np.maximum.reduceat(high, starts)
        loud = self.momentary
        shown = [round(max(loud[n : n + join]), 1) for n in range(0, len(loud), join)]
        return {
            "step": float(BLOCK * join),
            "channels": [
                {
                    "low": np.round(low[:, c] * 100).astype(int).tolist(),
                    "high": np.round(high[:, c] * 100).astype(int).tolist(),
                }
                for c in range(self.channels)
            ],
            "momentary": shown,
        }


def oddities(heard: list[SoundContent]) -> list[str]:
    """Say which channels carry nothing, which of a surround carry the same, and which tracks are
    one and the same.
    """
    said = []
    for one in heard:
        facts = one.facts()
        whose = f"sound track {one.track}" if len(heard) > 1 else "the sound"
        if facts.get("sound.dead_channels", "none") != "none":
            dead = str(facts["sound.dead_channels"])
            word = "channels" if "," in dead else "channel"
            said.append(
                f"Of {whose}, {word} {dead} {'carry' if ',' in dead else 'carries'} nothing."
            )
        # Two like channels of a stereo pair are common (a voice in the middle); of a surround they
        # are not.
        if one.channels > 2 and facts.get("sound.same_channels", "none") != "none":
            said.append(f"Of {whose}, channels carry the same: {facts['sound.same_channels']}.")
    return said + _same_tracks(heard)


def _same_tracks(heard: list[SoundContent]) -> list[str]:
    known: dict[tuple[int, ...], int] = {}
    said = []
    for one in heard:
        mark = (one.heard, *one.marks)
        if mark in known:
            said.append(f"Sound tracks {known[mark]} and {one.track} carry the same.")
        elif one.heard and float(one.peaks.max()) >= SILENT_BELOW:
            known[mark] = one.track
    return said
