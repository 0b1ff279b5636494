"""Conversions of sound, one a type: what each does to its format (see `steps`)."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field

from ..units import loudspeakers
from ..units.parts import Exact, Part


class SoundFormat(Part):
    """Sound at one place of its way.

    Attributes:
        sample_rate: Hz.
        layout: the name of its loudspeakers' layout; empty for channels that belong to none.
        channels: how many there are.
        samples: its length; None where that is the master's.
    """

    sample_rate: int
    layout: str
    channels: int
    samples: int | None = None

    def having(self, **values: object) -> SoundFormat:
        """Give the same sound with other values."""
        return self.model_copy(update=values)


class Resample(Part):
    """Another sample rate; gaps in the time stamps become silence."""

    kind: Literal["resample"] = "resample"
    rate: int

    def after(self, f: SoundFormat) -> SoundFormat:
        return f.having(sample_rate=self.rate)


class Faster(Part):
    """Sound taken faster, or slower.

    Attributes:
        times: how many times as fast.
        pitch: whether its pitch is kept; else it follows.
        rate: its sample rate, Hz.
    """

    kind: Literal["faster"] = "faster"
    times: Exact
    pitch: bool
    rate: int

    def after(self, f: SoundFormat) -> SoundFormat:
        return f


class Mix(Part):
    """Channels by loudspeaker.

    Attributes:
        layout: of what is made.
        gains: a row a channel made, in the layout's order; in it a figure a channel taken.
    """

    kind: Literal["mix"] = "mix"
    layout: str
    gains: tuple[tuple[Exact, ...], ...]

    def after(self, f: SoundFormat) -> SoundFormat:
        return f.having(layout=self.layout, channels=len(loudspeakers.LAYOUTS[self.layout]))

    @property
    def keeps(self) -> bool:
        """Say whether every channel goes out as it is, and once."""
        lines = (*self.gains, *zip(*self.gains, strict=True))
        return all(sum(line) == max(line) == 1 for line in lines)

    @property
    def adds_up(self) -> bool:
        """Say whether peaks can add up over full scale."""
        return any(sum(row) > 1 for row in self.gains)


class Limit(Part):
    """Peaks held at -1 dBFS."""

    kind: Literal["limit"] = "limit"

    def after(self, f: SoundFormat) -> SoundFormat:
        return f


class Normalise(Part):
    """Loudness brought to a target by one gain, which is measured first, and peaks held.

    Attributes:
        target: LUFS over the whole; None where it stays.
        peak: the most that true peaks may be, dBTP.
        short_term: the most that any 3 s may be, LUFS; None where nobody asks.
        lossless: whether what is coded after it has its very peaks.
        line_up: seconds of tone at the start, which are neither heard nor turned.
    """

    kind: Literal["normalise"] = "normalise"
    target: Exact | None
    peak: Exact
    short_term: Exact | None = None
    lossless: bool = True
    line_up: Exact = Fraction(0)

    def after(self, f: SoundFormat) -> SoundFormat:
        return f


class Dither(Part):
    """Fewer bits, with noise in place of what rounding would distort.

    Attributes:
        bits: that are left.
    """

    kind: Literal["dither"] = "dither"
    bits: int

    def after(self, f: SoundFormat) -> SoundFormat:
        return f


class Fit(Part):
    """Cut, or followed by silence, to an exact number of samples."""

    kind: Literal["fit"] = "fit"
    samples: int

    def after(self, f: SoundFormat) -> SoundFormat:
        return f.having(samples=self.samples)


SoundStep = Annotated[
    Resample | Faster | Mix | Limit | Normalise | Fit | Dither, Field(discriminator="kind")
]
