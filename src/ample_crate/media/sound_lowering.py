"""Each conversion of sound as filters of the codec library: one entry a type."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from ..core.planning import sound_steps
from ..core.planning.sound_steps import SoundFormat, SoundStep

Chain = list[tuple[str, str]]


def sound_chain(ordered: tuple[SoundStep, ...]) -> Chain:
    """Give the filters of steps in order."""
    return [one for step in ordered for one in SOUND[type(step)](step)]


def _resample(step: sound_steps.Resample) -> Chain:
    # Gaps in the master's time stamps, and a late start, become silence.
    return [("aresample", f"osr={step.rate}:async=1:min_hard_comp=0.01:first_pts=0")]


def _faster(step: sound_steps.Faster) -> Chain:
    """Stretch it by overlapping likenesses; or call its samples so many more a second, and give as
    many as before.
    """
    if step.pitch:
        return [("atempo", f"{float(step.times):.15g}")]
    played = step.rate * step.times
    finer = played.denominator
    there = [("aresample", f"osr={step.rate * finer}")] if finer > 1 else []
    return [*there, ("asetrate", str(played.numerator)), ("aresample", f"osr={step.rate}")]


def _mix(step: sound_steps.Mix) -> Chain:
    """Mix by the channels' numbers: what a file calls its layout decides nothing."""
    picked = [row.index(1) for row in step.gains if sum(row) == max(row) == 1]
    if len(set(picked)) == len(step.gains):
        return [_renamed(step.layout, picked)]
    rows = [f"c{made}={_sum(row)}" for made, row in enumerate(step.gains)]
    mixing = [("pan", "|".join([step.layout, *rows]))]
    # Sums over full scale are held by the limiter that follows, and must not be cut before.
    wide: Chain = [("aformat", "sample_fmts=dblp")] if step.adds_up else []
    return [*wide, *mixing]


def _renamed(layout: str, taken: Sequence[int]) -> tuple[str, str]:
    """Give the filter that calls channels those of a layout: the mixer, left to do it, mixes some
    by what the loudspeakers are called.
    """
    return ("channelmap", f"map={'|'.join(map(str, taken))}:channel_layout={layout}")


def _sum(gains: tuple[Any, ...]) -> str:
    terms = [f"{float(gain):.9g}*c{taken}" for taken, gain in enumerate(gains) if gain]
    return "+".join(terms) or "0*c0"


def _limit(step: sound_steps.Limit) -> Chain:
    return [("alimiter", "limit=0.891251:level=0:latency=1")]


def held(ceiling: float, rate: int) -> Chain:
    """Give the filters that hold true peaks, in dBTP: of four times as many samples."""
    # The limiter's own units; it looks 5 ms ahead.
    limit = f"limit={10 ** (ceiling / 20):.6f}:attack=5:release=50:level=0:latency=1"
    return [("aresample", f"osr={4 * rate}"), ("alimiter", limit), ("aresample", f"osr={rate}")]


def _dither(step: sound_steps.Dither) -> Chain:
    return [("aresample", f"osf=s{step.bits}:dither_method=triangular")]


def _fit(step: sound_steps.Fit) -> Chain:
    return [("apad", f"whole_len={step.samples}"), ("atrim", f"end_sample={step.samples}")]


SOUND: dict[type[Any], Callable[[Any], Chain]] = {
    sound_steps.Resample: _resample,
    sound_steps.Faster: _faster,
    sound_steps.Mix: _mix,
    sound_steps.Limit: _limit,
    # What it does is known when the sound was heard: it stands between two graphs.
    sound_steps.Normalise: lambda step: [],
    sound_steps.Dither: _dither,
    sound_steps.Fit: _fit,
}


class SoundTaken(NamedTuple):
    """What an encoder of sound takes, by the library's names."""

    sample_format: str
    layout: str


def encoder_takes(f: SoundFormat, takes: SoundTaken) -> Chain:
    """Give the filters that lay samples out for an encoder."""
    # Channels keep their numbers, whatever the encoder calls their layout.
    renamed = _renamed(takes.layout, range(f.channels))
    chain: Chain = [renamed] if takes.layout != f.layout else []
    wanted = f"sample_fmts={takes.sample_format}:channel_layouts={takes.layout}"
    return [*chain, ("aformat", f"{wanted}:sample_rates={f.sample_rate}")]
