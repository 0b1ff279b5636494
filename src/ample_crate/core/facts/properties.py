"""Every property a fact can have or a requirement can ask for, in one table.

`proof` says what proves the property of a finished file: "declared" where the
stream's own header is the thing the recipient reads, "measured" where only
decoding tells the truth.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from .. import formats
from ..errors import BadSpec
from ..units.values import KINDS, Kind, Value
from .words import written

Group = Literal["picture", "motion", "sound", "file", "delivery"]
GROUPS: tuple[Group, ...] = ("picture", "motion", "sound", "file", "delivery")


@dataclass(frozen=True)
class Property:
    """One property: its key, its name on screen, the kind of its values and its proof."""

    key: str
    label: str
    kind: Kind
    proof: Literal["declared", "measured"]
    meaning: str

    @property
    def group(self) -> Group:
        """Give the ledger's group, which is the first part of the key."""
        head = self.key.split(".", 1)[0]
        for group in GROUPS:
            if head == group:
                return group
        raise AssertionError(self.key)

    def read(self, value: object) -> Value:
        """Read what a person or a spec says of the property, in the words by which files are read.

        Raises:
            BadValue: it is not in the property's unit, or none of its words.
        """
        made = self.kind.read(value)
        return written(self.key, self.label, made) if isinstance(made, str) else made


# Codecs and wrappers are said by the names of the trade.
ALL_KINDS = KINDS | {"name": replace(KINDS["name"], show=formats.label)}


def _table(
    *rows: tuple[str, str, str, Literal["declared", "measured"], str],
) -> dict[str, Property]:
    return {
        key: Property(key, label, ALL_KINDS[kind], proof, meaning)
        for key, label, kind, proof, meaning in rows
    }


