"""A plan as data: the files to make, the streams in them, and how each comes about."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from fractions import Fraction
from functools import reduce
from typing import Any, Literal

from .. import formats
from ..facts import Facts
from ..formats.codec import USUAL
from ..formats.size import Amount, exactly
from ..formats.wrapper import Contents
from ..units.parts import Exact, Part
from .encoding import PictureByContent, PictureEncoding, PictureLossless, RatedPicture
from .leader import Around
from .notes import Caution, Step
from .streams import AnyPicture, AnySound, MadePicture, Stream, Text

Clock = Literal["even", "uneven", "given", "unknown"]


HEAD = 64  # bytes
EXTENSION = 610  # bytes of a broadcast extension, but for its history (EBU Tech 3285)


class Left(Part):
    """What is left out of a file: from when, and for how long, in seconds from where it begins, as
    it is taken.
    """

    start: Exact
    seconds: Exact


class Input(Part):
    """A file that is read.

    Attributes:
        rate: frames a second as they are taken; None of sound alone.
        first: the frame that is delivered first.
        offset: of sound that goes with another file's picture the seconds from where the file
            begins to what is delivered first; below 0 silence comes before it.
        still: whether only its first picture is taken.
        clock: whether frames last equally long; "given" has them last as long as the rate says,
            whatever their time stamps say.
        speed: how many times as fast as by the file's own clock it is taken; then its clock is
            "given".
        left_out: parts of it that are not taken, in order; what follows each is joined to what came
            before. Its frames are known to last equally long then.
    """

    rate: Exact | None
    first: int = 0
    offset: Exact = Fraction(0)
    still: bool = False
    clock: Clock = "unknown"
    speed: Exact = Fraction(1)
    left_out: tuple[Left, ...] = ()

    @property
    def start(self) -> Fraction:
        """Give the seconds from the file's first frame to the first that is delivered, as it is
        taken.
        """
        return self.offset if self.rate is None else self.first / self.rate

    @property
    def gaps(self) -> list[Left]:
        """List what is left out after the start."""
        return [one for one in self.left_out if one.start >= self.start]

    def frame(self, place: int) -> int:
        """Give the file's frame that is taken at a place, both counted from 0; beyond the last it
        is counted on.
        """
        at, rate = self.first + place, self.rate or Fraction(1)
        for one in self.gaps:
            if at >= one.start * rate:
                at += round(one.seconds * rate)
        return at

    def place(self, frame: int) -> int:
        """Count the frames that are taken before a file's own frame."""
        rate, gone = self.rate or Fraction(1), 0
        for one in self.gaps:
            within = frame - round(one.start * rate)
            gone += max(0, min(within, round(one.seconds * rate)))
        return max(0, frame - self.first) - gone


class Images(Part):
    """How the images of a sequence are named: what stands before and after the number, the first
    number, and with how many figures it is written.
    """

    head: str
    ending: str
    first: int
    digits: int

    def known_as(self, count: int) -> str:
        """Name so many images as a whole: "roll_[0001-0240].dpx"."""
        last = self.first + count - 1
        numbers = f"{self.first:0{self.digits}d}-{last:0{self.digits}d}"
        return f"{self.head}[{numbers}]{self.ending}"


class Broadcast(Part):
    """What the broadcast extension of a WAV says: what it is, how it came about (EBU R 98), and the
    samples from midnight to its first.
    """

    description: str
    history: str
    reference: int


