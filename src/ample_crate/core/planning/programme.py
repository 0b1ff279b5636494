"""What of a master is delivered: a range of it, upright, on one of the trade's clocks, with the
sound that was chosen.

Plans are made of this, and ledgers look back at it: "as the master" means as the master is meant to
be seen and heard.
"""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from .. import formats
from ..errors import BadValue
from ..facts import Fact, Facts
from ..facts.properties import lookup, split_track, track_key
from ..facts.span import Span, within
from ..formats.wrapper import Wrapper
from ..specs.requirement import Requirement
from ..specs.rules import Ask, Rule
from ..specs.spec import Spec
from ..units import loudspeakers
from ..units.values import Size, Value

TRADE_RATES = tuple(Fraction(text) for text in lookup("motion.rate").corrections)
ROUNDED = Fraction(1, 50)  # of an average over few frames whose last one's length is a guess
SILENT = -60  # dBTP; a track that never rises above this carries no programme
# Mono tracks that belong together, by how many there are; as the usual layouts are.
TOGETHER = {2: "stereo", 6: "5.1", 8: "7.1"}
TRACKS, CHANNELS = "tracks", "channels"
PAIR = 2
# What stays known of a track of which some channels are taken.
OF_ITS_PLACE = {"sound.start_offset", "sound.length_difference"}


def of(master: Facts, span: Span | None = None, choices: Mapping[str, Any] | None = None) -> Facts:
    """Give the facts of what is delivered.

    Raises:
        BadValue: the range lies outside the master, or the tracks or channels chosen are none of
            its.
    """
    chosen, places = (str((choices or {}).get(key, "")) for key in (TRACKS, CHANNELS))
    heard = _heard(_upright(_steady(within(master, span))), chosen)
    return _of_channels(heard, channels(master, chosen, places))


def _steady(master: Facts) -> Facts:
    """Take a master whose frames do not last equally long at the trade's rate next to its
    average.
    """
    rate = master.fraction("motion.rate")
    if master.value("motion.steady") is not False or not rate or rate in TRADE_RATES:
        return master
    return master.with_values(
        "assumed", {"motion.rate": trade_rate(rate, master.fact("motion.rate").declared)}
    )


def trade_rate(average: Fraction, nominal: object = None) -> Fraction:
    """Give the trade's rate that an uneven clock stands for.

    Cameras that leave frames out fall below their rate: it is the lowest of the trade's that is not
    under the average, unless the header names one of them. An average beyond all of them gives the
    highest.
    """
    least = average * (1 - ROUNDED)
    if isinstance(nominal, Fraction) and nominal in TRADE_RATES and nominal >= least:
        return nominal
    whole = [rate for rate in TRADE_RATES if rate.denominator == 1]
    return next((rate for rate in whole if rate >= least), whole[-1])


def place_of(master: Facts) -> Wrapper | None:
    """Give the row of a master's wrapper, where it has one."""
    return formats.WRAPPERS.get(str(master.value("file.wrapper")))


def still(master: Facts) -> bool:
    """Say whether a master is one image."""
    row = place_of(master)
    return row is not None and row.still


def turned(master: Facts) -> int:
    """Give by how many degrees, anticlockwise, players are asked to turn the picture."""
    return int(master.value("picture.rotation") or 0) % 360


def _upright(master: Facts) -> Facts:
    if turned(master) not in {90, 270}:
        return master
    values: dict[str, Value] = {}
    size = master.value("picture.size")
    if size is not None:
        values["picture.size"] = Size(size.height, size.width)
    for key in ("picture.pixel_aspect", "picture.display_aspect"):
        aspect = master.fraction(key)
        if aspect:
            values[key] = 1 / aspect
    return Facts(
        dict(master.items()) | {key: Fact(measured=value) for key, value in values.items()}
    )


def asked_of(spec: Spec, master: Facts) -> Spec:
    """Give what a spec asks of a master: of one that lies on its side, that it stands upright by
    itself.

    No recipient says so, and hardly any heeds the flag that asks players to turn a picture (common
    practice).
    """
    if not turned(master) or any(r.property == "picture.rotation" for r in spec.everything()):
        return spec
    upright = Requirement(
        property="picture.rotation",
        rule=Rule.model_validate({"is": 0}),
        source="common practice",
        # Sound alone lies on no side.
        when=Ask.model_validate({"property": "picture.size", "rule": {"present": True}}),
        note="Most recipients ignore the flag that asks players to turn a picture.",
    )
    return spec.besides(upright)


def carrying(master: Facts) -> list[int]:
    """List the sound tracks that carry programme; one of which too little is known counts."""
    tracks = range(1, int(master.value("sound.tracks") or 0) + 1)
    return [n for n in tracks if not _silent(master, n)]


def _silent(master: Facts, track: int) -> bool:
    peak = master.value(track_key("sound.true_peak", track))
    return peak is not None and peak <= SILENT


def tracks(master: Facts, chosen: str = "") -> list[int] | None:
    """Give the tracks whose channels are delivered; None where several carry programme and nobody
    chose.

    Args:
        master: the master's facts.
        chosen: a track by its number, or mono tracks that belong together, as "1+2".

    Raises:
        BadValue: what was chosen is none of what there is to choose.
    """
    count = int(master.value("sound.tracks") or 0)
    if chosen and count:
        if chosen not in dict(options(master)):
            offered = ", ".join(value for value, _ in options(master)) or "none"
            raise BadValue(f"'{chosen}' are no tracks of this master.", f"There are {offered}.")
        return [int(n) for n in chosen.split("+")]
    found = carrying(master) or list(range(1, min(count, 1) + 1))
    return found if len(found) <= 1 else None