PROPERTIES: dict[str, Property] = _table(
    ("picture.codec", "codec", "name", "declared", "how the picture is coded"),
    ("picture.profile", "profile", "text", "declared", "the codec's profile"),
    (
        "picture.level",
        "level",
        "level",
        "declared",
        "the codec's level; for MPEG-2 see picture.profile_level",
    ),
    (
        "picture.profile_level",
        "profile @ level",
        "text",
        "declared",
        "MPEG-2 profile and level together",
    ),
    (
        "picture.tag",
        "codec tag",
        "text",
        "declared",
        "the four characters by which the wrapper names the codec",
    ),
    (
        "picture.codec_string",
        "codec string",
        "text",
        "declared",
        "the codec as RFC 6381 names it for browsers",
    ),
    ("picture.size", "frame size", "size", "declared", "stored samples, width x height"),
    (
        "picture.pixel_aspect",
        "pixel aspect",
        "ratio",
        "declared",
        "width of a sample to its height",
    ),
    (
        "picture.display_aspect",
        "display aspect",
        "ratio",
        "declared",
        "shape of the picture as shown",
    ),
    (
        "picture.rotation",
        "rotation",
        "degrees",
        "declared",
        "degrees that a player turns the picture, anticlockwise",
    ),
    (
        "picture.clean_aperture",
        "clean aperture",
        "text",
        "declared",
        "the part of the samples that is meant to be seen",
    ),
    (
        "picture.active",
        "active picture",
        "text",
        "measured",
        "samples inside black bars, width x height + left + top",
    ),
    (
        "picture.active_aspect",
        "active aspect",
        "ratio",
        "measured",
        "shape of what is inside the bars, as shown",
    ),
    ("picture.bars", "bars", "flag", "measured", "black beside or above the picture"),
    (
        "picture.interval_lines",
        "vertical-interval lines",
        "count",
        "declared",
        "lines of data above the picture, in MPEG-2 of 608 or 512 lines",
    ),
    ("picture.chroma", "chroma", "text", "declared", "colour subsampling"),
    ("picture.bit_depth", "bit depth", "bits", "declared", "bits a sample"),
    ("picture.alpha", "alpha", "flag", "declared", "whether transparency is carried"),
    (
        "picture.alpha_mode",
        "alpha mode",
        "text",
        "declared",
        "straight or premultiplied, where the file says",
    ),
    (
        "picture.alpha_use",
        "alpha in use",
        "text",
        "measured",
        "used, wholly opaque or wholly clear",
    ),
    ("picture.range", "range", "text", "declared", "limited (16-235) or full"),
    ("picture.matrix", "colour matrix", "text", "declared", "how R'G'B' became Y'CbCr"),
    ("picture.primaries", "primaries", "text", "declared", "chromaticities of R, G and B"),
    ("picture.transfer", "transfer", "text", "declared", "the curve from light to code value"),
    (
        "picture.mastering",
        "mastering display",
        "text",
        "measured",
        "luminance range of the display it was graded on",
    ),
    (
        "picture.light_level",
        "content light level",
        "text",
        "measured",
        "brightest pixel and brightest frame average",
    ),
    (
        "picture.excursion",
        "samples outside EBU R 103",
        "percent",
        "measured",
        "largest share of a frame whose R'G'B' or luma leaves -5 to 105 %",
    ),
    (
        "picture.spatial",
        "spatial information",
        "figure",
        "measured",
        "ITU-T P.910, the most over looks once a second",
    ),
    (
        "picture.temporal",
        "temporal information",
        "figure",
        "measured",
        "ITU-T P.910, the most over looks once a second",
    ),
    (
        "picture.flashes",
        "flashes in a second",
        "count",
        "measured",
        "the most luminance flashes in any second, ITU-R BT.1702; advisory",
    ),
    (
        "picture.red_flashes",
        "red flashes in a second",
        "count",
        "measured",
        "the most saturated red flashes in any second, ITU-R BT.1702; advisory",
    ),
    (
        "picture.bit_rate",
        "picture bit rate",
        "bit_rate",
        "measured",
        "average over the whole length",
    ),
    (
        "picture.peak_bit_rate",
        "peak bit rate",
        "bit_rate",
        "measured",
        "the most in any one second",
    ),
    (
        "picture.rate_mode",
        "picture rate mode",
        "text",
        "measured",
        "constant or variable, over one-second windows",
    ),
    (
        "picture.rate_deviation",
        "stray of the bit rate",
        "percent",
        "measured",
        "how far any one second strays from the average",
    ),
    (
        "picture.vbv",
        "rate buffer (VBV)",
        "bit_count",
        "measured",
        "buffer that a decoder needs when it is filled at the rate that the stream's header names",
    ),
    (
        "picture.vbv_rate",
        "rate into the buffer",
        "bit_rate",
        "declared",
        "rate at which the stream's header has that buffer filled",
    ),
    (
        "picture.slices",
        "slices a frame",
        "count",
        "measured",
        "the fewest separately coded parts of any frame",
    ),
    ("motion.rate", "frame rate", "rate", "measured", "frames a second, exact"),
    ("motion.steady", "steady time stamps", "flag", "measured", "every frame lasts equally long"),
    ("motion.frames", "frames", "count", "measured", "frames that decode"),
    (
        "motion.scan",
        "scan",
        "text",
        "measured",
        "progressive or interlaced, as the stream signals and the lines show",
    ),
    ("motion.field_order", "field order", "text", "measured", "which field of a frame is earlier"),
    (
        "motion.lines",
        "what the lines show",
        "text",
        "measured",
        "true fields by their order, or whole frames",
    ),
    ("motion.intra_only", "intra only", "flag", "measured", "every frame decodes by itself"),
    (
        "motion.longest_gop",
        "longest GOP",
        "count",
        "measured",
        "frames from one key frame to the next",
    ),
    (
        "motion.b_frames",
        "B-frames in a row",
        "count",
        "measured",
        "the most bidirectional frames between others",
    ),
    ("motion.open_gop", "open GOP", "flag", "measured", "frames lean across a key frame"),
    ("motion.cadence", "cadence", "text", "measured", "how pictures repeat over the frames"),
    (
        "motion.repeats",
        "repeated frames",
        "count",
        "measured",
        "frames that show the same as the one before",
    ),
    ("motion.black", "black", "seconds", "measured", "time without picture, in all"),
    (
        "motion.black_before",
        "black before",
        "seconds",
        "measured",
        "time without picture at the start",
    ),
    ("motion.black_after", "black after", "seconds", "measured", "time without picture at the end"),
    (
        "motion.leader",
        "leader",
        "seconds",
        "measured",
        "time at the start in which the picture is black or stands still: colour bars, "
        "slate, black",
    ),
    (
        "motion.bars_before",
        "colour bars before",
        "seconds",
        "measured",
        "time of standing colour bars within the leader",
    ),
    (
        "motion.slate",
        "slate",
        "seconds",
        "measured",
        "time within the leader of a standing picture that is neither black nor colour bars",
    ),
    (
        "motion.frozen",
        "frozen",
        "seconds",
        "measured",
        "time in which the picture stands still, in all",
    ),
    (
        "motion.cost_forwards",
        "decoding a frame, forwards",
        "seconds",
        "measured",
        "time on this machine",
    ),
    (
        "motion.cost_backwards",
        "decoding a frame, backwards",
        "seconds",
        "measured",
        "time on this machine",
    ),
    (
        "motion.cost_random",
        "decoding a frame, at random",
        "seconds",
        "measured",
        "time on this machine",
    ),
    ("sound.tracks", "sound tracks", "count", "declared", "number of sound streams"),
    ("sound.codec", "codec", "name", "declared", "how the sound is coded"),
    ("sound.sample_rate", "sample rate", "hertz", "declared", "samples a second"),
    ("sound.channels", "channels", "count", "declared", "channels in the track"),
    ("sound.layout", "layout", "text", "declared", "which channel is which loudspeaker"),
    (
        "sound.speakers",
        "loudspeakers",
        "text",
        "measured",
        "channels in their order, as the stream names them",
    ),
    ("sound.enabled", "enabled", "flag", "declared", "whether a player plays the track unasked"),
    ("sound.bit_depth", "bit depth", "bits", "declared", "bits a sample, for uncompressed sound"),
    ("sound.bit_rate", "sound bit rate", "bit_rate", "measured", "average over the whole length"),
    ("sound.language", "language", "text", "declared", "language tag of the track"),
    ("sound.loudness", "loudness", "lufs", "measured", "integrated, EBU R 128"),
    ("sound.loudness_range", "loudness range", "lu", "measured", "EBU Tech 3342"),
    (
        "sound.max_short_term",
        "maximum short-term",
        "lufs",
        "measured",
        "the loudest 3 s, EBU Tech 3341",
    ),
    (
        "sound.max_momentary",
        "maximum momentary",
        "lufs",
        "measured",
        "the loudest 400 ms, EBU Tech 3341",
    ),
    ("sound.true_peak", "true peak", "dbtp", "measured", "highest reconstructed peak, BS.1770"),
    (
        "sound.silence",
        "silence",
        "seconds",
        "measured",
        "time in which every channel stays under -60 dBFS, in all",
    ),
    ("sound.tone", "line-up tone", "seconds", "measured", "time of one pure steady pitch, in all"),
    (
        "sound.tone_before",
        "line-up tone before",
        "seconds",
        "measured",
        "time of one pure steady pitch from the start",
    ),
    (
        "sound.dead_channels",
        "dead channels",
        "text",
        "measured",
        "channels that never rise above -60 dBFS",
    ),
    (
        "sound.same_channels",
        "identical channels",
        "text",
        "measured",
        "channels that carry the same",
    ),
    (
        "sound.phase",
        "phase",
        "figure",
        "measured",
        "correlation of left and right, from -1 (opposed) to 1 (alike)",
    ),
    (
        "sound.start_offset",
        "sound starts after picture",
        "seconds",
        "measured",
        "first sound minus first picture",
    ),
    (
        "sound.length_difference",
        "sound longer than picture",
        "seconds",
        "measured",
        "end of sound minus end of picture",
    ),
    ("file.wrapper", "wrapper", "name", "declared", "the container"),
    ("file.brand", "brand", "text", "declared", "the wrapper's own kind or operational pattern"),
    (
        "file.bit_rate",
        "overall bit rate",
        "bit_rate",
        "measured",
        "all bytes over the whole length",
    ),
    ("file.made_with", "made with", "text", "declared", "the program that the file names"),
    ("file.made_at", "made at", "text", "declared", "time of making that the file names"),
    ("file.chapters", "chapters", "count", "declared", "chapter marks"),
    ("file.timecode_tracks", "timecode tracks", "count", "declared", "tracks that carry timecode"),
    (
        "file.captions",
        "captions and subtitles",
        "text",
        "declared",
        "caption and subtitle tracks by kind and language",
    ),
    (
        "file.missing_frames",
        "missing frames",
        "count",
        "measured",
        "numbers that an image sequence leaves out",
    ),
    ("file.size", "file size", "bytes", "measured", "bytes on disk"),
    (
        "file.duration",
        "duration",
        "seconds",
        "measured",
        "length of the picture, or of the sound alone",
    ),
    ("file.index_in_front", "index in front", "flag", "declared", "plays before it is all there"),
    ("file.start_timecode", "start timecode", "text", "declared", "timecode of the first frame"),
    (
        "file.drop_frame",
        "drop-frame",
        "flag",
        "declared",
        "whether timecode leaves numbers out to follow the clock",
    ),
    ("file.name", "file name", "text", "declared", "name under which it is handed over"),
    ("delivery.items", "files in the crate", "count", "measured", "deliverables of one crate"),
    (
        "delivery.total",
        "bytes of the crate",
        "bytes",
        "measured",
        "all deliverables of one crate together",
    ),
    (
        "delivery.week",
        "bytes in the week",
        "bytes",
        "measured",
        "all that goes to the recipient from Monday to Sunday, over all crates",
    ),
    (
        "delivery.length",
        "length of the crate",
        "seconds",
        "measured",
        "all programmes of one crate together",
    ),
)


