"""Every property a fact can have or a requirement can ask for, in one table.

`proof` says what proves the property of a finished file: "declared" where the
stream's own header is the thing the recipient reads, "measured" where only
decoding tells the truth.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from .errors import BadSpec
from .values import KINDS, Kind

Group = Literal["picture", "motion", "sound", "file"]
GROUPS: tuple[Group, ...] = ("picture", "motion", "sound", "file")


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


def _table(*rows: tuple[str, str, str, Literal["declared", "measured"], str]) -> dict[str, Property]:
    return {key: Property(key, label, KINDS[kind], proof, meaning) for key, label, kind, proof, meaning in rows}


PROPERTIES: dict[str, Property] = _table(
    ("picture.codec", "codec", "name", "declared", "how the picture is coded"),
    ("picture.profile", "profile", "text", "declared", "the codec's profile"),
    ("picture.level", "level", "level", "declared", "the codec's level; for MPEG-2 see picture.profile_level"),
    ("picture.profile_level", "profile @ level", "text", "declared", "MPEG-2 profile and level together"),
    ("picture.tag", "codec tag", "text", "declared", "the four characters by which the wrapper names the codec"),
    ("picture.size", "frame size", "size", "declared", "stored samples, width x height"),
    ("picture.pixel_aspect", "pixel aspect", "ratio", "declared", "width of a sample to its height"),
    ("picture.display_aspect", "display aspect", "ratio", "declared", "shape of the picture as shown"),
    ("picture.chroma", "chroma", "text", "declared", "colour subsampling"),
    ("picture.bit_depth", "bit depth", "bits", "declared", "bits a sample"),
    ("picture.alpha", "alpha", "flag", "declared", "whether transparency is carried"),
    ("picture.range", "range", "text", "declared", "limited (16-235) or full"),
    ("picture.matrix", "colour matrix", "text", "declared", "how R'G'B' became Y'CbCr"),
    ("picture.primaries", "primaries", "text", "declared", "chromaticities of R, G and B"),
    ("picture.transfer", "transfer", "text", "declared", "the curve from light to code value"),
    ("picture.bit_rate", "picture bit rate", "bit_rate", "measured", "average over the whole length"),
    ("picture.peak_bit_rate", "peak bit rate", "bit_rate", "measured", "the most in any one second"),
    ("picture.rate_mode", "picture rate mode", "text", "measured", "constant or variable, over one-second windows"),
    ("motion.rate", "frame rate", "rate", "measured", "frames a second, exact"),
    ("motion.steady", "steady time stamps", "flag", "measured", "every frame lasts equally long"),
    ("motion.frames", "frames", "count", "measured", "frames that decode"),
    ("motion.scan", "scan", "text", "measured", "progressive or interlaced, as the stream signals and the lines show"),
    ("motion.field_order", "field order", "text", "measured", "which field of a frame is earlier"),
    ("motion.lines", "what the lines show", "text", "measured", "true fields by their order, or whole frames"),
    ("motion.intra_only", "intra only", "flag", "measured", "every frame decodes by itself"),
    ("motion.longest_gop", "longest GOP", "count", "measured", "frames from one key frame to the next"),
    ("sound.tracks", "sound tracks", "count", "declared", "number of sound streams"),
    ("sound.codec", "codec", "name", "declared", "how the sound is coded"),
    ("sound.sample_rate", "sample rate", "hertz", "declared", "samples a second"),
    ("sound.channels", "channels", "count", "declared", "channels in the track"),
    ("sound.layout", "layout", "text", "declared", "which channel is which loudspeaker"),
    ("sound.bit_depth", "bit depth", "bits", "declared", "bits a sample, for uncompressed sound"),
    ("sound.bit_rate", "sound bit rate", "bit_rate", "measured", "average over the whole length"),
    ("sound.language", "language", "text", "declared", "language tag of the track"),
    ("sound.loudness", "loudness", "lufs", "measured", "integrated, EBU R 128"),
    ("sound.true_peak", "true peak", "dbtp", "measured", "highest reconstructed peak, BS.1770"),
    ("sound.start_offset", "sound starts after picture", "seconds", "measured", "first sound minus first picture"),
    ("sound.length_difference", "sound longer than picture", "seconds", "measured", "end of sound minus end of picture"),
    ("file.wrapper", "wrapper", "name", "declared", "the container"),
    ("file.size", "file size", "bytes", "measured", "bytes on disk"),
    ("file.duration", "duration", "seconds", "measured", "length of the picture, or of the sound alone"),
    ("file.index_in_front", "index in front", "flag", "declared", "plays before it is all there"),
    ("file.start_timecode", "start timecode", "text", "declared", "timecode of the first frame"),
    ("file.name", "file name", "text", "declared", "name under which it is handed over"),
)


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
        hint = f"Did you mean {' or '.join(near)}?" if near else "See docs/properties.md for the list."
        raise BadSpec(f"There is no property '{base}'.", hint) from None