def options(master: Facts) -> list[tuple[str, str]]:
    """List what can be chosen of a master's sound tracks: each value, and what it says.

    Mono tracks that follow each other can be taken together: two as stereo, six as 5.1, eight as
    7.1.
    """
    count = int(master.value("sound.tracks") or 0)
    each = [(str(n), f"track {n}: {_about(master, n)}") for n in range(1, count + 1)]
    mono = [n for n in range(1, count + 1) if master.value(track_key("sound.channels", n)) == 1]
    for size, layout in TOGETHER.items():
        for first in range(1, count - size + 2, size):
            run = list(range(first, first + size))
            if all(n in mono for n in run):
                joined = "+".join(map(str, run))
                each.append((joined, f"tracks {joined} as {layout}"))
    return each


def channels(master: Facts, chosen: str = "", places: str = "") -> list[int] | None:
    """Give the channels of a track that are delivered, counted from 1; None for all of them.

    Args:
        master: the master's facts.
        chosen: the track, as for `tracks`.
        places: the channels in the order in which they are taken, as "3+4"; empty for all.

    Raises:
        BadValue: they are none of one track, or no layout has so many.
    """
    if not places:
        return None
    taken = tracks(master, chosen)
    count = _count_in(master, taken)
    way_out = "Choose one track, and channels of it by their numbers, such as 3+4."
    if not count:
        raise BadValue("Channels are taken out of one track, and none is chosen.", way_out)
    found = [int(n) for n in places.split("+") if n.isdecimal()]
    if len(found) != places.count("+") + 1 or len(set(found)) < len(found):
        raise BadValue(f"'{places}' does not name channels.", way_out)
    if not all(1 <= n <= count for n in found) or len(found) not in loudspeakers.ANY:
        sizes = " or ".join(str(n) for n in sorted(loudspeakers.ANY) if n <= count)
        raise BadValue(
            f"'{places}' is no choice of channels of a track that has {count}.",
            f"Choose {sizes} of them, by numbers from 1 to {count}.",
        )
    return found


def _count_in(master: Facts, taken: list[int] | None) -> int:
    """Count the channels of the one track that goes out; 0 where it is not one."""
    if taken is None or len(taken) != 1:
        return 0
    return int(master.value(track_key("sound.channels", taken[0])) or 0)


def channel_options(master: Facts, chosen: str = "") -> list[tuple[str, str]]:
    """List what is usually taken out of a track of more than two channels: each value, and what it
    says; pairs and single channels, and six beside a pair.
    """
    taken = tracks(master, chosen)
    count = _count_in(master, taken)
    if taken is None or count <= PAIR:
        return []
    names = str(master.value(track_key("sound.speakers", taken[0])) or "").split()
    names = names if len(names) == count else [""] * count
    runs = [range(n, n + 2) for n in range(1, count, 2)]
    runs += [range(n, n + 6) for n in (1, 3) if n + 5 <= count and count > 6]
    runs += [range(n, n + 1) for n in range(1, count + 1)]
    found = []
    for run in runs:
        numbers = "+".join(map(str, run))
        speakers = " ".join(names[n - 1] for n in run).strip()
        layout = loudspeakers.ANY[len(run)]
        found.append((numbers, f"{numbers} as {layout}" + (f": {speakers}" if speakers else "")))
    return found


def _of_channels(master: Facts, places: list[int] | None) -> Facts:
    """Give the facts of some channels of the first track: what was heard of all of them says
    nothing of these.
    """
    if places is None:
        return master
    kept = Facts(
        {
            key: fact
            for key, fact in master.items()
            if not (key.startswith("sound.") and split_track(key)[1] == 1)
            or lookup(key).proof == "declared"
            or key in OF_ITS_PLACE
        }
    )
    return kept.with_values("assumed", _layout_of(len(places)))


def _layout_of(count: int) -> dict[str, Value]:
    layout = loudspeakers.ANY[count]
    return {
        "sound.channels": count,
        "sound.layout": layout,
        "sound.speakers": " ".join(loudspeakers.LAYOUTS[layout]),
    }


def _about(master: Facts, track: int) -> str:
    said = [
        str(master.value(track_key(key, track)) or "") for key in ("sound.layout", "sound.language")
    ]
    loudness = master.value(track_key("sound.loudness", track))
    heard = (
        "silent"
        if _silent(master, track)
        else f"{float(loudness):.1f} LUFS"
        if loudness is not None
        else ""
    )
    return ", ".join(part for part in (*said, heard) if part)


def _heard(master: Facts, chosen: str) -> Facts:
    """Put the chosen tracks in the first one's place."""
    taken = tracks(master, chosen)
    if not taken or taken == [1]:
        return master
    mine = {key for key in master if key.startswith("sound.") and split_track(key)[1] == 1}
    table = {key: fact for key, fact in master.items() if key not in mine - {"sound.tracks"}}
    for key, fact in master.items():
        base, track = split_track(key)
        if track == taken[0] and key.startswith("sound.") and base != "sound.tracks":
            table[base] = fact
    made = Facts(table)
    if len(taken) == 1:
        return made
    return made.with_values("assumed", _layout_of(len(taken)))