class File(Part):
    """A file to make: its wrapper, and its streams in order, by their place in the plan; the
    timecode of its first frame; what it says of itself, by name; and how many chapters are taken
    over at most. Where its frames are files of their own, how these are named. Where it is a WAV
    with a broadcast extension, that.
    """

    name: str
    wrapper: str
    streams: tuple[int, ...]
    images: Images | None = None
    index_in_front: bool = False
    timecode: str | None = None
    about: tuple[tuple[str, str], ...] = ()
    chapters: int = 0
    broadcast: Broadcast | None = None

    @property
    def about_bytes(self) -> int:
        """Give the bytes of what it says of itself: each text has a head of its own, of some dozen
        bytes, and a chapter's name can be of any length.
        """
        said = sum(len(text.encode()) + HEAD for _, text in self.about)
        if self.broadcast is not None:
            said += EXTENSION + len(self.broadcast.history)
        return said + self.chapters * 4 * HEAD


class CaptionFile(Part):
    """Captions in a file of their own, beside what is made: its name, and what they come from."""

    name: str
    text: Text


class Limits(Part):
    """What a plan's outcome is held to: bytes, and the least and most picture rate in b/s."""

    size: int | None = None
    least_rate: Exact | None = None
    most_rate: Exact | None = None


class Plan(Part):
    """All that is needed to make the files of a deliverable; its length in seconds; the folder that
    they lie in, where they have one of their own; what stands around the programme; and captions
    that lie beside the files.
    """

    version: Literal[2] = 2
    inputs: tuple[Input, ...]
    streams: tuple[Stream, ...]
    files: tuple[File, ...]
    folder: str = ""
    seconds: Exact
    limits: Limits = Limits()
    around: Around = Around()
    captions: tuple[CaptionFile, ...] = ()

    @property
    def outcome(self) -> str:
        """Name what is made: the file, or the folder of all."""
        return self.folder or self.files[0].name

    @property
    def picture(self) -> AnyPicture | None:
        """Give the picture, if there is one."""
        return next((s for s in self.streams if isinstance(s, AnyPicture)), None)

    @property
    def sounds(self) -> list[AnySound]:
        """List the sound tracks."""
        return [s for s in self.streams if isinstance(s, AnySound)]

    @property
    def rated(self) -> RatedPicture | None:
        """Give the picture's encoding where that keeps to a rate: only then it can be made
        smaller.
        """
        return None if self.picture is None else self.picture.rated

    @property
    def frames(self) -> int:
        """Count the frames of picture."""
        picture = self.picture
        return 0 if picture is None else round(self.seconds * picture.format.rate)

    def place_of(self, frame: int) -> int:
        """Give the place in what is made of a frame of the picture's master, both counted from
        0.
        """
        picture = self.picture
        if picture is None:
            return 0
        taken = self.inputs[picture.input]
        rate = picture.format.rate
        return self.around.first + int(taken.place(frame) * rate / (taken.rate or rate))

    @property
    def lead(self) -> Fraction:
        """Give the seconds before the programme."""
        picture = self.picture
        return Fraction(0) if picture is None else self.around.first / picture.format.rate

    @property
    def programme(self) -> Fraction:
        """Give the seconds of the programme alone."""
        picture = self.picture
        around = 0 if picture is None else self.around.frames / picture.format.rate
        return self.seconds - around

    @property
    def alone(self) -> Plan:
        """Give the same plan with nothing around its programme."""
        return self.model_copy(update={"around": Around(), "seconds": self.programme})

    @property
    def passes(self) -> int:
        """Say how often the master is gone through."""
        return 1 if self.picture is None else self.picture.passes

    @property
    def samples(self) -> int:
        """Count the luma samples of all frames."""
        picture = self.picture
        return 0 if picture is None else self.frames * picture.format.width * picture.format.height

    @property
    def work(self) -> int:
        """Count the luma samples that are encoded, counting each pass."""
        return self.samples * self.passes if isinstance(self.picture, MadePicture) else 0

    @property
    def effort(self) -> str:
        """Name what its encoder's speed is known by: the codec, and the pace if not the usual."""
        picture = self.picture
        if picture is None:
            return ""
        pace = USUAL if self.rated is None else self.rated.pace
        return picture.codec if pace == USUAL else f"{picture.codec}, {pace}"

    @property
    def sized_by(self) -> str:
        """Name what its size is known by where its pictures decide it; "" where it is known."""
        picture = self.picture
        if not isinstance(picture, MadePicture):
            return ""
        coded = picture.encoding
        if not isinstance(coded, PictureByContent | PictureLossless):
            return ""
        return f"{coded.codec} {coded.profile}{' alpha' if picture.format.alpha else ''}"

    @property
    def made_as(self) -> str:
        """Name how what is made is made, whatever its files are called: the same, of the same
        bytes, comes to the same size.
        """
        told = self.model_dump(mode="json", include={"inputs", "streams", "seconds", "around"})
        wrappers = [file.wrapper for file in self.files]
        return hashlib.sha256(json.dumps([told, wrappers], sort_keys=True).encode()).hexdigest()

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
        draft: where one does, the plan all the same, as far as it goes: to be looked at, never
            run.
        predicted: facts that the finished file should have, as `Facts.as_json` gives them.
        size: predicted bytes.
        least, most: bytes between which the size lies, where it follows from the pictures; None
            where the encoder keeps to a rate.
        choices: the value in force of each property that leaves room.
    """

    steps: list[Step]
    cautions: list[Caution]
    plan: Plan | None
    draft: Plan | None = None
    predicted: dict[str, dict[str, Any]]
    size: int
    least: int | None = None
    most: int | None = None
    choices: dict[str, Any]

    @property
    def shown(self) -> Plan | None:
        """Give what pictures are made by before anything is run."""
        return self.plan or self.draft

    @property
    def facts(self) -> Facts:
        """Give the predicted facts."""
        return Facts.from_json(self.predicted)


def amount_of(plan: Plan) -> Amount:
    """Predict the bytes of all files of a plan."""
    every = (amount_of_file(plan, number) for number in range(len(plan.files)))
    return reduce(lambda one, other: one + other, every)


def amount_of_file(plan: Plan, number: int) -> Amount:
    """Predict the bytes of one file of a plan."""
    file = plan.files[number]
    payload = exactly(0)
    for stream in (plan.streams[n] for n in file.streams):
        payload += _payload(stream, plan)
    contents = contents_of(plan, number)
    own = formats.WRAPPERS[file.wrapper].own_bytes
    said = file.about_bytes
    return Amount(
        payload.least + own(contents, payload.least).least,
        payload.expected + own(contents, payload.expected).expected + said,
        payload.most + own(contents, payload.most).most + 2 * said,
    )


def _payload(stream: Stream, plan: Plan) -> Amount:
    if isinstance(stream, AnyPicture):
        return stream.amount(plan.frames)
    return stream.amount(plan.seconds)


def contents_of(plan: Plan, number: int) -> Contents:
    """Describe what one file of a plan holds, as far as it decides the wrapper's own bytes."""
    streams = [plan.streams[n] for n in plan.files[number].streams]
    picture = next((s for s in streams if isinstance(s, AnyPicture)), None)
    return holding(
        plan.seconds,
        0 if picture is None else plan.frames,
        1 if picture is None else picture.gop,
        picture is not None and picture.reordered,
        [s for s in streams if isinstance(s, AnySound)],
    )


def holding(
    seconds: Fraction, frames: int, gop: int, reordered: bool, sounds: Sequence[AnySound]
) -> Contents:
    """Describe a file of one picture, with a key frame every `gop` frames, and sound tracks."""
    return Contents(
        seconds=seconds,
        frames=frames,
        key_frames=-(-frames // gop),
        reordered=reordered,
        sound_frames=sum(_sound_frames(s, seconds) for s in sounds),
        tracks=len(sounds) + (frames > 0),
        sound_bytes=tuple(s.amount(seconds).expected for s in sounds),
    )


def _sound_frames(sound: AnySound, seconds: Fraction) -> int:
    samples = seconds * sound.format.sample_rate
    return -(-samples // sound.row.frame_samples)