# Headers round their lengths and name nominal rates: only more than this is a contradiction.
LENGTH_SLACK, RATE_SLACK = Fraction(1, 20), Fraction(1, 10)


def disagree(key: str, declared: Value | None, measured: Value | None) -> bool:
    """Say whether what a header declares and what decoding shows contradict each other."""
    if declared is None or measured is None:
        return False
    kind = lookup(key).kind.name
    if key == "picture.vbv":
        return int(measured) > int(declared)  # type: ignore[arg-type]
    if kind == "seconds":
        return abs(Fraction(declared) - Fraction(measured)) > LENGTH_SLACK  # type: ignore[arg-type]
    if kind == "bit_rate":
        return abs(Fraction(declared) - Fraction(measured)) > RATE_SLACK * Fraction(measured)  # type: ignore[arg-type]
    return declared != measured


def split_track(key: str) -> tuple[str, int]:
    """Split "sound.codec@2" into ("sound.codec", 2); a key without a track number is track 1."""
    base, _, track = key.partition("@")
    return base, int(track) if track else 1


def track_key(base: str, track: int) -> str:
    """Give the key of a property in a numbered sound track, counting from 1."""
    return base if track == 1 else f"{base}@{track}"


def lookup(key: str) -> Property:
    """Find a property by key, with or without a track number.

    Raises:
        BadSpec: there is no such property; the message names the nearest ones.
    """
    base, _ = split_track(key)
    try:
        return PROPERTIES[base]
    except KeyError:
        import difflib

        near = difflib.get_close_matches(base, PROPERTIES, n=3)
        hint = (
            f"Did you mean {' or '.join(near)}?" if near else "See docs/properties.md for the list."
        )
        raise BadSpec(f"There is no property '{base}'.", hint) from None
