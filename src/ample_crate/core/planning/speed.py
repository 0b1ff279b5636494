"""A film taken faster or slower than it was made: every frame once, and the sound with it.

That 24 frames a second go out as 25 is the custom where television has 25 (common practice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from math import log2
from typing import Any, Literal, get_args

from ..errors import BadValue
from ..facts import Fact, Facts
from ..facts.properties import split_track
from ..units.values import fraction
from . import programme
from .notes import NOTHING, Notes, caution, step

SPEED, PITCH = "speed", "pitch"
Pitch = Literal["kept", "follows"]
PITCHES: tuple[Pitch, ...] = get_args(Pitch)
# Whose sound goes with the picture.
Sound = Literal["own", "another's", "none"]
AS_IT_IS = "The sound of the other file is taken as it is."
MOST = Fraction(1, 10)  # by which a film may be taken faster or slower (common practice)
# What was heard of the sound: faster, or slower, it is another.
HEARD = {
    "sound.loudness",
    "sound.true_peak",
    "sound.max_short_term",
    "sound.max_momentary",
    "sound.loudness_range",
}
TIMES = {"file.duration", "sound.start_offset", "sound.length_difference"}
SEMITONES = 12


@dataclass(frozen=True)
class Speed:
    """How fast a film is taken.

    Attributes:
        own: its own frames a second; None of sound alone.
        times: how many times as fast as that it is taken.
        pitch: whether the sound's pitch is kept, or follows.
    """

    own: Fraction | None
    times: Fraction = Fraction(1)
    pitch: Pitch = "kept"

    def taken(self, master: Facts) -> Facts:
        """Give a master's facts as it is taken: what was measured of its loudness no longer
        counts.
        """
        if self.times == 1 or self.own is None:
            return master
        known = {key: self._fact(key, fact) for key, fact in master.items()}
        kept = {key: fact for key, fact in known.items() if split_track(key)[0] not in HEARD}
        return Facts(kept).with_values("assumed", {"motion.rate": self.own * self.times})

    def _fact(self, key: str, fact: Fact) -> Fact:
        if split_track(key)[0] not in TIMES or fact.value is None:
            return fact
        return Fact(measured=fraction(fact.value) / self.times)

    def choices(self, made: Fraction | None, sound: Sound) -> dict[str, str]:
        """Give what is chosen of it, where there is something to choose: a film that could be taken
        at the rate of what is made, or is; and the pitch of sound that goes along.
        """
        pitch = {PITCH: self.pitch} if sound == "own" else {}
        if self.times != 1 and self.own is not None:
            return {SPEED: str(self.own * self.times)} | pitch
        return {} if self.natural(made) is None else {SPEED: ""} | pitch

    def natural(self, made: Fraction | None) -> Fraction | None:
        """Give the rate at which every frame goes once, or twice, into one that is made, where
        little is wanting to that.
        """
        if self.own is None or made is None:
            return None
        rates = [made, made / 2, made * 2]
        near = min(rates, key=lambda rate: abs(rate / (self.own or 1) - 1))
        return near if 0 < abs(near / self.own - 1) <= MOST else None

    def notes(self, sound: Sound) -> Notes:
        """Say what it does to picture, length and sound."""
        if self.times == 1 or self.own is None:
            return NOTHING
        much = float(abs(self.times - 1) * 100)
        word, length = ("faster", "shorter") if self.times > 1 else ("slower", "longer")
        less = float(abs(1 / self.times - 1) * 100)
        heard = {"own": f" {self._heard}", "another's": f" {AS_IT_IS}", "none": ""}[sound]
        said = step(
            f"{shown(self.own)} fps taken at {shown(self.own * self.times)}",
            f"Every frame is taken once: {much:.3g} % {word}, {less:.3g} % {length}.{heard}",
            "motion.rate",
            "file.duration",
        )
        return said + self._left_behind(sound)

    def _left_behind(self, sound: Sound) -> Notes:
        if sound != "another's":
            return NOTHING
        return caution(
            "sound.length_difference",
            "The sound of the other file is not taken faster or slower with the picture.",
            "Only sound that was made for the picture at this speed stays in step with it.",
            f"{float(self.times):.4g} times as fast",
            "Look at a few lips in the finished file, or leave the speed as it is.",
        )

    @property
    def _heard(self) -> str:
        if self.pitch == "kept":
            return "The sound goes along, its pitch kept."
        moved = SEMITONES * log2(self.times)
        way = "higher" if moved > 0 else "lower"
        return f"The sound goes along, {abs(moved):.2f} semitones {way}."


def shown(rate: Fraction) -> str:
    """Say a rate."""
    return f"{float(rate):.5g}"


def speed_of(master: Facts, choices: Mapping[str, Any]) -> Speed:
    """Read how fast a film is taken.

    Args:
        master: facts of the whole master.
        choices: `speed`, frames a second at which it is taken, "" for its own; and `pitch`.

    Raises:
        BadValue: it is no rate, or far from the master's; or the master has none.
    """
    pitch = _pitch(str(choices.get(PITCH) or PITCHES[0]))
    still, steady = programme.still(master), master.value("motion.steady") is not False
    own = master.fraction("motion.rate") if steady and not still else None
    text = str(choices.get(SPEED) or "")
    if not text:
        return Speed(own, pitch=pitch)
    if own is None:
        raise BadValue(
            "This master has no even frame rate that it could be taken faster or slower than.",
            "Leave its speed as it is.",
        )
    rate = _rate(text)
    if abs(rate / own - 1) > MOST:
        raise BadValue(
            f"{shown(own)} fps taken at {shown(rate)} would be {float(rate / own):.3g} times as "
            f"fast.",
            f"Choose a rate within {float(MOST):.0%} of the master's.",
        )
    return Speed(own, rate / own, pitch)


def _pitch(text: str) -> Pitch:
    for pitch in PITCHES:
        if text == pitch:
            return pitch
    raise BadValue(f"'{text}' is nothing that is done to pitch.", "Choose kept or follows.")


def _rate(text: str) -> Fraction:
    try:
        rate = Fraction(text)
    except (ValueError, ZeroDivisionError):
        rate = Fraction(0)
    if rate <= 0:
        raise BadValue(f"'{text}' is no frame rate.", "Write one, such as 25 or 24000/1001.")
    return rate
