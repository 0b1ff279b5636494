"""Which channels of a master go into which sound track, and what is said of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..errors import Impossible
from ..facts import Facts
from ..facts.properties import split_track, track_key
from ..specs.rules import test
from ..units import loudspeakers
from . import programme
from .notes import Notes, caution, question, step
from .request import Request


@dataclass(frozen=True)
class Channel:
    """A channel of a master: its track, counted from 1, its place there, and its loudspeaker."""

    track: int
    place: int
    speaker: str

    @property
    def at(self) -> tuple[int, int]:
        """Give its track and its place there."""
        return self.track, self.place


@dataclass(frozen=True)
class Group:
    """What one track is made of.

    Attributes:
        tracks: of the master, in the order of their channels; none for silence.
        channels: how many those tracks have in all.
        mix: how they become the track's.
    """

    tracks: tuple[int, ...]
    channels: int
    mix: loudspeakers.Mix | None


def speakers_of(master: Facts, track: int = 1) -> loudspeakers.Speakers:
    """Give the loudspeakers of a master's sound: those that a person says, the stream names, or its
    layout means.

    Raises:
        Impossible: nobody says which channel is which.
    """
    layout = master.fact(track_key("sound.layout", track))
    count = int(master.value(track_key("sound.channels", track)) or 0)
    said = str(master.value(track_key("sound.speakers", track)) or "")
    known = None
    if layout.assumed is not None:
        known = loudspeakers.of_name(str(layout.assumed))
    elif said:
        known = tuple(said.split())
    elif layout.value is not None:
        known = loudspeakers.of_name(str(layout.value))
    usual = {0: "stereo", 1: "mono", 2: "stereo"}.get(count)
    if known is None and usual is not None:
        known = loudspeakers.LAYOUTS[usual]
    if known is None or (count and len(known) != count):
        raise Impossible(
            f"Nobody says which loudspeakers the {count} channels of the master are for.",
            "Say so on the master's page: correct the layout of its sound.",
        )
    return known


def channels_of(master: Facts, tracks: Sequence[int]) -> list[Channel]:
    """List the channels of some tracks, in their order."""
    return [
        Channel(track, place, speaker)
        for track in tracks
        for place, speaker in enumerate(speakers_of(master, track))
    ]


def channel_count(master: Facts, track: int) -> int:
    """Count the channels of a track."""
    return int(master.value(track_key("sound.channels", track)) or 0) or len(
        speakers_of(master, track)
    )


def picked(master: Facts, group: Group, places: Sequence[int]) -> Group:
    """Take some channels of a track, counted from 1, for what is made of as many."""
    count = channel_count(master, group.tracks[0])
    assert group.mix is not None
    gains = tuple(
        tuple(row[places.index(n)] if n in places else Fraction(0) for n in range(1, count + 1))
        for row in group.mix.gains
    )
    return Group(group.tracks, count, loudspeakers.Mix(group.mix.kind, gains))


def delivered(master: Facts, chosen: Sequence[int] | None) -> list[int]:
    """List the tracks that go out where several may: the chosen ones, else all that carry
    programme.
    """
    return list(chosen or programme.carrying(master) or [1])


def spread(
    master: Facts,
    tracks: Sequence[int],
    count: int,
    layout: str,
    one_by_one: bool = False,
    places: Sequence[int] | None = None,
) -> list[Group]:
    """Say what each of so many tracks of a layout is made of.

    As many tracks as the master has are made one of one. Otherwise its channels are dealt out in
    their order, and tracks for which there are none are silent; `one_by_one` has that done in any
    case, and so have chosen channels of one track (`places`, counted from 1).

    Raises:
        Impossible: there are more channels than places for them.
    """
    want = loudspeakers.LAYOUTS[layout]
    if len(tracks) == count and not one_by_one and places is None:
        return [_whole(master, track, want) for track in tracks]
    if places is None:
        channels = channels_of(master, tracks)
    else:
        channels = [Channel(tracks[0], place - 1, "") for place in places]
    if len(channels) > count * len(want):
        raise Impossible(
            f"The master's {len(channels)} channels have no place in {count} tracks of {layout}.",
            "Choose the tracks that go out, or more tracks if the spec allows them.",
        )
    dealt = [channels[n * len(want) : (n + 1) * len(want)] for n in range(count)]
    return [_dealt(master, part, len(want)) for part in dealt]


def asked(request: Request) -> int:
    """Give the last track that is asked for by its number, or 0."""
    numbers = [
        split_track(rule.property)[1]
        for rule in request.spec.requirements
        if rule.property.startswith("sound.")
        and "@" in rule.property
        and rule.rule.present is not False
        and request.values.counts(rule)
    ]
    return max(numbers, default=0)


def each_its_own(master: Facts, tracks: Sequence[int], layouts: Sequence[str]) -> list[Group]:
    """Say what tracks of several layouts are made of: of the master's that has the very
    loudspeakers, else of the first.

    Raises:
        Impossible: one cannot be made of it.
    """
    made = []
    for layout in layouts:
        alike = of_layout(master, tracks, layout)
        made.append(_whole(master, (alike or tracks)[0], loudspeakers.LAYOUTS[layout]))
    return made


def of_layout(master: Facts, tracks: Sequence[int], layout: str) -> list[int]:
    """List the tracks that have the very loudspeakers of a layout."""
    want = loudspeakers.LAYOUTS[layout]
    return [n for n in tracks if loudspeakers.same(speakers_of(master, n), want)]


def _whole(master: Facts, track: int, want: loudspeakers.Speakers) -> Group:
    have = speakers_of(master, track)
    return Group((track,), len(have), loudspeakers.mix(have, want))


def _dealt(master: Facts, part: Sequence[Channel], want: int) -> Group:
    """Take channels as they are; places that are left over are silent."""
    if not part:
        return Group((), want, None)
    tracks = tuple(dict.fromkeys(one.track for one in part))
    held = [(track, place) for track in tracks for place in range(channel_count(master, track))]
    if len(tracks) > 1 and len(held) != len(tracks):
        raise Impossible(
            f"Channels of the master's tracks {' and '.join(map(str, tracks))} would share a "
            f"track; only mono tracks are put together here.",
            "Ask for mono tracks, or for a master with mono tracks.",
        )
    gains = tuple(
        tuple(Fraction(n < len(part) and other == part[n].at) for other in held)
        for n in range(want)
    )
    return Group(tracks, len(held), loudspeakers.Mix("keep", gains))


def tracks_taken(request: Request, tracks: int) -> Notes:
    """Say which of the master's tracks go out, or ask."""
    master, sources = request.master, request.tracks
    if sources is None:
        all_fit = all(test(r)(tracks) for r in request.spec.on("sound.tracks") if r.when is None)
        return which(master, tracks, all_fit and bool(request.spec.on("sound.tracks")))
    return going(master, tracks, sources)


