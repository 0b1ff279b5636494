"""What a route makes of sound, heard before it is coded: levels of what comes in and of what goes
out, where a limiter works, and copies of both to listen to.

Runs inside the child process.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np
import numpy.typing as npt
from av.audio.frame import AudioFrame

from ..core.planning.plan import Plan
from ..core.planning.sound_steps import (
    Fit,
    Limit,
    Mix,
    Normalise,
    SoundStep,
)
from ..core.planning.streams import MadeSound
from ..core.units import gating, loudspeakers, peaks
from .graphs import samples_of
from .levelling import Ear, Heard, levels_of
from .levels import Levels
from .listening import Listening
from .read import open_media
from .sound_lowering import SoundTaken
from .sources import Source

Progress = Callable[[dict[str, Any]], None]
Samples = npt.NDArray[np.float32]

SILENT = -200.0  # dBFS
WINDOWS = 10  # of a tenth of a second, in each of which a gain is judged
LOUD = 0.01  # of full scale: below it no gain is judged
HELD = 0.1  # dB from which a limiter is said to work
HOLDS = Limit | Normalise


def handle(
    progress: Progress, inputs: Sequence[str], plan: dict[str, Any], outs: Sequence[str]
) -> dict[str, Any]:
    """Hear the sound that a plan makes.

    Args:
        progress: told of each sign of life.
        inputs: paths of the plan's inputs.
        plan: as JSON; of the programme alone.
        outs: paths of what can be listened to, one for each track that is made of the master's.

    Returns:
        {tracks: [{taken, made: {loudness, range, short_term, true_peak, momentary, peaks, most},
        gain, held, most_held, seconds_held, mixed}], seconds}. Loudness in LUFS and LU, peaks in
        dBFS; `momentary`, `peaks` (by channel) and `held` (dB) by tenths of a second, packed;
        `mixed` says whether what was taken had no layout, and is heard as it is mixed.
    """
    known, began = Plan.model_validate(plan), time.monotonic()

    def report(stage: str) -> Callable[[Fraction], None]:
        def tell(reached: Fraction) -> None:
            elapsed = time.monotonic() - began
            share = min(1.0, float(reached / known.seconds)) if known.seconds else 1.0
            told = {"stage": stage, "frame": 0, "elapsed": elapsed, "share": share}
            progress({**told, "speed": float(reached) / elapsed if elapsed else 0.0})

        return tell

    found: Heard = {}
    levels = levels_of(known, inputs, report("listen"), found)
    tracks = [
        _Track(stream, levels.get(number), out)
        for (number, stream), out in zip(heard_of(known), outs, strict=True)
    ]
    _run(known, inputs, tracks, report("hear"))
    return {"tracks": [one.as_json() for one in tracks], "seconds": time.monotonic() - began}


def heard_of(plan: Plan) -> list[tuple[int, MadeSound]]:
    """List the tracks that are made of a master's sound, with their places among the streams."""
    return [
        (number, stream)
        for number, stream in enumerate(plan.streams)
        if isinstance(stream, MadeSound) and stream.tracks
    ]


def _run(
    plan: Plan,
    inputs: Sequence[str],
    tracks: Sequence[_Track],
    report: Callable[[Fraction], None],
) -> None:
    with ExitStack() as opened:
        for place, (path, taken) in enumerate(zip(inputs, plan.inputs, strict=True)):
            mine = [one for one in tracks if one.made.input == place]
            if not mine:
                continue
            source = Source(opened.enter_context(open_media(path)), taken, plan.programme)
            for one in mine:
                one.hear(source, report)
            for _ in source.run():
                for one in mine:
                    one.take()
    for one in tracks:
        one.finish()


@dataclass
class _Tap:
    """Takes sound at one place of its way."""

    ear: Ear
    takes: SoundTaken
    waiting: list[Samples] = field(default_factory=list)
    samples: int = 0

    def write(self, frame: AudioFrame) -> None:
        self.samples += frame.samples
        self.waiting.append(samples_of(frame))
        self.ear.write(frame)

    @property
    def ready(self) -> int:
        return sum(block.shape[1] for block in self.waiting)

    def given(self, samples: int) -> Samples:
        """Give so many samples of each channel, or all that are left."""
        block = np.concatenate(self.waiting, axis=1)
        self.waiting = [block[:, samples:]]
        return block[:, :samples]


