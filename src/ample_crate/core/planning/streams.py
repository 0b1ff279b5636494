"""The streams of a plan: each is made by steps and an encoding, or copied as it is coded."""

from __future__ import annotations

from fractions import Fraction
from functools import reduce
from typing import Annotated, Literal

from pydantic import Field

from .. import formats
from ..formats.codec import SoundCodec
from ..formats.size import Amount, RateControlled
from ..units.parts import Part
from .burn_in import BurnIn
from .encoding import PictureEncoding, PictureFixed, RatedPicture, SoundEncoding
from .sound_steps import Fit, SoundFormat, SoundStep
from .steps import PictureFormat, PictureStep

HEADS = 96  # bytes at most that wrappers write differently before a coded frame


class Reframed(Part):
    """What is done instead to frames of ranges that are framed otherwise: the same but for what is
    taken of the frame and where that is set, so that it gives as many frames at the same times.

    Attributes:
        ranges: frames of the master's file, first and last of each.
        steps: conversions, in order.
    """

    ranges: tuple[tuple[int, int], ...]
    steps: tuple[PictureStep, ...]

    def holds(self, frame: int) -> bool:
        """Say whether a frame of the master's file lies within."""
        return any(first <= frame <= last for first, last in self.ranges)


class MadePicture(Part):
    """A picture that is encoded.

    Attributes:
        input: the file that it comes from, by its place in the plan.
        source: what that file's picture is taken to be.
        steps: conversions, in order.
        reframed: what is done instead in ranges that are framed otherwise.
        burnt: what is burnt in behind them; None for nothing.
    """

    kind: Literal["picture"] = "picture"
    input: int = 0
    source: PictureFormat
    steps: tuple[PictureStep, ...]
    reframed: tuple[Reframed, ...] = ()
    burnt: BurnIn | None = None
    encoding: PictureEncoding

    @property
    def format(self) -> PictureFormat:
        """Give the format that the encoder gets."""
        return picture_after(self.source, self.steps)

    @property
    def ways(self) -> list[tuple[PictureStep, ...]]:
        """List all ways that frames go: the usual one, and those of `reframed`."""
        return [self.steps, *(one.steps for one in self.reframed)]

    def way(self, frame: int) -> int:
        """Say which of them a frame of the master's file goes."""
        return next((n for n, one in enumerate(self.reframed, 1) if one.holds(frame)), 0)

    @property
    def codec(self) -> str:
        """Give the key of its codec."""
        return self.encoding.codec

    @property
    def rated(self) -> RatedPicture | None:
        """Give its encoding where that keeps to a rate."""
        return self.encoding if isinstance(self.encoding, RatedPicture) else None

    @property
    def bends(self) -> bool:
        """Say whether it can be made smaller."""
        return self.rated is not None

    @property
    def known(self) -> bool:
        """Say whether its size is settled before it is made."""
        return self.bends or isinstance(self.encoding, PictureFixed)

    @property
    def gop(self) -> int:
        """Give the frames from one key frame to the next at most."""
        return 1 if self.rated is None else self.rated.gop

    @property
    def reordered(self) -> bool:
        """Say whether frames are coded in another order than they are shown."""
        return self.rated is not None and self.rated.b_frames > 0

    @property
    def passes(self) -> int:
        """Say how often the master is gone through."""
        return self.encoding.passes

    def amount(self, frames: int) -> Amount:
        """Give the bytes of so many coded frames."""
        return self.encoding.amount(self.format, frames)


class CopiedPicture(Part):
    """A picture whose coded frames go over as they are.

    Attributes:
        input: the file that it comes from, by its place in the plan.
        codec, profile: as they are read.
        tag: four characters by which the wrapper names it; empty where the codec's usual ones do.
        format: what that file's picture is.
        gop: frames from one key frame to the next at most.
        reordered: whether frames are coded in another order than they are shown.
        bytes: of the coded frames, as (least, expected, most).
    """

    kind: Literal["copied picture"] = "copied picture"
    input: int = 0
    codec: str
    profile: str = ""
    tag: str = ""
    format: PictureFormat
    gop: int
    reordered: bool
    bytes: tuple[int, int, int]

    @property
    def rated(self) -> None:
        """Give no encoding."""
        return

    @property
    def known(self) -> bool:
        """Say whether its size is settled: it is what it was, to a few bytes a frame."""
        return False

    @property
    def bends(self) -> bool:
        """Say whether it could be made smaller, were it encoded."""
        making = formats.PICTURE[self.codec].made
        return making is not None and isinstance(making.size, RateControlled)

    @property
    def passes(self) -> int:
        """Say how often the master is gone through."""
        return 1

    def amount(self, frames: int) -> Amount:
        """Give the bytes of the coded frames."""
        return Amount(*self.bytes)


