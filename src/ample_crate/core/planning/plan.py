"""A plan as data: the files to make, the streams in them, and how each comes about."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import reduce
from typing import Annotated, Any, Literal

from pydantic import Field

from .. import formats
from ..facts import Facts
from ..formats.size import Amount, exactly
from ..formats.wrapper import Contents
from ..units.parts import Exact, Part
from .encoding import PictureEncoding, RatedPicture, SoundEncoding
from .notes import Caution, Step
from .steps import PictureFormat, PictureStep, SoundFormat, SoundStep

Clock = Literal["even", "uneven", "given", "unknown"]


class Input(Part):
    """A file that is read.

    Attributes:
        rate: frames a second as they are taken; None of sound alone.
        first: the frame that is delivered first.
        clock: whether frames last equally long; "given" has them last as long as the rate says,
            whatever their time stamps say.
    """

    rate: Exact | None
    first: int = 0
    clock: Clock = "unknown"

    @property
    def start(self) -> Fraction:
        """Give the seconds from the file's first frame to the first that is delivered."""
        return Fraction(0) if self.rate is None else self.first / self.rate


class MadePicture(Part):
    """A picture that is encoded.

    Attributes:
        input: the file that it comes from, by its place in the plan.
        source: what that file's picture is taken to be.
        steps: conversions, in order.
    """

    kind: Literal["picture"] = "picture"
    input: int = 0
    source: PictureFormat
    steps: tuple[PictureStep, ...]
    encoding: PictureEncoding

    @property
    def format(self) -> PictureFormat:
        """Give the format that the encoder gets."""
        return picture_after(self.source, self.steps)


class MadeSound(Part):
    """A sound track that is encoded.

    Attributes:
        input: the file that it comes from, by its place in the plan.
        tracks: of that file, counted from 1, whose channels are taken in this order; none for
            silence.
        source: what their channels are, taken together.
        steps: conversions, in order.
    """

    kind: Literal["sound"] = "sound"
    input: int = 0
    tracks: tuple[int, ...]
    source: SoundFormat
    steps: tuple[SoundStep, ...]
    encoding: SoundEncoding

    @property
    def format(self) -> SoundFormat:
        """Give the format that the encoder gets."""
        return sound_after(self.source, self.steps)


Stream = Annotated[MadePicture | MadeSound, Field(discriminator="kind")]


class File(Part):
    """A file to make: its wrapper, and its streams in order, by their place in the plan."""

    name: str
    wrapper: str
    streams: tuple[int, ...]
    index_in_front: bool = False


class Limits(Part):
    """What a plan's outcome is held to: bytes, and the least and most picture rate in b/s."""

    size: int | None = None
    least_rate: Exact | None = None
    most_rate: Exact | None = None


class Plan(Part):
    """All that is needed to make the files of a deliverable; its length in seconds."""

    version: Literal[2] = 2
    inputs: tuple[Input, ...]
    streams: tuple[Stream, ...]
    files: tuple[File, ...]
    seconds: Exact
    limits: Limits = Limits()

    @property
    def picture(self) -> MadePicture | None:
        """Give the picture that is encoded, if there is one."""
        return next((s for s in self.streams if isinstance(s, MadePicture)), None)

    @property
    def sounds(self) -> list[MadeSound]:
        """List the sound tracks that are encoded."""
        return [s for s in self.streams if isinstance(s, MadeSound)]

    @property
    def frames(self) -> int:
        """Count the frames of picture that are made."""
        picture = self.picture
        return 0 if picture is None else round(self.seconds * picture.format.rate)

    @property
    def passes(self) -> int:
        """Say how often the master is gone through."""
        picture = self.picture
        return 1 if picture is None else picture.encoding.passes

    @property
    def work(self) -> int:
        """Count the luma samples that are encoded, counting each pass."""
        picture = self.picture
        if picture is None:
            return 0
        f = picture.format
        return self.frames * f.width * f.height * self.passes

    def encoded_as(self, encoding: PictureEncoding) -> Plan:
        """Give the same plan with its picture encoded in another way."""
        streams = tuple(
            s.model_copy(update={"encoding": encoding}) if isinstance(s, MadePicture) else s
            for s in self.streams
        )
        return self.model_copy(update={"streams": streams})


class Route(Part):
    """The planned chain from a master to a deliverable.

    Attributes:
        plan: None where a caution blocks.
        predicted: facts that the finished file should have, as `Facts.as_json` gives them.
        size: predicted bytes.
        least, most: bytes between which the size lies, where it follows from the pictures; None
            where the encoder keeps to a rate.
        choices: the value in force of each property that leaves room.
    """

    steps: list[Step]
    cautions: list[Caution]
    plan: Plan | None
    predicted: dict[str, dict[str, Any]]
    size: int
    least: int | None = None
    most: int | None = None
    choices: dict[str, Any]

    @property
    def facts(self) -> Facts:
        """Give the predicted facts."""
        return Facts.from_json(self.predicted)


def picture_after(source: PictureFormat, steps: tuple[PictureStep, ...]) -> PictureFormat:
    """Fold steps over a picture's format."""
    return reduce(lambda f, step: step.after(f), steps, source)


def sound_after(source: SoundFormat, steps: tuple[SoundStep, ...]) -> SoundFormat:
    """Fold steps over a sound's format."""
    return reduce(lambda f, step: step.after(f), steps, source)


def amount_of(plan: Plan, number: int = 0) -> Amount:
    """Predict the bytes of one file of a plan."""
    file = plan.files[number]
    payload = exactly(0)
    for stream in (plan.streams[n] for n in file.streams):
        payload += _payload(stream, plan)
    contents = contents_of(plan, number)
    own = formats.WRAPPERS[file.wrapper].own_bytes
    return Amount(
        payload.least + own(contents, payload.least).least,
        payload.expected + own(contents, payload.expected).expected,
        payload.most + own(contents, payload.most).most,
    )


def _payload(stream: Stream, plan: Plan) -> Amount:
    if isinstance(stream, MadePicture):
        return stream.encoding.amount(stream.format, plan.frames)
    return stream.encoding.amount(stream.format, plan.seconds)


def contents_of(plan: Plan, number: int = 0) -> Contents:
    """Describe what one file of a plan holds, as far as it decides the wrapper's own bytes."""
    streams = [plan.streams[n] for n in plan.files[number].streams]
    pictures = [s for s in streams if isinstance(s, MadePicture)]
    sounds = [s for s in streams if isinstance(s, MadeSound)]
    rated = [p.encoding for p in pictures if isinstance(p.encoding, RatedPicture)]
    return holding(
        plan.seconds,
        plan.frames if pictures else 0,
        rated[0].gop if rated else 1,
        any(e.b_frames > 0 for e in rated),
        sounds,
    )


def holding(
    seconds: Fraction, frames: int, gop: int, reordered: bool, sounds: Sequence[MadeSound]
) -> Contents:
    """Describe a file of one picture, with a key frame every `gop` frames, and sound tracks."""
    return Contents(
        seconds=seconds,
        frames=frames,
        key_frames=-(-frames // gop),
        reordered=reordered,
        sound_frames=sum(_sound_frames(s, seconds) for s in sounds),
        tracks=len(sounds) + (frames > 0),
        sound_bytes=tuple(s.encoding.amount(s.format, seconds).expected for s in sounds),
    )


def _sound_frames(sound: MadeSound, seconds: Fraction) -> int:
    samples = seconds * sound.format.sample_rate
    return -(-samples // sound.encoding.row.frame_samples)