def going(master: Facts, tracks: int, sources: Sequence[int]) -> Notes:
    """Say which of so many tracks go out, and which stay behind."""
    taken = (
        " and ".join(map(str, sources)) if len(sources) < 3 else f"{sources[0]} to {sources[-1]}"
    )
    word = "Track" if len(sources) == 1 else "Tracks"
    left = [n for n in programme.carrying(master) if n not in sources]
    said = step(
        f"{word} {taken} of {tracks}",
        "As chosen." if left else "The others are silent, or taken too.",
        "sound.tracks",
    )
    if not left:
        return said
    return said + caution(
        "sound.tracks",
        f"Of {tracks} sound tracks {taken} {'goes' if len(sources) == 1 else 'go'} out.",
        "The others carry programme too and do not reach the recipient.",
        f"left out: {', '.join(map(str, left))}",
        "Choose other tracks if these are not the ones.",
    )


def which(master: Facts, tracks: int, all_fit: bool) -> Notes:
    """Ask which of several tracks goes out; `all_fit` says whether the spec takes all of them."""
    more = f", or {tracks} sound tracks" if all_fit else ""
    offered = programme.options(master)
    return question(
        programme.TRACKS,
        "sound.tracks",
        f"{len(programme.carrying(master))} of the master's {tracks} sound tracks carry "
        f"programme: which one goes out?",
        "One track goes out; whatever is not chosen does not reach the recipient.",
        "; ".join(said for _, said in offered),
        f"Choose the tracks: {', '.join(value for value, _ in offered)}{more}.",
    )
