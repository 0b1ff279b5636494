"""What a wrapper's row says: all that the rest of the product asks about a wrapper."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from math import ceil
from typing import Literal

from ..units.values import Size
from .size import Amount

# What a file may say of itself.
ABOUT = ("title", "artist", "comment")


@dataclass(frozen=True)
class Contents:
    """What a file holds, as far as it decides the wrapper's own bytes.

    Attributes:
        seconds: length.
        frames: picture frames.
        key_frames: of them, key frames.
        reordered: whether frames that lean on later ones make display and coding order differ.
        sound_frames: coded sound frames over all tracks.
        sound_bytes: those of each sound track.
        tracks: streams in the file.
    """

    seconds: Fraction
    frames: int
    key_frames: int
    reordered: bool
    sound_frames: int
    tracks: int
    sound_bytes: tuple[int, ...] = ()


OwnBytes = Callable[[Contents, int], Amount]


def one_per_cent(contents: Contents, payload: int) -> Amount:
    """Take a hundredth for the wrapper's own bytes, where no more is known (common practice); it
    may be nothing, or twice as much.
    """
    expected = ceil(payload * Fraction(1, 100)) + 4096
    return Amount(0, expected, 2 * expected)


@dataclass(frozen=True)
class Wrapper:
    """A wrapper.

    Attributes:
        key: the word by which files are read.
        label: its name as it is spoken.
        extension: of its files, with the full stop; empty where none is usual.
        also: other writings.
        carries: keys of codecs that it carries, besides those whose rows name it.
        made: whether it is made here.
        picture, sound: whether it has a place for them.
        media_type: for a browser; empty where there is none.
        browsers: whether browsers play it.
        index: whether its index can stand in front.
        tagged: whether it names its codecs by four characters.
        boxes: whether it is built of ISO base media or QuickTime boxes.
        enables: whether it says which tracks are enabled.
        patterns: whether it states an operational pattern (SMPTE ST 377-1).
        still: whether it is one image.
        numbered: whether it is a folder of numbered images.
        usual_sound: the sound codec to ask for in it.
        names_speakers: whether it says which loudspeakers plain channels are for.
        channels: the most that a track put into it here may have.
        primes: whether it tells a decoder how many samples to leave out at the start.
        trims: whether it tells a decoder how many samples to leave out at the end, where the coder
            knows.
        bare: whether it is coded frames and nothing else, which do not say when they are shown.
        tick: unit of its time stamps in seconds; None where they are exact.
        timecode: whether it has a place for timecode that is filled here.
        broadcast: whether it has a place for a broadcast extension (EBU Tech 3285).
        scan: whether it says itself, whatever is in it, if pictures are fields.
        second_first: whether, of fields that are stored in another order than they are shown, it
            means the two themselves; else the lines of a frame.
        kind_of: the wrapper as which files of this kind are read; empty where that is its own.
        frames: the pictures, by codec, for which this kind is taken.
        one_track: channels that its only sound track may have; empty where it has any tracks.
        titles: of `ABOUT`, those that it has a place for.
        languages: which languages of sound tracks it can name: all, those that QuickTime numbers,
            or none.
        chapters: whether it has a place for chapters.
        track_names: whether it has one for names of tracks.
        text: the codec of the captions that it has a place for; empty where there is none.
        pictured: codecs of captions that are pictures, which are put into it as they are.
        states: values that it states by another's name, or not at all, by property.
        parts: where each stream is a file of its own in a folder, that file's wrapper by codec.
        own_bytes: estimates the wrapper's own bytes, from its contents and their bytes.
    """

    key: str
    label: str
    extension: str = ""
    also: tuple[str, ...] = ()
    carries: frozenset[str] = frozenset()
    made: bool = False
    picture: bool = True
    sound: bool = True
    media_type: str = ""
    browsers: bool = False
    index: bool = False
    tagged: bool = False
    boxes: bool = False
    enables: bool = False
    patterns: bool = False
    still: bool = False
    numbered: bool = False
    usual_sound: str = "pcm_s24le"
    names_speakers: bool = True
    channels: int = 16
    primes: bool = False
    trims: bool = False
    bare: bool = False
    tick: Fraction | None = None
    timecode: bool = False
    broadcast: bool = False
    scan: bool = False
    second_first: bool = False
    kind_of: str = ""
    frames: Mapping[str, frozenset[Size]] = field(default_factory=dict)
    one_track: frozenset[int] = frozenset()
    titles: frozenset[str] = frozenset()
    languages: Literal["", "all", "numbered"] = ""
    chapters: bool = False
    track_names: bool = False
    text: str = ""
    pictured: frozenset[str] = frozenset()
    states: Mapping[str, Mapping[str, str | None]] = field(default_factory=dict)
    parts: Mapping[str, str] = field(default_factory=dict)
    own_bytes: OwnBytes = one_per_cent

    @property
    def read_as(self) -> str:
        """Give the key of the wrapper that files of it are read as."""
        return self.kind_of or self.key
