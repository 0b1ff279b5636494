"""Sound by loudspeaker: which channels a layout has, and how those of one are brought to another.

Layout names differ from file to file for the same thing (surrounds at the side or at the back are
both called 5.1), so that nothing here is decided by a name: a name is only read as its
loudspeakers.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from ..errors import Impossible

Speakers = tuple[str, ...]
Kind = Literal["keep", "fold", "double", "sum", "set"]
# In the codec library's order; tests/media holds them against the library's own.
LAYOUTS: dict[str, Speakers] = {
    "mono": ("FC",),
    "stereo": ("FL", "FR"),
    "downmix": ("DL", "DR"),
    "2.1": ("FL", "FR", "LFE"),
    "3.0": ("FL", "FR", "FC"),
    "3.0(back)": ("FL", "FR", "BC"),
    "3.1": ("FL", "FR", "FC", "LFE"),
    "4.0": ("FL", "FR", "FC", "BC"),
    "quad": ("FL", "FR", "BL", "BR"),
    "quad(side)": ("FL", "FR", "SL", "SR"),
    "5.0": ("FL", "FR", "FC", "BL", "BR"),
    "5.0(side)": ("FL", "FR", "FC", "SL", "SR"),
    "5.1": ("FL", "FR", "FC", "LFE", "BL", "BR"),
    "5.1(side)": ("FL", "FR", "FC", "LFE", "SL", "SR"),
    "6.1": ("FL", "FR", "FC", "LFE", "BC", "SL", "SR"),
    "7.0": ("FL", "FR", "FC", "BL", "BR", "SL", "SR"),
    "7.1": ("FL", "FR", "FC", "LFE", "BL", "BR", "SL", "SR"),
}
# Those that people name; "downmix" is only ever read, as stereo.
NAMED = tuple(name for name in LAYOUTS if name != "downmix")
# The layout that so many channels usually are.
USUAL = {1: "mono", 2: "stereo", 6: "5.1", 8: "7.1"}
# And a layout with so many, for channels that are taken one by one.
ANY = USUAL | {4: "quad"}
# -3 dB as a fraction good to six places.
LESS_3_DB = Fraction(707107, 1_000_000)
NOTHING, WHOLE, HALF = Fraction(0), Fraction(1), Fraction(1, 2)
# ITU-R BS.775-4, Annex 4, Table 2: what each loudspeaker gives to left and right. The LFE is left
# out there too; that a second pair of surrounds goes in like the first is common practice.
TO_STEREO: dict[str, tuple[Fraction, Fraction]] = {
    "FL": (WHOLE, NOTHING),
    "FR": (NOTHING, WHOLE),
    "DL": (WHOLE, NOTHING),
    "DR": (NOTHING, WHOLE),
    "FC": (LESS_3_DB, LESS_3_DB),
    "LFE": (NOTHING, NOTHING),
    "BL": (LESS_3_DB, NOTHING),
    "BR": (NOTHING, LESS_3_DB),
    "SL": (LESS_3_DB, NOTHING),
    "SR": (NOTHING, LESS_3_DB),
    "BC": (HALF, HALF),
}
# Surrounds at the side and at the back stand for each other where a file has one pair only.
TWINS = {"BL": "SL", "BR": "SR", "SL": "BL", "SR": "BR"}


@dataclass(frozen=True)
class Mix:
    """How channels are brought to others.

    Attributes:
        kind: in a word.
        gains: a row a channel made, in it a figure a channel taken.
    """

    kind: Kind
    gains: tuple[tuple[Fraction, ...], ...]


def of_name(layout: str) -> Speakers | None:
    """Give the loudspeakers that a layout's name means; None for a name that is not known."""
    return LAYOUTS.get(layout)


def count(layout: str) -> int | None:
    """Give how many channels a layout has; None for a name that is not known."""
    speakers = LAYOUTS.get(layout)
    return None if speakers is None else len(speakers)


def mix(have: Speakers, want: Speakers) -> Mix:
    """Bring the channels of some loudspeakers to those of others.

    Args:
        have: loudspeakers of the channels taken, in their order.
        want: loudspeakers of the channels made, in their order.

    Raises:
        Impossible: the ones cannot be made from the others.
    """
    if len(have) == 1:
        # One channel is mono, whichever loudspeaker a file ties it to.
        have = ("FC",)
    if want == ("FC",):
        return Mix("keep", ((WHOLE,),)) if have == want else Mix("sum", (_halves(have),))
    if have == ("FC",):
        if want != ("FL", "FR"):
            raise _impossible(have, want)
        return Mix("double", ((WHOLE,), (WHOLE,)))
    if len(have) == len(want) == 2 and not {"FC", "LFE"} & set(have):
        # A pair is a pair, whichever loudspeakers a file ties it to.
        return Mix("keep", ((WHOLE, NOTHING), (NOTHING, WHOLE)))
    if set(want) == {"FL", "FR"}:
        return Mix("fold", _stereo(have))
    return Mix("keep" if same(have, want) else "fold", tuple(_row(have, want, one) for one in want))


def same(have: Speakers, want: Speakers) -> bool:
    """Say whether every loudspeaker of one is there in the other, twins taken for each other."""
    return len(have) == len(want) and all(_place(have, want, one) is not None for one in want)


def _place(have: Speakers, want: Speakers, one: str) -> int | None:
    """Find the channel taken for a loudspeaker."""
    if one in have:
        return have.index(one)
    twin = TWINS.get(one, "")
    return have.index(twin) if twin in have and twin not in want else None


def _row(have: Speakers, want: Speakers, one: str) -> tuple[Fraction, ...]:
    place = _place(have, want, one)
    if one == "LFE" and place is None:
        return (NOTHING,) * len(have)
    if place is None:
        raise _impossible(have, want)
    gains = [WHOLE if n == place else NOTHING for n in range(len(have))]
    twin = TWINS.get(one, "")
    if twin in have and twin not in want and have.index(twin) != place:
        # Two pairs of surrounds become one, each at -3 dB (common practice).
        gains[place] = gains[have.index(twin)] = LESS_3_DB
    return tuple(gains)


def _stereo(have: Speakers) -> tuple[tuple[Fraction, ...], tuple[Fraction, ...]]:
    odd = [one for one in have if one not in TO_STEREO]
    if odd:
        raise Impossible(
            f"The loudspeaker {odd[0]} has no place in stereo that is laid down.",
            "Ask for the stereo mix, or correct the layout of the master's sound.",
        )
    return tuple(TO_STEREO[one][0] for one in have), tuple(TO_STEREO[one][1] for one in have)


def _halves(have: Speakers) -> tuple[Fraction, ...]:
    left, right = _stereo(have)
    return tuple((a + b) / 2 for a, b in zip(left, right, strict=True))


def _impossible(have: Speakers, want: Speakers) -> Impossible:
    return Impossible(
        f"{' '.join(want)} cannot be made from {' '.join(have)}.",
        "Hand in the mix in the layout asked for.",
    )