class _Track:
    """A track as it is taken, as it is mixed and as it is made, sample beside sample."""

    def __init__(self, made: MadeSound, levels: Levels | None, out: str) -> None:
        self.made, self.levels = made, levels or Levels()
        self._rate = made.format.sample_rate
        # What belongs to no layout has no loudness, and is heard as it is mixed.
        self.mixed = loudspeakers.count(made.source.layout) != made.source.channels
        mixed = _until(made, HOLDS)
        begun = mixed if self.mixed else _as_taken(made)
        self._ways = [begun, mixed, made]
        self._taps = [_tap(way) for way in self._ways]
        speakers = [loudspeakers.LAYOUTS[way.format.layout] for way in (begun, made)]
        self._listening = Listening(out, self._rate, speakers[0], speakers[1])
        self._tenths = 0
        self._peaks: list[list[npt.NDArray[np.float64]]] = [[], []]
        self._held: list[float] = []

    def hear(self, source: Source, report: Callable[[Fraction], None]) -> None:
        """Have the track read from a source at its three places."""
        for way, tap in zip(self._ways, self._taps, strict=True):
            source.give_sound(way, tap, report, self.levels)

    def take(self) -> None:
        """Judge what has come at all three places."""
        while min(tap.ready for tap in self._taps) >= self._of_a_tenth:
            self._judge(self._of_a_tenth)

    @property
    def _of_a_tenth(self) -> int:
        return (self._tenths + 1) * self._rate // 10 - self._tenths * self._rate // 10

    def _judge(self, samples: int) -> None:
        taken, mixed, made = (tap.given(samples) for tap in self._taps)
        for kept, block in zip(self._peaks, (taken, made), strict=True):
            kept.append(_decibels(np.abs(block).max(axis=1)))
        first = self._tenths * self._rate // 10
        turned = mixed * self.levels.factors(first, mixed.shape[1], self._rate)
        self._held.append(_held(turned, made))
        self._listening.write(taken, made)
        self._tenths += 1

    def finish(self) -> None:
        """Judge what is left, and close what can be listened to."""
        self.take()
        left = min(tap.ready for tap in self._taps)
        if left:
            self._judge(left)
        for tap in self._taps:
            tap.ear.finish()
        self._listening.close()

    def as_json(self) -> dict[str, Any]:
        """Give what was heard."""
        line_up = _line_up(self.made)
        taken, made = (
            _side(tap, levels, line_up)
            for tap, levels in zip((self._taps[0], self._taps[2]), self._peaks, strict=True)
        )
        held = np.array(self._held)
        return {
            "taken": taken,
            "made": made,
            "mixed": self.mixed,
            "gain": self.levels.gain,
            "held": peaks.HELD.packed(held),
            "most_held": float(held.max(initial=0)),
            "seconds_held": float((held >= HELD).sum() / 10),
        }


def _tap(way: MadeSound) -> _Tap:
    ear = Ear(way.format)
    return _Tap(ear, ear.takes)


def _as_taken(made: MadeSound) -> MadeSound:
    """Give a track's channels as they are taken, as long as it is made."""
    begun, source = _until(made, Mix), made.source
    same = tuple(
        tuple(Fraction(n == other) for other in range(source.channels))
        for n in range(source.channels)
    )
    *steps, fit = begun.steps
    every = Mix(layout=source.layout, gains=same)
    return begun.model_copy(update={"steps": (*steps, every, fit)})


def _until(made: MadeSound, end: type[SoundStep] | Any) -> MadeSound:
    """Give a track as it is before the first step of a kind, as long as it is made."""
    steps: list[SoundStep] = []
    for step in made.steps:
        if isinstance(step, end):
            break
        if not isinstance(step, Fit):
            steps.append(step)
    fits = [step for step in made.steps if isinstance(step, Fit)]
    return made.model_copy(update={"steps": (*steps, *fits)})


def _line_up(made: MadeSound) -> Fraction:
    brought = next((step for step in made.steps if isinstance(step, Normalise)), None)
    return Fraction(0) if brought is None else Fraction(brought.line_up)


def _side(
    tap: _Tap, levels: Sequence[npt.NDArray[np.float64]], line_up: Fraction
) -> dict[str, Any]:
    heard, tenths = tap.ear.heard, int(10 * line_up)
    by_channel = np.array(levels).T if levels else np.zeros((0, 0))
    whole = gating.integrated(heard.momentary, tenths)
    short = gating.loudest(heard.short, tenths, gating.TENTHS_S)
    return {
        "speakers": list(loudspeakers.LAYOUTS[tap.takes.layout]),
        "loudness": whole,
        "range": gating.loudness_range(heard.short, tenths),
        "short_term": short,
        "true_peak": heard.peak,
        "momentary": peaks.LEVELS.packed(heard.momentary),
        "peaks": [peaks.LEVELS.packed(channel) for channel in by_channel],
        "most": [float(channel.max(initial=SILENT)) for channel in by_channel],
    }


def _decibels(factors: npt.NDArray[np.floating[Any]]) -> npt.NDArray[np.float64]:
    made: npt.NDArray[np.float64] = 20 * np.log10(np.maximum(factors, 1e-10, dtype=np.float64))
    return made


def _held(turned: Samples, made: Samples) -> float:
    """Give by how many dB the peaks of a tenth of a second are held at most.

    A limiter turns all channels alike. Its gain is that by which what is loudest of a window comes
    out smaller, by least squares: where sound was brought to other samples on the way, it lies
    beside what went in by a hair.
    """
    most = 0.0
    for before, after in zip(
        np.array_split(turned, WINDOWS, axis=1),
        np.array_split(made, WINDOWS, axis=1),
        strict=True,
    ):
        size = np.abs(before)
        top = float(size.max(initial=0))
        if top < LOUD:
            continue
        loud = size >= top / 2
        gain = float((before[loud] * after[loud]).sum() / (before[loud] ** 2).sum())
        most = max(most, -20 * float(np.log10(max(gain, 1e-6))))
    return most if most >= HELD else 0.0
