"""Loudness brought to a target: a track is heard as it would be coded, until it is as asked.

First it is heard as it is mixed. Where one gain does, that is worked out from there; where peaks
are held or the loudest three seconds turned down, which changes the loudness, it is heard again.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, field, replace
from math import ceil

import numpy as np
from av.audio.frame import AudioFrame

from ..core.planning.plan import Plan
from ..core.planning.sound_steps import Normalise, SoundFormat
from ..core.planning.streams import AnySound, MadeSound
from ..core.units import gating
from . import graphs
from .feeds import Report
from .levels import Curve, Levels
from .read import open_media
from .sound_lowering import SoundTaken
from .sources import Source

MOST_HEARD = 8  # times that a track is heard
WITHIN = 0.05  # LU by which loudness may lie beside its target
UNDER = 0.1  # dB by which peaks and short-term loudness stay below their limits
CODED_UNDER = 1.0  # the same of peaks before a coder that is not lossless (common practice)
TENTHS, SMOOTH = 30, 10  # tenths of a second: what is heard together, and how fast a gain changes
SILENT = -70.0  # LUFS that the meter says where nothing was loud enough to count


@dataclass
class Loudness:
    """What was heard of a track: LUFS of the whole, of every 0.4 s and of every 3 s, by tenths, and
    the peak.
    """

    whole: float = SILENT
    momentary: list[float] = field(default_factory=list)
    short: list[float] = field(default_factory=list)
    peak: float = -200.0

    def after(self, tenths: int) -> Loudness:
        """Give the loudness of what comes after so many tenths of a second."""
        whole = gating.integrated(self.momentary, tenths)
        before = min(len(self.short), tenths + gating.TENTHS_S - 1)
        short = [SILENT] * before + self.short[before:]
        return replace(self, whole=SILENT if whole is None else whole, short=short)


class Ear:
    """Takes the sound that would be coded, and hears its loudness."""

    def __init__(self, f: SoundFormat) -> None:
        self.takes = SoundTaken("fltp", f.layout)
        self.samples = 0
        self.heard = Loudness()
        self._meter: graphs.Filtered | None = None

    def write(self, frame: AudioFrame) -> None:
        """Hear the next samples."""
        self.samples += frame.samples
        if self._meter is None:
            self._meter = graphs.loudness_meter(frame)
        self._note(self._meter.push(frame))

    def finish(self) -> None:
        """Hear what the meter has kept back."""
        if self._meter is not None:
            self._note(self._meter.push(None))

    def _note(self, frames: Sequence[object]) -> None:
        for frame in frames:
            assert isinstance(frame, AudioFrame)
            said = frame.metadata
            if "lavfi.r128.I" not in said:
                continue
            self.heard.whole = float(said["lavfi.r128.I"])
            self.heard.momentary.append(float(said["lavfi.r128.M"]))
            self.heard.short.append(float(said["lavfi.r128.S"]))
            peaks = [float(v) for k, v in said.items() if k.startswith("lavfi.r128.true_peaks_ch")]
            loudest = max(peaks, default=0.0)
            self.heard.peak = 20 * float(np.log10(loudest)) if loudest > 1e-10 else -200.0


# What is done to tracks that were heard: by which they are, of what, and what is made of them.
Heard = dict[tuple[object, ...], Levels]


def levels_of(plan: Plan, inputs: Sequence[str], report: Report, known: Heard) -> dict[int, Levels]:
    """Hear the tracks of a plan that are brought to a loudness: what is done to each, by its place
    among the plan's streams. What is known already is not heard again, and what is heard is known
    from then on.
    """
    steps = {
        number: step
        for number, stream in enumerate(plan.streams)
        if isinstance(stream, MadeSound)
        for step in stream.steps
        if isinstance(step, Normalise)
    }
    keys = {number: _key(plan, number) for number in steps}
    levels = {
        number: known.get(key, Levels(begin=float(steps[number].line_up)))
        for number, key in keys.items()
    }
    open_ones = {number for number, key in keys.items() if key not in known}
    for _ in range(MOST_HEARD):
        if not open_ones:
            break
        heard = _heard(plan, inputs, {n: levels[n] for n in open_ones}, report)
        for number, loudness in heard.items():
            levels[number], settled = brought(steps[number], levels[number], loudness)
            if settled:
                open_ones.discard(number)
    known.update({keys[number]: done for number, done in levels.items()})
    return levels


def _key(plan: Plan, number: int) -> tuple[object, ...]:
    stream = plan.streams[number]
    assert isinstance(stream, MadeSound)
    taken = stream.input, plan.inputs[stream.input], plan.programme
    return *taken, stream.tracks, stream.source, stream.steps


def said(plan: Plan, levels: Mapping[int, Levels]) -> list[str]:
    """Say what was done to each track."""
    sounds = [n for n, stream in enumerate(plan.streams) if isinstance(stream, AnySound)]
    notes = []
    for number, done in levels.items():
        track = f"Sound track {sounds.index(number) + 1}" if len(sounds) > 1 else "The sound"
        parts = [f"was turned {'up' if done.gain > 0 else 'down'} by {abs(done.gain):.1f} dB"]
        if done.ceiling is not None:
            parts.append(f"its peaks were held at {done.ceiling:.1f} dBTP")
        if len(done.ride):
            parts.append(f"what was too loud was turned down by up to {-done.ride.min():.1f} dB")
        notes.append(f"{track} {'; '.join(parts)}.".replace("-", "\N{MINUS SIGN}"))
    return notes


def _heard(
    plan: Plan, inputs: Sequence[str], levels: dict[int, Levels], report: Report
) -> dict[int, Loudness]:
    """Hear tracks once, with what is done to them so far."""
    ears: dict[int, Ear] = {}
    with ExitStack() as opened:
        for place, (path, taken) in enumerate(zip(inputs, plan.inputs, strict=True)):
            mine = [n for n in levels if plan.streams[n].input == place]
            if not mine:
                continue
            source = Source(opened.enter_context(open_media(path)), taken, plan.programme)
            for number in mine:
                stream = plan.streams[number]
                assert isinstance(stream, MadeSound)
                ears[number] = Ear(stream.format)
                source.give_sound(stream, ears[number], report, levels[number])
            for _ in source.run():
                pass
    for ear in ears.values():
        ear.finish()
    return {number: ear.heard for number, ear in ears.items()}


def brought(step: Normalise, levels: Levels, heard: Loudness) -> tuple[Levels, bool]:
    """Correct what is done to a track by how it was heard: what is done now, and whether that is
    enough without hearing it again.
    """
    if step.line_up:
        heard = heard.after(1 + ceil(10 * step.line_up))
    if heard.whole <= SILENT:
        return Levels(), True
    error = 0.0 if step.target is None else float(step.target) - heard.whole
    short = np.array(heard.short)
    excess = np.zeros(0)
    if step.short_term is not None:
        excess = np.maximum(0, short + error - (float(step.short_term) - UNDER))
    limit = float(step.peak) - (UNDER if step.lossless else CODED_UNDER)
    over = heard.peak + error - limit
    if levels.ceiling is not None:
        # What is held comes out a little over where it is brought back to fewer samples.
        over = heard.peak - limit
    rides = bool(excess.max(initial=0) > UNDER / 2)
    if abs(error) <= WITHIN and not rides and over <= UNDER / 2:
        return levels, True
    ceiling = levels.ceiling
    if over > 0:
        ceiling = limit if ceiling is None else ceiling - over
    ride = _turned_down(levels.ride, excess) if rides else levels.ride
    made = replace(levels, gain=levels.gain + error, ride=ride, ceiling=ceiling)
    return made, ceiling is None and not len(ride)


def _turned_down(ride: Curve, excess: Curve) -> Curve:
    """Turn down everything that was heard together with what is too loud, and gently to there."""
    before = ride if len(ride) else np.zeros(len(excess))
    ahead = np.concatenate([excess, np.zeros(TENTHS + SMOOTH)])
    around = np.lib.stride_tricks.sliding_window_view(
        np.concatenate([np.zeros(SMOOTH), ahead]), TENTHS + 2 * SMOOTH
    )
    needed = around.max(axis=1)[: len(excess) + 1]
    kernel = np.hanning(2 * SMOOTH + 1)
    padded = np.pad(needed, SMOOTH, mode="edge")
    smooth = np.convolve(padded, kernel / kernel.sum(), mode="valid")[: len(before)]
    return before - smooth
