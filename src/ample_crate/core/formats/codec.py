"""What a codec's row says: all that the rest of the product asks about a codec."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal, NamedTuple

from ..units.values import Size, Value
from .bitstream import Bitstream
from .levels import Levels
from .pixels import Pixels
from .size import SizeModel


@dataclass(frozen=True)
class Profile:
    """A profile of a picture codec, by its standard.

    Attributes:
        chromas: chroma that it carries.
        depth: the most bits a sample.
        alpha: whether it carries transparency.
        tag: four characters that name it in a file, where they tell it.
        also: other writings of its name.
        made: how samples lie in what is made of it here; empty where it is not made.
        into: wrappers that it is put into here, where they are not those of its codec.
        read_depth: bits a sample that decoders give of it, where those are not the ones it was
            made from.
        fields: whether it codes fields.
        reorders: whether frames in it lean on later ones.
        source: the clause that says so, where it does not.
    """

    name: str
    chromas: frozenset[str]
    depth: int
    alpha: bool = False
    tag: str = ""
    also: tuple[str, ...] = ()
    made: tuple[Pixels, ...] = ()
    into: frozenset[str] = frozenset()
    read_depth: int | None = None
    fields: bool = True
    reorders: bool = True
    source: str = ""


Pace = Literal["usual", "faster", "hardware"]
USUAL: Pace = "usual"
QUICKER: frozenset[Pace] = frozenset({USUAL, "faster"})


@dataclass(frozen=True)
class PictureMaking:
    """How a picture codec is made here.

    Attributes:
        usual: the profile taken where nothing is asked.
        wrappers: those that it is put into.
        whole_frames_in: those of them whose header would call fields whole frames, so that only
            whole frames are put there.
        fields: whether fields are made of it here at all.
        layouts: how samples lie in what is made, of a codec without profiles that files name.
        full_range: whether its samples always use the full range.
        matrix: the only one that it is decoded by; empty where it is told.
        unstated: gives the properties that neither a profile's stream nor a wrapper states.
        no_word_for: transfers that it could state and has no word for.
        captions: whether what keeps to a rate carries CEA-608/708 beside its frames.
        light: whether its samples are light itself, of the transfer "linear" and no other.
        mastering: whether it carries the figures of the display that HDR was graded on.
        frames_alone: whether a coded frame hangs on its own picture and on nothing coded before it.
        paces: at which it is encoded: "usual", "faster", which takes less time and loses more at
            the same rate, and on "hardware" of machines that have some.
        size: how the size comes about; `sizes` by the profiles, or kinds of wrappers, in which it
            does otherwise.
        speed: millions of luma samples a second on two cores, until past runs tell (common
            practice).
    """

    usual: str
    wrappers: frozenset[str]
    size: SizeModel
    speed: float
    whole_frames_in: frozenset[str] = frozenset()
    fields: bool = True
    layouts: tuple[Pixels, ...] = ()
    sizes: Mapping[str, SizeModel] = field(default_factory=dict)
    full_range: bool = False
    matrix: str = ""
    unstated: Callable[[str, str], frozenset[str]] = lambda profile, wrapper: frozenset()
    no_word_for: frozenset[str] = frozenset()
    captions: bool = False
    light: bool = False
    mastering: bool = False
    frames_alone: bool = False
    paces: frozenset[Pace] = frozenset({USUAL})

    def model(self, profile: str, wrapper: str = "") -> SizeModel:
        """Say how the size of a profile comes about, and in a wrapper."""
        return self.sizes.get(wrapper) or self.sizes.get(profile) or self.size


class StreamHead(NamedTuple):
    """What is known of a stream when its codec string is asked for."""

    configuration: bytes
    profile: str
    size: Size
    rate: Fraction
    depth: int


@dataclass(frozen=True)
class FileHead:
    """How many bytes of a file tell more of the picture, and what they tell."""

    size: int
    read: Callable[[bytes], Mapping[str, Value]]


@dataclass(frozen=True)
class PictureCodec:
    """A picture codec: what it carries by its standard, and what is made of it here.

    Attributes:
        key: the word by which files are read.
        label: its name as it is spoken.
        also: other writings.
        decoders: further names under which the codec library reads it.
        wrappers: those with a standard place for it; None where that is not known here.
        profiles: those that specs name.
        alpha: whether it carries transparency, where no profile says so.
        interlaced: whether it codes fields.
        rated: whether its bit rate can be asked for; False where it follows from the samples.
        intra: whether every frame always decodes by itself.
        long_gop: whether frames lean on each other unless that is forbidden.
        block: samples across and down that its sides are multiples of.
        tags: four characters that name it in a file, whatever the profile.
        strings: how its codec strings begin (RFC 6381).
        codec_string: makes that string from a stream's head.
        exactly: names a profile more exactly than the codec library, from that name and from how
            samples lie.
        levels: those that its standard has.
        bitstream: reads its coded frames without decoding them.
        fields_untold: says whether the head of a stream leaves open whether its frames are fields.
        sliced: whether its frames have slices that a decoder can tell apart.
        least_slices: slices that a frame has at least, by its size and whether it is interlaced.
        names_buffer: whether its streams name their rate buffer: always, where it is asked, never.
        buffer_unit, rate_unit: bits, and b/s, in whose multiples they name it and what fills it.
        shapes: display aspects that it can state; None where it states pixel aspects.
        interval: frame sizes with lines of vertical-interval data above the picture, and how many.
        file_head: where the head of a file tells more than the codec library reads.
        extension: of a file of one frame of it, with the full stop.
        alpha_unmade: why transparency that the standard has is not made here.
        alpha_decoder: the library's decoder that sees its transparency.
        copied: wrappers that its coded frames are put into, where it is not made here.
        browser: how samples lie in what browsers play of it.
        made: how it is made here; None where it is not.
    """

    key: str
    label: str
    also: tuple[str, ...] = ()
    decoders: tuple[str, ...] = ()
    wrappers: frozenset[str] | None = None
    profiles: tuple[Profile, ...] = ()
    alpha: bool = False
    interlaced: bool = True
    rated: bool = True
    intra: bool = False
    long_gop: bool = False
    block: tuple[int, int] = (1, 1)
    tags: tuple[str, ...] = ()
    strings: tuple[str, ...] = ()
    codec_string: Callable[[StreamHead], str | None] | None = None
    exactly: Callable[[str, Pixels], str] | None = None
    levels: Levels | None = None
    bitstream: Bitstream | None = None
    fields_untold: Callable[[bytes], bool] | None = None
    sliced: bool = False
    least_slices: Callable[[Size, bool], int] | None = None
    names_buffer: Literal["always", "asked", ""] = ""
    buffer_unit: int = 1
    rate_unit: int = 1
    shapes: frozenset[Fraction] | None = None
    interval: Mapping[Size, int] = field(default_factory=dict)
    file_head: FileHead | None = None
    extension: str = ""
    alpha_unmade: str = ""
    alpha_decoder: str = ""
    copied: frozenset[str] = frozenset()
    browser: frozenset[Pixels] = frozenset()
    made: PictureMaking | None = None

    def profile(self, name: str) -> Profile | None:
        """Find a profile by its name."""
        return next((p for p in self.profiles if p.name == name), None)

    def layouts(self, profile: str) -> tuple[Pixels, ...]:
        """List how samples may lie in what is made here of a profile; of a codec without profiles,
        of it.
        """
        row = self.profile(profile)
        if row is not None:
            return row.made
        return self.made.layouts if self.made is not None and not profile else ()

    def places(self, profile: str) -> frozenset[str]:
        """List the wrappers that a profile is put into here."""
        row = self.profile(profile)
        if row is not None and row.into:
            return row.into
        return self.made.wrappers if self.made is not None else frozenset()

    def clear(self, profiles: list[str]) -> bool:
        """Say whether one of some profiles carries transparency; any, where none is named."""
        if self.alpha:
            return True
        named = [p for p in self.profiles if not profiles or p.name in profiles]
        return any(p.alpha for p in named)

    def interval_lines(self, size: Size) -> int:
        """Give how many lines of vertical-interval data lie above the picture."""
        return self.interval.get(size, 0)


@dataclass(frozen=True)
class SoundMaking:
    """How a sound codec is made here.

    Attributes:
        sample_rates: in Hz.
        channels: how many a track may have.
        usual_rate: b/s where nothing is asked; None where the rate follows from the samples.
        depth: bits a sample, where the codec has several and one is made.
        depths: bits a sample, where several are made; the least that holds the master's is taken.
        wrappers: those that it is put into, where they are not all that carry it.
        eight_in: those of them that can say which loudspeakers eight channels are for; None where
            all can.
        delay: samples that the encoder puts before the first.
        flushes: whether it codes on until the last sample has come out.
        trims: whether its last frame says how many of its samples count.
        even: whether every second has the same bits.
    """

    sample_rates: frozenset[int]
    channels: frozenset[int]
    usual_rate: int | None = None
    depth: int | None = None
    depths: tuple[int, ...] = ()
    wrappers: frozenset[str] | None = None
    eight_in: frozenset[str] | None = None
    delay: int = 0
    flushes: bool = False
    trims: bool = False
    even: bool = True


@dataclass(frozen=True)
class SoundCodec:
    """A sound codec: what it carries by its standard, and what is made of it here.

    Attributes:
        key, label, also, decoders, wrappers: as of a picture codec.
        sample_rates: allowed sample rates in Hz; None for any.
        channels: the most channels of a track.
        bit_rates: allowed b/s, as a range or a list; None where they follow from the samples.
        fixed: whether `bit_rates` lists the only ones.
        depth: bits a sample; None where it has none of its own.
        depths: bits by the sample format of the library's decoder, where only that tells.
        string: its codec string (RFC 6381).
        frame_samples: samples of a coded frame.
        frame_bits: the most bits a channel in a coded frame; None where nothing limits them.
        packets: bytes of plain samples in a packet, and those of the head before them.
        qualities: of a coder that is given a quality, from 0 to 1, instead of a rate: that, and
            the b/s that two channels usually take, least first.
        lossless: whether it codes every sample so that it comes back as it was.
        dialogue: whether it carries the level of dialogue, by which players turn it down, and what
            the sound is for.
        made: how it is made here; None where it is not.
    """

    key: str
    label: str
    also: tuple[str, ...] = ()
    decoders: tuple[str, ...] = ()
    wrappers: frozenset[str] | None = None
    sample_rates: frozenset[int] | None = None
    channels: int = 8
    bit_rates: tuple[int, ...] | None = None
    fixed: bool = False
    depth: int | None = None
    depths: Mapping[str, int] = field(default_factory=dict)
    string: str = ""
    frame_samples: int = 1024
    frame_bits: int | None = None
    packets: tuple[int, int] | None = None
    qualities: tuple[tuple[Fraction, int], ...] = ()
    lossless: bool = False
    dialogue: bool = False
    made: SoundMaking | None = None

    @property
    def compressed(self) -> bool:
        """Say whether it has a bit rate of its own."""
        return self.bit_rates is not None

    @property
    def plain(self) -> bool:
        """Say whether it keeps every sample as it is, uncoded."""
        return not self.lossless and (self.depth is not None or bool(self.depths))

    def most(self, channels: int | None, sample_rates: list[int]) -> int:
        """Give the most b/s that it may spend on so many channels."""
        most = (self.bit_rates or (0,))[-1]
        if self.frame_bits is None or not channels:
            return most
        rate = max(sample_rates, default=48_000)
        return min(most, self.frame_bits * channels * rate // self.frame_samples)

    @property
    def made_depth(self) -> int | None:
        """Give the bits a sample of what is made here; None where they are none."""
        return self.depth or (self.made.depth if self.made is not None else None)

    def rate_of(self, sample_rate: int, channels: int, bit_rate: int | None) -> int:
        """Give the b/s of a track: its own, or what its samples make."""
        return bit_rate or sample_rate * channels * (self.made_depth or 16)


def of(*words: str) -> frozenset[str]:
    """Give a set of words."""
    return frozenset(words)