class MadeSound(Part):
    """A sound track that is encoded.

    Attributes:
        input: the file that it comes from, by its place in the plan.
        tracks: of that file, counted from 1, whose channels are taken in this order; none for
            silence.
        source: what their channels are, taken together.
        steps: conversions, in order.
        language: that the file names, by ISO 639-2; empty where it names none.
        name: what the file calls it; empty for nothing.
        enabled: whether it is played unasked, where the file says so.
    """

    kind: Literal["sound"] = "sound"
    input: int = 0
    tracks: tuple[int, ...]
    source: SoundFormat
    steps: tuple[SoundStep, ...]
    encoding: SoundEncoding
    language: str = ""
    name: str = ""
    enabled: bool = True

    @property
    def format(self) -> SoundFormat:
        """Give the format that the encoder gets."""
        return sound_after(self.source, self.steps)

    @property
    def codec(self) -> str:
        """Give the key of its codec."""
        return self.encoding.codec

    @property
    def row(self) -> SoundCodec:
        """Give its codec's row."""
        return self.encoding.row

    @property
    def rate(self) -> int | None:
        """Give its b/s; None where they are known when it is made."""
        return self.encoding.rate(self.format)

    def amount(self, seconds: Fraction) -> Amount:
        """Give the bytes of the coded sound of a time."""
        return self.encoding.amount(self.format, seconds)


def lengthened(sound: MadeSound, seconds: Fraction) -> MadeSound:
    """Give a track that is so much longer than what is made of the master."""
    more = round(seconds * sound.format.sample_rate)
    fitted = tuple(
        Fit(samples=step.samples + more) if isinstance(step, Fit) else step for step in sound.steps
    )
    return sound.model_copy(update={"steps": fitted})


class CopiedSound(Part):
    """A sound track whose coded frames go over as they are.

    Attributes:
        input: the file that it comes from, by its place in the plan.
        track: of that file, counted from 1.
        codec: as it is read.
        format: what its channels are.
        rate: b/s.
        language: that the file names, by ISO 639-2; empty where it names none.
        name: what the file calls it; empty for nothing.
        enabled: whether it is played unasked, where the file says so.
    """

    kind: Literal["copied sound"] = "copied sound"
    input: int = 0
    track: int
    codec: str
    format: SoundFormat
    rate: int
    language: str = ""
    name: str = ""
    enabled: bool = True

    @property
    def row(self) -> SoundCodec:
        """Give its codec's row."""
        return formats.SOUND[self.codec]

    def amount(self, seconds: Fraction) -> Amount:
        """Give the bytes of the coded sound of a time; wrappers gather frames each in their own
        way.
        """
        frame = Fraction(2 * self.row.frame_samples, self.format.sample_rate)
        around = (max(Fraction(0), seconds - frame), seconds, seconds + frame)
        least, expected, most = (int(self.rate * time / 8) for time in around)
        return Amount(least * 49 // 50, expected, most * 51 // 50 + 1)


class Text(Part):
    """Captions or subtitles that are text, put into the wrapper's own form.

    Attributes:
        input: the file that it comes from, by its place in the plan.
        number: of that file's tracks of captions, counted from 1.
        codec: of the form.
        language: that the file names, by ISO 639-2; empty where it names none.
    """

    kind: Literal["text"] = "text"
    input: int = 0
    number: int
    codec: str
    language: str = ""

    def amount(self, seconds: Fraction) -> Amount:
        """Give the bytes of a time: some lines a minute, at most what can be read (common
        practice: 20 characters a second of up to 4 bytes), and what a wrapper says of a track.
        """
        return Amount(0, int(8 * seconds) + 700, int(160 * seconds) + 4096)


class CopiedCaptions(Part):
    """Captions or subtitles that go over as they are: pictures, which are not turned into text.

    Attributes:
        input, number, codec, language: as of text.
    """

    kind: Literal["copied captions"] = "copied captions"
    input: int = 0
    number: int
    codec: str
    language: str = ""

    def amount(self, seconds: Fraction) -> Amount:
        """Give the bytes of a time: a picture of some thousand bytes every few seconds, at most one
        of tens of thousands a second (common practice).
        """
        return Amount(0, int(1000 * seconds) + 700, int(60_000 * seconds) + 4096)


AnyPicture = MadePicture | CopiedPicture
AnySound = MadeSound | CopiedSound
Copied = CopiedPicture | CopiedSound
Captions = Text | CopiedCaptions
Stream = Annotated[
    MadePicture | CopiedPicture | MadeSound | CopiedSound | Text | CopiedCaptions,
    Field(discriminator="kind"),
]


def picture_after(source: PictureFormat, steps: tuple[PictureStep, ...]) -> PictureFormat:
    """Fold steps over a picture's format."""
    return reduce(lambda f, step: step.after(f), steps, source)


def sound_after(source: SoundFormat, steps: tuple[SoundStep, ...]) -> SoundFormat:
    """Fold steps over a sound's format."""
    return reduce(lambda f, step: step.after(f), steps, source)
