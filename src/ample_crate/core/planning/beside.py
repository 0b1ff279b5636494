"""Sound that comes from another file than the picture: where it is laid against it, and what is
known of both together.

It is laid by timecode where both files have one and then overlap, as is customary in the trade;
else both begin together.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal, cast, get_args

from ..errors import BadValue, Impossible
from ..facts import Facts
from ..facts.properties import track_key
from ..units import timecode
from ..units.values import Value
from .notes import NOTHING, Notes, caution, step
from .plan import Input
from .streams import CopiedSound, MadeSound, Stream

Laid = Literal["timecode", "start"]
LAID = "laid"  # the name of the choice
START, LENGTH = "sound.start_offset", "sound.length_difference"
TIMECODE = "file.start_timecode"
USUAL_RATE = Fraction(25)  # of timecode, where neither file has frames


@dataclass(frozen=True)
class Beside:
    """A file whose sound goes with the picture of another: its name, and all that is known of
    it.
    """

    name: str
    facts: Facts


@dataclass(frozen=True)
class Laying:
    """Where sound from another file is laid.

    Attributes:
        name: of that file.
        wrapper: of that file.
        by: what it is laid by.
        later: seconds by which that file begins after the picture.
        apart: what their timecodes say of that; None where they say nothing.
    """

    name: str
    wrapper: Value | None
    by: Laid
    later: Fraction
    apart: Fraction | None

    @property
    def open(self) -> bool:
        """Say whether the two ways to lay it differ."""
        return bool(self.apart)

    def read(self, picture: Input) -> Input:
        """Say how that file is read beside the one of the picture."""
        left_out = tuple(
            one.model_copy(update={"start": one.start - self.later}) for one in picture.left_out
        )
        return Input(rate=None, offset=picture.start - self.later, left_out=left_out)


def lay(picture: Facts, sound: Beside, chosen: str = "") -> Laying:
    """Say where sound is laid against a picture.

    Args:
        picture: facts of the whole file that the picture comes from.
        sound: the other file.
        chosen: "timecode" or "start"; empty for what is customary.

    Raises:
        BadValue: there is no such way, or no timecodes to go by.
        Impossible: the file has no sound.
    """
    if not sound.facts.value("sound.tracks"):
        raise Impossible(f"'{sound.name}' has no sound.", "Choose a file that has.")
    apart = _apart(picture, sound.facts)
    if chosen and chosen not in get_args(Laid):
        raise BadValue(f"'{chosen}' is nothing that sound is laid by.", "Choose timecode or start.")
    if chosen == "timecode" and apart is None:
        raise BadValue(
            "One of the files has no timecode to lay the sound by.", "Lay it by its start."
        )
    customary = "timecode" if apart is not None and _overlap(picture, sound.facts, apart) else ""
    by = cast(Laid, chosen or customary or "start")
    later = apart if by == "timecode" and apart is not None else Fraction(0)
    return Laying(sound.name, sound.facts.value("file.wrapper"), by, later, apart)


def _apart(picture: Facts, sound: Facts) -> Fraction | None:
    one, other = (clock(facts, picture.fraction("motion.rate")) for facts in (picture, sound))
    return None if one is None or other is None else other - one


def clock(facts: Facts, rate: Fraction | None) -> Fraction | None:
    """Give the seconds since midnight that a file begins at: by its timecode, which counts frames
    of a rate where it has none of its own, or as a BWF says.
    """
    label = facts.value(TIMECODE)
    if not label:
        return facts.fraction("file.start_time")
    own = facts.fraction("motion.rate") or rate or USUAL_RATE
    try:
        return timecode.read(str(label), own) / own
    except BadValue:
        return None


def _overlap(picture: Facts, sound: Facts, later: Fraction) -> bool:
    length, end = length_of(picture), _end(sound, 1)
    return length is not None and end is not None and -end < later < length


def length_of(picture: Facts) -> Fraction | None:
    """Give the seconds from a file's first picture to the end of its last; of sound alone its
    length.
    """
    frames, rate = picture.value("motion.frames"), picture.fraction("motion.rate")
    if frames and rate and picture.value("motion.steady") is not False:
        return Fraction(frames) / rate
    return picture.fraction("file.duration")


def _end(sound: Facts, track: int) -> Fraction | None:
    """Give the seconds from where a file begins to where a track of it ends."""
    length = length_of(sound)
    longer = sound.fraction(track_key(LENGTH, track)) or Fraction(0)
    return None if length is None else length + longer


def joined(picture: Facts, sound: Beside, laying: Laying) -> Facts:
    """Give the facts of a picture with those of another file's sound, which are measured against
    this picture.
    """
    table = {k: fact for k, fact in picture.items() if not k.startswith("sound.")}
    table |= {k: fact for k, fact in sound.facts.items() if k.startswith("sound.")}
    length, values = length_of(picture), dict[str, Value | None]()
    for track in range(1, int(sound.facts.value("sound.tracks")) + 1):
        begins = sound.facts.fraction(track_key(START, track)) or Fraction(0)
        values[track_key(START, track)] = begins + laying.later
        end = _end(sound.facts, track)
        if end is not None and length is not None:
            values[track_key(LENGTH, track)] = laying.later + end - length
    apart = {k: fact for k, fact in table.items() if k.split("@")[0] not in (START, LENGTH)}
    return Facts(apart).with_values("measured", values)


@dataclass(frozen=True)
class Fed:
    """A plan's streams, and the files that they come from."""

    streams: tuple[Stream, ...]
    inputs: tuple[Input, ...]


def fed(laying: Laying | None, read: Input, streams: tuple[Stream, ...]) -> Fed:
    """Say which streams come from which file; silence stays beside the picture.

    Args:
        laying: where sound from another file is laid, if there is one.
        read: how the picture's file is read.
        streams: as they are planned.
    """
    if laying is None:
        return Fed(streams, (read,))
    taken = tuple(
        one.model_copy(update={"input": 1})
        if isinstance(one, CopiedSound) or (isinstance(one, MadeSound) and one.tracks)
        else one
        for one in streams
    )
    return Fed(taken, (read, laying.read(read)))


def masters(known: Facts, laying: Laying | None) -> list[Facts]:
    """Give the facts of a plan's inputs, from those of both together."""
    if laying is None:
        return [known]
    return [known, known.with_values("measured", {"file.wrapper": laying.wrapper})]


def choice(laying: Laying | None) -> dict[str, str]:
    """Give what the sound is laid by, where that makes a difference."""
    return {LAID: laying.by} if laying is not None and laying.open else {}


def said(laying: Laying | None) -> Notes:
    """Say where sound comes from that another file has, and what its place leaves open."""
    if laying is None:
        return NOTHING
    ways = {
        "start": "As chosen; both files begin together.",
        "timecode": f"As chosen; by its timecode it begins {_shown(laying.later)}.",
    }
    notes = step(f"Sound from '{laying.name}'", ways[laying.by], "sound.tracks", START)
    if not laying.open:
        return notes
    other = "by their starts" if laying.by == "timecode" else "by timecode"
    apart = laying.apart
    assert apart is not None
    return notes + caution(
        START,
        f"By timecode the sound would begin {_shown(apart)}: both are laid together by their "
        f"starts."
        if laying.by == "start"
        else f"By its timecode the sound begins {_shown(apart)}.",
        "Only one of the two is in step with the lips.",
        f"{float(apart):+.3f} s",
        f"Look at a few lips in the finished file; if it is not in step, lay the sound {other}.",
    )


def _shown(later: Fraction) -> str:
    if not later:
        return "with the picture"
    return f"{abs(float(later)):.3f} s {'after' if later > 0 else 'before'} the picture"
